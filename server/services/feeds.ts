import { type FeedRow, deleteFeed, feedRow, feedRows, insertFeed, updateFeed } from '../database/feeds';
import { setSetting, setting } from '../database/settings';
import { atPath } from '../../core/choices/json.ts';
import { readCell } from '../../core/exchange/columns.ts';
import { type Feed, feedProblems } from '../../core/model/feeds.ts';
import { feedSchema } from '../../core/model/schemas.ts';
import { keyFromLabel } from '../../core/model/tables.ts';
import { textProblem } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { FeedFailure, type OutsideAnswer, askOutside } from '../feeds/request';
import { standIn } from '../standins/index';
import type { Account } from '../database/accounts';
import { formsByFeed } from './breakage';
import { parsedJson, readEach } from './definitions';
import { Refused, notFound } from './errors';
import type { Workspace } from './workspace';

/** The most items of one answer. */
const MAX_ITEMS = 2000;
const MAX_KEPT = 1000;

export interface FeedAnswer extends Feed {
  readonly revision: number;
  /** why its definition cannot be read, when it cannot */
  readonly broken: string | null;
  /** names of the headers whose secret is kept here */
  readonly secrets: readonly string[];
  readonly usedBy: readonly { readonly key: string; readonly label: string }[];
}
type Secrets = Readonly<Record<string, string>>;

export async function feedAnswers(ws: Workspace): Promise<FeedAnswer[]> {
  const rows = await feedRows(ws.db);
  const users = await formsByFeed(ws);
  return rows.map((r) => {
    const { read, broken } = readEach([r], feedSchema, (x) => parsedJson(x.definition));
    return {
      ...(read[0] ?? feedSchema.parse({ key: r.key, label: r.label, url: '-' })),
      broken: broken[0]?.reason ?? null,
      ...about(r),
    };
  });
  function about(r: FeedRow) {
    return {
      revision: r.revision,
      secrets: Object.keys((parsedJson(r.secrets) ?? {}) as Secrets),
      usedBy: users.get(r.key) ?? [],
    };
  }
}

export async function createFeed(ws: Workspace, account: Account | null, feed: Omit<Feed, 'key'>, secrets: Secrets = {}): Promise<string> {
  // names of feeds that cannot be read are taken too
  const taken = (await feedRows(ws.db)).map((f) => f.key);
  const key = keyFromLabel(feed.label, taken);
  const row = { key, label: feed.label, definition: JSON.stringify({ ...feed, key }), secrets: JSON.stringify(secrets) };
  await insertFeed(ws.db, row, { at: ws.clock.now(), account: account?.id ?? null });
  ws.modelChanged();
  return key;
}

/** Saves a feed if nobody saved it since. Secrets not named again are kept; a null takes one away. */
export async function saveFeed(
  ws: Workspace,
  account: Account,
  feed: Feed,
  secrets: Readonly<Record<string, string | null>>,
  revision: number,
): Promise<number> {
  const problems = feedProblems(feed);
  if (problems.length) throw new Refused(422, 'values', problems[0] ?? '', { problems });
  const row = await feedRow(ws.db, feed.key);
  if (!row) throw notFound(`The feed “${feed.key}”`);
  const kept = mergedSecrets(feed, JSON.parse(row.secrets) as Secrets, secrets);
  const fresh = { key: feed.key, label: feed.label, definition: JSON.stringify(feed), secrets: JSON.stringify(kept), revision };
  if (!(await updateFeed(ws.db, fresh, { at: ws.clock.now(), account: account.id })))
    throw new Refused(409, 'changedMeanwhile', 'Somebody else changed this feed meanwhile. Read it again.', {});
  keptAnswers.forEach((_, k) => k.startsWith(`${feed.key} `) && keptAnswers.delete(k));
  ws.modelChanged();
  return revision + 1;
}

function mergedSecrets(feed: Feed, stored: Secrets, given: Readonly<Record<string, string | null>>): Secrets {
  const secret = new Set(feed.headers.filter((h) => h.value === null).map((h) => h.name));
  const all = Object.entries({ ...stored, ...given }).filter(([name, value]) => secret.has(name) && value !== null);
  return Object.fromEntries(all) as Secrets;
}

export async function removeFeed(ws: Workspace, key: string): Promise<void> {
  const users = (await formsByFeed(ws)).get(key) ?? [];
  if (users.length) throw new Refused(409, 'inUse', `It is used by ${users.map((u) => u.label).join(', ')}.`, { users });
  if (!(await deleteFeed(ws.db, key))) throw notFound(`The feed “${key}”`);
  ws.modelChanged();
}

// ---- which hosts may be asked ----

