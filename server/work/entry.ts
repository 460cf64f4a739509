import type { MessagePort } from 'node:worker_threads';
import { type Database, noteOthers, openToRead, openToWrite } from '../database/connection';
import { dialectOf } from '../database/dialect';
import { atOneMoment, dataVersion } from '../database/reading';
import { Refused } from '../services/errors';
import { workspaceSettings } from '../services/settings';
import { SystemClock, Workspace } from '../services/workspace';
import { BEHIND, stepBackHere } from './priority';
import type { Input, TaskName } from './working';

/*
 * What runs in a thread of the pool. It is bundled into a file of its own (see nuxt.config.ts); the pool calls what it exports.
 */

/** The workspace that is read, with the database's own count of what others have changed in it. */
interface Opened {
  readonly ws: Workspace;
  seen: number;
}
const opened = new Map<string, Promise<Opened>>();

async function newlyOpened(db: Database, files: string): Promise<Opened> {
  await noteOthers(db);
  return { ws: new Workspace(db, new SystemClock(), files), seen: -1 };
}
/** The workspace of a file, opened once in each thread. */
function openedOf(file: string, files: string): Promise<Opened> {
  let known = opened.get(file);
  if (!known) opened.set(file, (known = newlyOpened(openToRead(file), files)));
  known.catch(() => opened.delete(file));
  return known;
}
/** Forgets of what was kept of a workspace what others have changed: all, where a server does not tell what that was. */
async function asItIs(known: Opened): Promise<Workspace> {
  const now = await dataVersion(known.ws.db);
  if (now !== known.seen) {
    if (dialectOf(known.ws.db).name === 'sqlite') known.ws.lookNow();
    else known.ws.changed();
    known.ws.settingsChanged(await workspaceSettings(known.ws));
  }
  known.seen = now;
  return known.ws;
}

/** What is asked of a thread; `port` is the way to whoever asked. */
export interface Asked {
  readonly file: string;
  readonly files: string;
  readonly name: TaskName;
  readonly input: unknown;
  readonly port: MessagePort;
}
/** What a task says while it works: how far it is; or a part of what it makes, or what it asks, which whoever asked for it answers. */
export type Told = readonly [progress: number, doing?: string] | { readonly part: unknown; readonly number: number };
/** What is answered to a part. */
export interface Answered {
  readonly number: number;
  readonly answer: unknown;
}
export type Came =
  | { readonly result: unknown }
  | { readonly failed: { readonly message: string; readonly code: unknown } }
  | { readonly refused: Pick<Refused, 'status' | 'code' | 'message' | 'details'> };

/** Whether this thread has stepped back already: each pool has threads for one kind of work. */
let isBehind = false;

/** How often it is told how far the work is, in ms. */
const TOLD = 100;

export default async function work({ file, files, name, input, port }: Asked): Promise<Came> {
  if (name !== 'sql' && !isBehind) {
    isBehind = true;
    stepBackHere(name === 'save' || name === 'reshape' ? BEHIND.save : BEHIND.long);
  }
  let told = 0;
  let given = 0;
  const waiting = new Map<number, (answer: unknown) => void>();
  port.on('message', ({ number, answer }: Answered) => {
    waiting.get(number)?.(answer);
    waiting.delete(number);
  });
  const job = {
    at(progress: number, doing?: string): void {
      if (Date.now() - told < TOLD) return;
      told = Date.now();
      port.postMessage((doing === undefined ? [progress] : [progress, doing]) satisfies Told);
    },
    give: (part: unknown): Promise<unknown> =>
      new Promise((resolve) => {
        waiting.set(++given, resolve);
        port.postMessage({ part, number: given } satisfies Told);
      }),
  };
  try {
    const run = async (known: Promise<Opened>): Promise<unknown> =>
      (await asItIs(await known)).work.run(name, input as Input<TaskName>, job);
    if (name === 'reshape') {
      // whoever asked keeps others from writing while it is this one's turn
      const db = openToWrite(file, { take: async () => void (await job.give(true)), leave: async () => void (await job.give(false)) });
      try {
        return { result: await run(newlyOpened(db, files)) };
      } finally {
        await db.destroy();
      }
    }
    if (name !== 'export') return { result: await run(openedOf(file, files)) };
    // a file to keep is of one moment: what refers to each other in it was there together
    const own = openToRead(file);
    try {
      return { result: await atOneMoment(own, (db) => run(newlyOpened(db, files))) };
    } finally {
      await own.destroy();
    }
  } catch (e) {
    // what errors hold beside their message is lost on the way from thread to thread
    if (!(e instanceof Refused))
      return { failed: { message: e instanceof Error ? e.message : String(e), code: (e as { code?: unknown }).code } };
    return { refused: { status: e.status, code: e.code, message: e.message, details: e.details } };
  } finally {
    port.close();
  }
}
