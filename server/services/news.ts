import type { Account } from '../database/accounts';
import { newestVersions } from '../database/forms';
import { Refused } from './errors';
import { rightsOf } from './rights';
import type { Workspace, WorkspaceEvent } from './workspace';

/* News for open screens: what somebody has just done that concerns them. One stream a window; nothing in it that may not be seen. */

/** Streams that are open at once: of one account, and of all. */
const MOST_OF_ONE = 30;
const MOST = 5000;
const open = new Map<number, number>();
let all = 0;

/** The newest version of every form that somebody has any right with, by form. */
export async function versionsFor(ws: Workspace, account: Account): Promise<Record<string, number>> {
  const found: Record<string, number> = {};
  for (const [key, { number }] of await newestVersions(ws.db)) if ((await rightsOf(ws, account, key)).length) found[key] = number;
  return found;
}

/**
 * Hears what concerns an account, until what is given is called. Throws Refused (429) where too many windows of theirs, or of all, hear
 * already.
 */
export function hear(ws: Workspace, account: Account, tell: (event: WorkspaceEvent) => void): () => void {
  const own = open.get(account.id) ?? 0;
  if (own >= MOST_OF_ONE || all >= MOST) throw new Refused(429, 'tooMany', 'Too many windows are open. Close some.', {});
  open.set(account.id, own + 1);
  all++;
  const end = ws.listen((event) => {
    rightsOf(ws, account, event.form).then(
      (rights) => rights.length && tell(event),
      // a form that is gone meanwhile concerns nobody
      () => undefined,
    );
  });
  let ended = false;
  return () => {
    if (ended) return;
    ended = true;
    end();
    all--;
    const left = (open.get(account.id) ?? 1) - 1;
    if (left) open.set(account.id, left);
    else open.delete(account.id);
  };
}
