import { type DBSchema, type IDBPDatabase, openDB } from 'idb';
import type { Datum } from '~~/core/values/types.ts';
import type { Edit } from '~~/core/engine/state.ts';

/** What was typed into an entry and not saved: the edits, the revision they were made on, and the key they were to be saved by. */
export interface KeptEdits {
  readonly revision: number | null;
  readonly edits: readonly Edit[];
  /** the key of the request, one for each time an entry is opened: asked again with it, a save is not done twice */
  readonly request: string;
  /** what the edited fields held before, by address; nothing of it in what was kept by versions before */
  readonly base?: Readonly<Record<string, Datum>>;
  /** what stood in the field that somebody was in, and was not taken yet */
  readonly typing?: { readonly field: string; readonly text: string } | null;
  /** when it was typed last, in milliseconds */
  readonly at: number;
}
/** Whose it is, and of what. */
interface KeptRow extends KeptEdits {
  readonly of: string;
}
interface KeptSchema extends DBSchema {
  entries: { key: string; value: KeptRow; indexes: { of: string } };
}
/** How many of one person, form and record are kept beside each other; the oldest go. */
const MOST_KEPT = 5;

let opened: Promise<IDBPDatabase<KeptSchema>> | null = null;
function database(): Promise<IDBPDatabase<KeptSchema>> {
  opened ??= openDB<KeptSchema>('brisk-acorn', 1, {
    upgrade: (db) => void db.createObjectStore('entries', { keyPath: 'request' }).createIndex('of', 'of'),
    // another window wants a newer one: this one opens it anew when it is asked
    blocking: (_now, _next, event) => {
      (event.target as IDBDatabase).close();
      opened = null;
    },
  });
  // one that could not be opened is tried again
  opened.catch(() => (opened = null));
  return opened;
}
/** What is yet to be written of entries, by the key of their request, and what is being written of them. */
const newest = new Map<string, string>();
const writing = new Map<string, Promise<void>>();
const lockOf = (request: string): string => `brisk-entry ${request}`;

/** Entries that a window has open now: they are nobody else's to take up. */
async function openElsewhere(): Promise<ReadonlySet<string>> {
  const state = await navigator.locks?.query().catch(() => null);
  return new Set((state?.held ?? []).map((l) => l.name ?? ''));
}

/** What is on its way to the disk: a page that is left at this moment still has it here. */
const ON_ITS_WAY = 'brisk-keeping ';
const onItsWay = (request: string): string => `${ON_ITS_WAY}${request}`;
/**
 * Keeps what was on its way, unless something newer is on the disk: of a browser that is killed an older state may be left here, since what
 * is taken out here comes to the disk some seconds later.
 */
async function putNewer(db: IDBPDatabase<KeptSchema>, row: KeptRow): Promise<void> {
  const work = db.transaction('entries', 'readwrite', { durability: 'strict' });
  const there = await work.store.get(row.request);
  if (!there || !(there.at > row.at)) await work.store.put(row);
  await work.done;
}
/** Brings to the disk what pages that were left had on its way; what is open in a window is that window's to bring. */
async function arrived(db: IDBPDatabase<KeptSchema>, open: ReadonlySet<string>): Promise<void> {
  for (const key of Object.keys(localStorage).filter((k) => k.startsWith(ON_ITS_WAY))) {
    if (open.has(lockOf(key.slice(ON_ITS_WAY.length)))) continue;
    try {
      const row = JSON.parse(localStorage.getItem(key) ?? 'null') as KeptRow | null;
      if (row && Array.isArray(row.edits) && typeof row.request === 'string') await putNewer(db, row);
    } catch {
      // what cannot be read is nothing
    }
    localStorage.removeItem(key);
  }
}

/** Says that an entry is open in this window, until what is given is called or the window is gone. */
export function holdEntry(request: string): () => void {
  let release = (): void => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  void navigator.locks?.request(lockOf(request), () => held).catch(() => {});
  return release;
}

