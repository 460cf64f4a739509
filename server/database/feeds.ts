import type { Database } from './connection';

/** A feed as it is kept: its definition and its secrets as JSON text. */
export interface FeedRow {
  readonly key: string;
  readonly label: string;
  readonly definition: string;
  readonly secrets: string;
  readonly revision: number;
}
export interface FeedStamp {
  readonly at: string;
  readonly account: number | null;
}

export const feedRows = async (db: Database): Promise<FeedRow[]> => (await db('feeds').orderBy('label')) as FeedRow[];
export const feedRow = async (db: Database, key: string): Promise<FeedRow | null> =>
  ((await db('feeds').where({ key }).first()) as FeedRow | undefined) ?? null;

export async function insertFeed(db: Database, feed: Omit<FeedRow, 'revision'>, { at, account }: FeedStamp): Promise<void> {
  await db('feeds').insert({ ...feed, changed_at: at, changed_by: account });
}
/** Writes a feed that still has this revision; false when it has another. */
export async function updateFeed(db: Database, feed: FeedRow, { at, account }: FeedStamp): Promise<boolean> {
  const { key, revision, ...rest } = feed;
  const change = { ...rest, revision: revision + 1, changed_at: at, changed_by: account };
  return (await db('feeds').where({ key, revision }).update(change)) === 1;
}
/** Whether there was such a feed. */
export const deleteFeed = async (db: Database, key: string): Promise<boolean> => (await db('feeds').where({ key }).delete()) > 0;