const HOSTS = 'feed_hosts';
export async function allowedHosts(ws: Workspace): Promise<string[]> {
  return ((await setting(ws.db, HOSTS)) as string[] | undefined) ?? [];
}
export async function setAllowedHosts(ws: Workspace, hosts: readonly string[]): Promise<void> {
  const clean = [...new Set(hosts.map((h) => h.trim().toLowerCase()).filter((h) => h !== ''))];
  const wrong = clean.find((h) => !/^!?(\*\.)?[a-z0-9.-]+(:\d{1,5})?$/.test(h));
  if (wrong !== undefined)
    throw new Refused(422, 'values', `“${wrong}” is no host. Write a name such as data.example.org, without https:// and path.`, {});
  await setSetting(ws.db, HOSTS, clean);
}

// ---- asking ----

export interface Asked {
  readonly status: number;
  readonly body: string;
  readonly items: readonly Row[];
  readonly milliseconds: number;
  readonly tries: number;
}

const keptAnswers = new Map<string, { at: number; items: readonly Row[] }>();
const underWay = new Map<string, Promise<readonly Row[]>>();

/**
 * The items of a feed for these parameters: from what is kept while it is young enough, else from the service; the same
 * question asked twice at once goes out once. Throws FeedFailure with a sentence.
 */
export async function feedItems(ws: Workspace, key: string, params: Readonly<Record<string, Datum>>): Promise<readonly Row[]> {
  const feed = (await ws.feeds()).get(key);
  if (!feed) throw new FeedFailure(`There is no feed “${key}”.`, false);
  const name = `${key} ${JSON.stringify(Object.entries(params).sort(([a], [b]) => (a < b ? -1 : 1)))}`;
  const known = keptAnswers.get(name);
  if (known && Date.now() - known.at < feed.keep * 1000) return known.items;
  const before = underWay.get(name);
  if (before) return before;
  const row = await feedRow(ws.db, key);
  const asking = askFeed(ws, feed, JSON.parse(row?.secrets ?? '{}') as Secrets, params)
    .then(({ items }) => {
      if (keptAnswers.size >= MAX_KEPT) keptAnswers.clear();
      if (feed.keep > 0) keptAnswers.set(name, { at: Date.now(), items });
      ws.feedTroubles.delete(key);
      return items;
    })
    .catch((e: unknown) => {
      if (e instanceof FeedFailure) ws.feedTroubles.set(key, { at: ws.clock.now(), said: e.message });
      throw e;
    })
    .finally(() => underWay.delete(name));
  underWay.set(name, asking);
  return asking;
}

/** Asks a feed as it stands on the designer's screen; secrets not typed there are those that are kept. */
export async function tryFeed(
  ws: Workspace,
  feed: Feed,
  params: Readonly<Record<string, Datum>>,
  secrets: Readonly<Record<string, string | null>>,
): Promise<Asked> {
  const row = await feedRow(ws.db, feed.key);
  return askFeed(ws, feed, mergedSecrets(feed, row ? (JSON.parse(row.secrets) as Secrets) : {}, secrets), params);
}

/** Asks a service as its feed says, trying again where that may help. */
export async function askFeed(ws: Workspace, feed: Feed, secrets: Secrets, params: Readonly<Record<string, Datum>>): Promise<Asked> {
  const problems = feedProblems(feed);
  if (problems.length) throw new FeedFailure(problems[0] ?? '', false);
  for (const p of feed.params) {
    if (p.required && (params[p.key] ?? null) === null) throw new FeedFailure(`${feed.label} needs ${p.label}.`, false);
  }
  const hosts = await allowedHosts(ws);
  const started = performance.now();
  for (let tries = 1; ; tries++) {
    try {
      const answer = await send(feed, secrets, params, hosts);
      return { ...answer, items: itemsOf(feed, answer.body), milliseconds: Math.round(performance.now() - started), tries };
    } catch (e) {
      if (!(e instanceof FeedFailure)) throw e;
      if (!e.again || tries > feed.retries) throw e;
      await new Promise((resolve) => setTimeout(resolve, 100 * tries));
    }
  }
}

const HOLE = /\{([a-z][a-z0-9_]*)\}/g;
const filled = (template: string, params: Readonly<Record<string, Datum>>, write: (value: string) => string): string =>
  template.replace(HOLE, (_, key: string) => write(String(params[key] ?? '')));

