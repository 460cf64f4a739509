import { z } from 'zod';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';
import { keySchema } from './tables.ts';

/*
 * A feed: an outside JSON service, read through the server. The definition says how it is asked and where in its answer
 * the items are; secrets of headers are kept by the server and are no part of it.
 */

export const FEED_TYPES = ['text', 'number', 'date', 'yesno'] as const;
export type FeedType = (typeof FEED_TYPES)[number];

/** A way into an answer: names and places joined by dots (`data.items`, `names.0`); blank is the whole. */
const path = z
  .string()
  .trim()
  .max(200)
  .regex(/^([^.\s]+(\.[^.\s]+)*)?$/, 'A path is names joined by dots, without spaces.');

export const feedParameterSchema = z.object({
  key: keySchema,
  label: z.string().trim().min(1).max(120),
  type: z.enum(FEED_TYPES).default('text'),
  /** without it the service is not asked */
  required: z.boolean().default(true),
  /** what the try-it panel starts with */
  example: z.string().max(200).default(''),
});
export const feedAttributeSchema = z.object({
  key: keySchema,
  label: z.string().trim().min(1).max(120),
  type: z.enum(FEED_TYPES).default('text'),
  path,
});
export const feedHeaderSchema = z.object({
  name: z.string().regex(/^[A-Za-z0-9-]{1,60}$/, 'A header name has letters, digits and hyphens only.'),
  /** the value; null when it is a secret, which the server keeps and never sends back */
  value: z.string().max(1000).nullable(),
});

export const feedSchema = z.object({
  key: keySchema,
  label: z.string().trim().min(1).max(120),
  method: z.enum(['GET', 'POST']).default('GET'),
  /** the address with `{name}` where a parameter goes; a path alone is a service that ships with the application */
  url: z.string().trim().min(1).max(1000),
  /** POST: JSON with `"{name}"` where a parameter goes */
  body: z.string().max(10_000).default(''),
  headers: z.array(feedHeaderSchema).max(20).default([]),
  params: z.array(feedParameterSchema).max(20).default([]),
  /** where the list of items is; blank when the whole answer is it, or is the one item */
  items: path.default(''),
  /** inside an item: what is stored, and what is shown (blank: the same); blank value: the item itself */
  value: path.default(''),
  label_path: path.default(''),
  attributes: z.array(feedAttributeSchema).max(40).default([]),
  /** how long one try may take, in seconds */
  timeout: z.number().min(0.1).max(60).default(5),
  /** the largest answer read, in kilobytes */
  limit: z.number().int().min(1).max(10_000).default(500),
  /** how long an answer is kept, in seconds; 0 asks each time */
  keep: z.number().int().min(0).max(86_400).default(300),
  /** tries after the first that failed */
  retries: z.number().int().min(0).max(5).default(1),
});
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
