import { createHash } from 'node:crypto';
import type { Database } from '../database/connection';
import { onDisk } from '../database/later';
import { addRequest, dropRequestsBefore, requestByKey } from '../database/requests';
import { Refused } from './errors';

/*
 * A save is asked for under a key of its own, so that a browser that had no answer can ask again without saving twice. The key
 * belongs to the account, the form and what was sent: for anything else it is refused, not answered with another's record.
 */
export interface RequestAsked {
  readonly key: string;
  readonly account: number;
  readonly form: string;
  /** a fingerprint of what was sent */
  readonly body: string;
}

/** A fingerprint of what is asked; the same for the same content. */
export const fingerprintOf = (content: unknown): string => createHash('sha256').update(JSON.stringify(content)).digest('base64');

const same = (a: RequestAsked, b: RequestAsked): boolean => a.account === b.account && a.form === b.form && a.body === b.body;
const reused = (record: number | null = null): Refused =>
  new Refused(409, 'requestReused', 'This request was made before with something else in it. Save again.', { record });

/** Requests under way, by key: asked again meanwhile they wait for the first answer. */
const underWay = new Map<string, { readonly asked: RequestAsked; readonly answer: Promise<unknown> }>();

/** What a request was answered before, or else what the work gives; the same request at the same time does the work once. */
export async function savedOnce<T>(db: Database, asked: RequestAsked, work: () => Promise<T>): Promise<T> {
  const before = underWay.get(asked.key);
  if (before) {
    if (!same(before.asked, asked)) throw reused();
    return before.answer as Promise<T>;
  }
  const answer = earlierOr(db, asked, work).finally(() => underWay.delete(asked.key));
  underWay.set(asked.key, { asked, answer });
  return answer;
}

async function earlierOr<T>(db: Database, asked: RequestAsked, work: () => Promise<T>): Promise<T> {
  const row = await requestByKey(db, asked.key);
  if (!row) return work();
  // before the form and the content were kept with a request, the account alone told whose it was
  const fits =
    row.form_key === ''
      ? row.account_id === asked.account
      : same({ key: row.key, account: row.account_id, form: row.form_key, body: row.body }, asked);
  if (!fits) {
    const own = row.account_id === asked.account && row.form_key === asked.form;
    throw reused(own ? ((JSON.parse(row.answer) as { id?: number }).id ?? null) : null);
  }
  // the process that wrote it may still wait for the disk
  await onDisk(db);
  return JSON.parse(row.answer) as T;
}

/** How long an answer is kept for whoever asks again, in days: longer than a browser that was closed keeps what was typed. */
const KEPT_DAYS = 90;
/** Forgets the answers of requests that are old. `now` is the time by the clock, as ISO text. */
export async function pruneRequests(db: Database, now: string): Promise<void> {
  const before = new Date(Date.parse(`${now}Z`) - KEPT_DAYS * 86_400_000);
  await dropRequestsBefore(db, before.toISOString().slice(0, 19));
}

/** Keeps an answer, in the transaction of what it answers. */
export const keepAnswer = (db: Database, { key, account, form, body }: RequestAsked, answer: unknown, at: string): Promise<void> =>
  addRequest(db, { key, account_id: account, form_key: form, body, answer: JSON.stringify(answer), at });