/** What somebody has left unsaved in a form on this computer: which record (null: a new one), when, and how many entries. */
export interface LeftUnsaved {
  readonly form: string;
  readonly record: number | null;
  readonly at: number;
  readonly entries: number;
}
/** Everything that is kept of one person and is open in no window, newest first. */
export async function leftUnsaved(account: number): Promise<LeftUnsaved[]> {
  try {
    const [db, open] = [await database(), await openElsewhere()];
    await arrived(db, open);
    return (await db.getAll('entries'))
      .flatMap((r): LeftUnsaved[] => {
        const [whose, form, record] = r.of.split(' ');
        if (whose !== String(account) || !form || !record || open.has(lockOf(r.request)) || !(r.edits.length || r.typing)) return [];
        return [{ form, record: record === 'new' ? null : Number(record), at: r.at, entries: r.edits.length + (r.typing ? 1 : 0) }];
      })
      .sort((a, b) => b.at - a.at);
  } catch {
    return [];
  }
}

/**
 * Keeps what is typed across a closed browser and a dead server, for one account, form and record: each entry by itself, so that two
 * windows do not overwrite each other's. Another person on the same browser is never offered it. What cannot be kept (the store is
 * full or forbidden) is not; typing goes on.
 */
export function keptEdits(account: number, form: string, record: number | null, now: () => number = Date.now) {
  const of = `${account} ${form} ${record ?? 'new'}`;
  const before = `brisk-kept ${of}`;
  /** What versions before kept in another place, moved here. */
  async function moved(db: IDBPDatabase<KeptSchema>): Promise<void> {
    const text = localStorage.getItem(before);
    if (text === null) return;
    try {
      interface Old extends Omit<KeptEdits, 'at'> {
        readonly earlier?: Old | null;
      }
      let at = now();
      for (let old = JSON.parse(text) as Old | null; old; old = old.earlier ?? null)
        if (Array.isArray(old.edits) && typeof old.request === 'string')
          await db.put('entries', { of, revision: old.revision ?? null, edits: old.edits, request: old.request, at: at-- });
    } catch {
      // what cannot be read is nothing
    }
    localStorage.removeItem(before);
  }
  /** Writes the newest state of an entry, and what has become newer meanwhile, until there is none. */
  async function writeNewest(request: string): Promise<void> {
    for (let text = newest.get(request); text !== undefined; text = newest.get(request)) {
      newest.delete(request);
      try {
        const db = await database();
        const work = db.transaction('entries', 'readwrite', { durability: 'strict' });
        await work.store.put(JSON.parse(text) as KeptRow);
        const rows = (await work.store.index('of').getAll(of)).sort((a, b) => b.at - a.at);
        for (const old of rows.slice(MOST_KEPT)) await work.store.delete(old.request);
        await work.done;
        // something newer may be on its way by now
        if (localStorage.getItem(onItsWay(request)) === text) localStorage.removeItem(onItsWay(request));
      } catch {
        // said above
      }
    }
    // at once: whoever comes now begins anew
    writing.delete(request);
  }
  return {
    /** What was kept and is not open in a window, newest first. */
    async all(): Promise<KeptEdits[]> {
      try {
        const [db, open] = [await database(), await openElsewhere()];
        await moved(db);
        await arrived(db, open);
        return (await db.getAllFromIndex('entries', 'of', of)).filter((r) => !open.has(lockOf(r.request))).sort((a, b) => b.at - a.at);
      } catch {
        return [];
      }
    },
    /**
     * Keeps an entry as it stands now, at once: it is on the disk when the promise is settled. While one state of an entry is being
     * written only the newest waits: those in between are nobody's any more.
     */
    async write(kept: Omit<KeptEdits, 'at'>): Promise<void> {
      // plain data: a proxy cannot be kept
      const text = JSON.stringify({ ...kept, of, at: now() });
      try {
        localStorage.setItem(onItsWay(kept.request), text);
      } catch {
        // there is no room for it there; there may be on the disk
      }
      newest.set(kept.request, text);
      let under = writing.get(kept.request);
      if (!under) {
        under = writeNewest(kept.request);
        writing.set(kept.request, under);
      }
      await under;
    },
    async drop(request: string): Promise<void> {
      newest.delete(request);
      localStorage.removeItem(onItsWay(request));
      await writing.get(request);
      await database()
        .then((db) => db.delete('entries', request))
        .catch(() => {});
    },
  };
}
