import { type EntryCount, type EntryHow, countsOf } from '../../core/evidence/entryUse.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { addEntryCounts } from '../database/entryUse';
import type { Workspace } from './workspace';

/*
 * Counts of how forms are entered, without who entered. A save waits for none of it: counts are gathered, and written every few seconds
 * and when the workspace is closed. What a sudden end takes away are a few counts.
 */

const EVERY = 5000;
/** Texts searched that are kept of a field and version. */
const MOST_TEXTS = 300;
/** Counts gathered at most before they are written. */
const MOST_GATHERED = 5000;

class Gathered {
  private counts = new Map<string, { form: string; count: EntryCount }>();
  private timer: NodeJS.Timeout | null = null;
  constructor(private readonly ws: Workspace) {
    ws.beforeClose(() => this.write());
  }
  add(form: string, counts: readonly EntryCount[]): void {
    for (const c of counts) {
      const key = JSON.stringify([form, c.version, c.field, c.what, c.value]);
      const known = this.counts.get(key);
      if (known) this.counts.set(key, { form, count: { ...c, count: known.count.count + c.count } });
      else if (this.counts.size < MOST_GATHERED) this.counts.set(key, { form, count: c });
    }
    if (!this.timer) {
      this.timer = setTimeout(() => void this.write().catch(() => undefined), EVERY);
      this.timer.unref();
    }
  }
  async write(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    const now = [...this.counts.values()];
    this.counts = new Map();
    if (!now.length) return;
    await this.ws.db.transaction(async (db) => {
      for (const form of new Set(now.map((n) => n.form)))
        await addEntryCounts(
          db,
          form,
          now.filter((n) => n.form === form).map((n) => n.count),
          MOST_TEXTS,
        );
    });
  }
}
const gathered = new WeakMap<Workspace, Gathered>();

/** Counts how an entry was made. Of fields that do not choose, or that the form does not have, nothing is kept. */
export function noteEntry(ws: Workspace, form: string, { version, plan }: { version: number; plan: Plan }, how: EntryHow): void {
  const chooses = (path: string): boolean => {
    const slot = plan.slots.get(path);
    return slot !== undefined && plan.fields[slot]!.choices !== null;
  };
  let own = gathered.get(ws);
  if (!own) gathered.set(ws, (own = new Gathered(ws)));
  own.add(form, countsOf(version, { ...how, choices: how.choices.filter((c) => chooses(c.field)) }));
}
/** Writes what was gathered, so that it can be read. */
export const writeEntryCounts = async (ws: Workspace): Promise<void> => gathered.get(ws)?.write();