/** Which host is asked, and which way leads down from it, is the designer's to say: no value may change either. */
function addressOf(feed: Feed, params: Readonly<Record<string, Datum>>): string {
  const host = /^[a-z]+:\/\/[^/?#]*/i.exec(feed.url)?.[0] ?? '';
  // asked of the address itself, since there are more ways to write one than by two slashes
  const originWith = (value: string): string => {
    const probe = filled(feed.url, {}, () => value);
    return URL.canParse(probe) ? new URL(probe).origin : '';
  };
  if (/\{/.test(host) || originWith('a') !== originWith('b'))
    throw new FeedFailure('A value cannot stand in the name of the host. Write the host out, and values behind it.', false);
  let url: string;
  try {
    url = filled(feed.url, params, encodeURIComponent);
  } catch {
    throw new FeedFailure('A value holds half a character, so it cannot stand in an address. Type it again.', false);
  }
  const path = (address: string): string[] =>
    address
      .slice(host.length)
      .replace(/[?#].*$/s, '')
      .split('/');
  const [written, given] = [path(feed.url), path(url)];
  if (given.some((segment, i) => (segment === '.' || segment === '..') && written[i] !== segment))
    throw new FeedFailure('A value of dots alone cannot stand in an address: it would lead elsewhere.', false);
  return url;
}

async function send(
  feed: Feed,
  secrets: Secrets,
  params: Readonly<Record<string, Datum>>,
  hosts: readonly string[],
): Promise<OutsideAnswer> {
  const url = addressOf(feed, params);
  const headers: Record<string, string> = {};
  for (const h of feed.headers) {
    const value = h.value ?? secrets[h.name];
    if (value === undefined) throw new FeedFailure(`The secret for the header ${h.name} has not been given.`, false);
    headers[h.name] = value.replace(/[\r\n]/g, '');
  }
  const timeout = feed.timeout * 1000;
  const limit = feed.limit * 1000;
  let answer: OutsideAnswer;
  if (url.startsWith('/')) answer = await askStandIn(url, timeout, limit);
  else {
    // a place in the body stands inside quotes: what goes there is escaped as JSON text
    const body = feed.method === 'POST' ? filled(feed.body, params, (v) => JSON.stringify(v).slice(1, -1)) : null;
    if (body !== null) headers['content-type'] ??= 'application/json';
    answer = await askOutside({ url, method: feed.method, headers, body, timeout, limit }, hosts);
  }
  if (answer.status >= 200 && answer.status < 300) return answer;
  const again = answer.status >= 500 || answer.status === 429;
  throw new FeedFailure(`The service answered ${answer.status}${answer.status === 404 ? ', not found' : ''}.`, again, answer.body);
}

async function askStandIn(url: string, timeout: number, limit: number): Promise<OutsideAnswer> {
  try {
    const answer = await standIn(url, AbortSignal.timeout(timeout));
    if (answer.body.length > limit) throw new FeedFailure(`The answer is larger than ${Math.round(limit / 1000)} kilobytes.`, false);
    return answer;
  } catch (e) {
    if (e instanceof FeedFailure) throw e;
    throw new FeedFailure(`The service did not answer within ${timeout / 1000} seconds.`, true);
  }
}

/** The items in an answer, each with value, label and its attributes read by their types. Throws FeedFailure. */
export function itemsOf(feed: Feed, body: string): Row[] {
  try {
    return readItems(feed, body);
  } catch (e) {
    // reading and writing JSON go as deep as it does: one made to exhaust the stack does so there
    if (e instanceof RangeError) throw new FeedFailure('The service answered something that is nested too deep to be read.', false);
    throw e;
  }
}

function readItems(feed: Feed, body: string): Row[] {
  let parsed: unknown;
  try {
    parsed = JSON.parse(body);
  } catch (e) {
    if (e instanceof RangeError) throw e;
    throw new FeedFailure('The service answered something that is not JSON.', false, body);
  }
  const found = atPath(parsed, feed.items);
  if (found === undefined) throw new FeedFailure(`The answer has nothing at “${feed.items}”, where the items should be.`, false, body);
  const list = Array.isArray(found) ? (found as unknown[]) : found === null ? [] : [found];
  const rows: Row[] = [];
  const seen = new Set<string>();
  for (const item of list.slice(0, MAX_ITEMS)) {
    const value = written(atPath(item, feed.value));
    if (value === null || seen.has(value)) continue;
    seen.add(value);
    const row: Record<string, Datum> & { id: number } = {
      id: rows.length + 1,
      value,
      label: written(atPath(item, feed.label_path || feed.value)) ?? value,
    };
    for (const a of feed.attributes) {
      const text = written(atPath(item, a.path));
      const read = text === null ? null : readCell(a.type, text);
      row[a.key] = read?.ok ? read.value : null;
    }
    rows.push(row);
  }
  return rows;
}

/** What stands somewhere in an answer, as text; characters that cannot be kept are left out of it. */
function written(value: unknown): string | null {
  if (value === null || value === undefined) return null;
  const text = typeof value === 'object' ? JSON.stringify(value) : String(value as string | number | boolean);
  return textProblem(text) === null ? text : text.replace(/\0|\p{Surrogate}/gu, '');
}
