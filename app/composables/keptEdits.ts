import type { Edit } from '~~/core/engine/state.ts';

/** What was typed into an entry and not saved: the edits, the revision they were made on, and the key they were to be saved by. */
export interface KeptEdits {
  readonly revision: number | null;
  readonly edits: readonly Edit[];
  /** the key of the request: asked again with it, a save whose answer was lost is not done twice */
  readonly request: string;
  /** what was kept before it and is neither taken up nor dropped yet */
  readonly earlier?: KeptEdits | null;
}
/** How many are kept beside each other; the oldest goes. */
const MOST_KEPT = 5;
const cut = (kept: KeptEdits, most = MOST_KEPT): KeptEdits => ({
  ...kept,
  earlier: kept.earlier && most > 1 ? cut(kept.earlier, most - 1) : null,
});

/**
 * Keeps what is typed across a closed browser and a dead server, for one account, form and record. Another person on the same
 * browser is never offered it.
 */
export function keptEdits(account: number, form: string, record: number | null) {
  const key = `brisk-kept ${account} ${form} ${record ?? 'new'}`;
  // before the account was part of the name, anybody on this browser would have been offered what stands there
  localStorage.removeItem(`brisk-entry ${form} ${record ?? 'new'}`);
  return {
    read(): KeptEdits | null {
      try {
        const kept = JSON.parse(localStorage.getItem(key) ?? 'null') as KeptEdits | null;
        return kept && Array.isArray(kept.edits) && typeof kept.request === 'string' ? kept : null;
      } catch {
        return null;
      }
    },
    write(kept: KeptEdits): void {
      try {
        localStorage.setItem(key, JSON.stringify(cut(kept)));
      } catch {
        // a full or forbidden store keeps nothing; typing goes on
      }
    },
    /** Forgets what was typed last; what is still offered from before stays. */
    drop(earlier: KeptEdits | null = null): void {
      if (earlier) this.write(earlier);
      else localStorage.removeItem(key);
    },
  };
}
