import type { StoredRecord } from '../../core/engine/context.ts';
import { type Entry, openEntryInSteps } from '../../core/engine/entry.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { roundsInSteps } from '../../core/engine/rounds.ts';
import { type Edit, addressOf } from '../../core/engine/state.ts';
import { verifyInSteps } from '../../core/engine/verify.ts';
import { Refused } from './errors';
import type { Asker } from './owners';
import { Pace } from './pace';
import { workCalendar } from './settings';
import { type Outside, settleEntry } from './wants';
import type { Workspace } from './workspace';

/* What somebody did to an entry, computed again: what is saved rests on the edits alone, not on what a screen made of them. */

/** What an entry is opened with, beside the form: the record it stands under, and the values of the address. */
export interface OpenedWith {
  readonly parent: number | null;
  readonly url: Readonly<Record<string, string>>;
}
export const WITH_NOTHING: OpenedWith = { parent: null, url: {} };

/** What somebody did to an entry, as it is computed again. */
export interface Played {
  readonly record: StoredRecord | null;
  readonly edits: readonly Edit[];
  readonly opened: OpenedWith;
  readonly now: string;
  /** what is asked otherwise than where nothing is saved: the numbers it counts on */
  readonly outside?: Partial<Outside>;
}
/** The entry as somebody left it, computed again from their edits up to the save, with what must be corrected before, by address. */
export async function judged(
  ws: Workspace,
  who: Asker,
  plan: Plan,
  { record, edits, opened, now, outside }: Played,
): Promise<{ entry: Entry; issues: ReadonlyMap<string, string> }> {
  const context = {
    ...opened,
    mode: record ? ('edit' as const) : ('new' as const),
    today: now.slice(0, 10),
    now,
    me: who.person,
    roles: who.roles,
    calendar: await workCalendar(ws),
    // checks are asked once, of what comes out
    tellsLate: true,
  };
  const pace = new Pace();
  const entry = await pace.through(openEntryInSteps(plan, context, ws.newCache(), record));
  await settleEntry(ws, entry, who, 'none', outside);
  // a map, since what is sent as the name of a field may be any text
  const issues = new Map<string, string>();
  for (const round of await pace.through(roundsInSteps(plan, edits, record === null))) {
    await pace.rest();
    if (round.some((edit) => edit.kind === 'move')) {
      // whether it can be made is asked when it is made alone; what that lacks must be here before
      entry.tellMoves();
      await settleEntry(ws, entry, who, 'needed', outside);
    }
    for (const refused of entry.applyRound(round).refused) issues.set(addressOf(refused.field, refused.line), refused.message);
    await settleEntry(ws, entry, who, 'needed', outside);
  }
  entry.beforeSaving();
  await settleEntry(ws, entry, who, 'needed', outside);
  await pace.rest();
  await pace.through(entry.tellInSteps());
  await settleEntry(ws, entry, who, 'needed', outside);
  await pace.rest();
  for (const issue of await pace.through(verifyInSteps(entry))) {
    const address = addressOf(issue.field, issue.line);
    if (!issues.has(address)) issues.set(address, issue.message);
  }
  await pace.rest();
  return { entry, issues };
}

/** The entry as the person left it; refused when it may not be saved. */
export async function replay(
  ws: Workspace,
  who: Asker,
  { plan, version, typedOn }: { readonly plan: Plan; readonly version: number; readonly typedOn: number },
  played: Played,
): Promise<Entry> {
  const { entry, issues } = await judged(ws, who, plan, played);
  if (!issues.size) return entry;
  const anew = typedOn === version ? '' : ` The form was published anew while this was typed (version ${version}); it is judged by that.`;
  throw new Refused(422, 'fields', `Some fields must be corrected before saving.${anew}`, { issues: Object.fromEntries(issues), version });
}
