import type { z } from 'zod';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';
import type { feedSchema } from './schemas.ts';

/*
 * A feed: an outside JSON service, read through the server. The definition says how it is asked and where in its answer
 * the items are; secrets of headers are kept by the server and are no part of it.
 */

export const FEED_TYPES = ['text', 'number', 'date', 'yesno'] as const;
export type FeedType = (typeof FEED_TYPES)[number];
export type Feed = z.infer<typeof feedSchema>;
export type Feeds = ReadonlyMap<string, Feed>;

/** The names in `{…}` of a template. */
export const holesOf = (template: string): string[] => [...template.matchAll(/\{([^{}]*)\}/g)].map((m) => (m[1] ?? '').trim());

/** What is wrong with a feed, one sentence each. */
export function feedProblems(feed: Feed): string[] {
  const problems: string[] = [];
  const known = new Set(feed.params.map((p) => p.key));
  if (known.size !== feed.params.length) problems.push('Two values have the same name.');
  for (const hole of [...holesOf(feed.url), ...holesOf(feed.method === 'POST' ? feed.body : '')]) {
    if (!known.has(hole) && /^[a-z]/.test(hole))
      problems.push(`The address has a place {${hole}}, but the feed takes no value of that name.`);
  }
  const used = new Set([...holesOf(feed.url), ...(feed.method === 'POST' ? holesOf(feed.body) : [])]);
  for (const p of feed.params)
    if (!used.has(p.key)) problems.push(`The value ${p.label} is used nowhere: write {${p.key}} into the address.`);
  const attributes = new Set(feed.attributes.map((a) => a.key));
  if (attributes.size !== feed.attributes.length) problems.push('Two attributes have the same name.');
  return problems;
}

export const feedType = (type: FeedType): Type => (type === 'text' ? T.TEXT : { kind: type });
/** What a chosen item of a feed has, by name: its label and its attributes. */
export function feedMembers(feed: Feed): ReadonlyMap<string, Type> {
  return new Map<string, Type>([['label', T.TEXT], ...feed.attributes.map((a) => [a.key, feedType(a.type)] as const)]);
}
