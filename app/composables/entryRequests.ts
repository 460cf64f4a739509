import { type Answered, type Want, batches, wantKey } from '~~/core/engine/wants.ts';

/** What an entry asks of the server: nothing twice while it is under way, and what fails fails only what asked for it. */
export interface EntryRequests {
  /** Asks at once; fails where nothing could be had. Of some, those that could not are answered as failed. */
  ask(wants: readonly Want[]): Promise<readonly Answered[]>;
  /** The same for what may be under way: every want is answered, in their order, also where nothing could be had. */
  answersTo(wants: readonly Want[]): Promise<Answered[]>;
  isUnderWay(want: Want): boolean;
}

export function entryRequests(fetchSome: (wants: readonly Want[]) => Promise<readonly Answered[]>): EntryRequests {
  /** what is being asked, by the keys of its wants */
  const underWay = new Map<string, Promise<readonly Answered[]>>();
  const isUnderWay = (want: Want): boolean => underWay.has(wantKey(want));

  /** More than one request may ask is asked in several, beside each other. */
  async function inBatches(wants: readonly Want[]): Promise<Answered[]> {
    const parts = batches(wants);
    const done = await Promise.allSettled(parts.map((part) => fetchSome(part)));
    const failed = done.flatMap((d) => (d.status === 'rejected' ? [d.reason as unknown] : []));
    if (failed.length && failed.length === done.length) throw failed[0];
    return done.flatMap((d, i) => {
      const part = parts[i] ?? [];
      if (d.status === 'rejected') return part.map((want) => notHad(want, messageOf(d.reason)));
      // what is not answered would be asked again without end
      const told = new Set(d.value.map((a) => wantKey(a.want)));
      return [...d.value, ...part.filter((w) => !told.has(wantKey(w))).map((want) => notHad(want, 'The server gave no answer.'))];
    });
  }

  function ask(wants: readonly Want[]): Promise<readonly Answered[]> {
    const keys = wants.map(wantKey);
    const asking = inBatches(wants).finally(() => {
      for (const key of keys) if (underWay.get(key) === asking) underWay.delete(key);
    });
    for (const key of keys) underWay.set(key, asking);
    return asking;
  }

  async function answersTo(wants: readonly Want[]): Promise<Answered[]> {
    const found = new Map<string, Answered>();
    const take = async (asking: Iterable<Promise<readonly Answered[]>>): Promise<string> => {
      const done = await Promise.allSettled(asking);
      for (const d of done) if (d.status === 'fulfilled') for (const a of d.value) found.set(wantKey(a.want), a);
      return done.flatMap((d) => (d.status === 'rejected' ? [messageOf(d.reason)] : []))[0] ?? '';
    };
    const ahead = new Set(wants.flatMap((w) => underWay.get(wantKey(w)) ?? []));
    const fresh = wants.filter((w) => !isUnderWay(w));
    const [, why] = await Promise.all([take(ahead), fresh.length ? take([ask(fresh)]) : '']);
    // what was asked together with others may have failed because of those
    const again = wants.filter((w) => !fresh.includes(w) && !found.has(wantKey(w)));
    const whyAgain = again.length ? await take([ask(again)]) : '';
    return wants.map((want) => found.get(wantKey(want)) ?? notHad(want, why || whyAgain));
  }

  return { ask, answersTo, isUnderWay };
}

const notHad = (want: Want, reason: string): Answered => ({ want, answer: { kind: 'failed', reason } });
