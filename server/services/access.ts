import type { Plan, PlanField } from '../../core/engine/plan.ts';
import { hidesFrom, readsMe } from '../../core/engine/compileField.ts';
import { formulasIn } from '../../core/engine/conditions.ts';
import { answersReached, reachOf, wantProblem } from '../../core/engine/reach.ts';
import type { Answered, Want } from '../../core/engine/wants.ts';
import { holdsFiles } from '../../core/values/kinds/index.ts';
import { type Column, FILES } from '../../core/model/tables.ts';
import type { Formula } from '../../core/formula/formula.ts';
import { readsOf } from '../../core/formula/reads.ts';
import { type FilePlace, heldFile } from '../database/files';
import type { ModelTable } from '../database/model';
import type { Account } from '../database/accounts';
import { Refused } from './errors';
import { publishedPlans } from './forms';
import { tableFor } from './owners';
import { maySeeAll, plansFor, rightsOf } from './rights';
import { readingOf } from './tables';
import { type RelatedRows, answerWants, outsideEnv, readPerson, readRelated } from './wants';
import type { Workspace } from './workspace';

/*
 * What somebody who enters records may be told: what their form reads, and of that not what it hides from them. Nothing else
 * leaves the server, whatever is asked for by hand.
 */

/** Whether a condition can be told without a record: it asks only who somebody is. */
const asksOnlyWho = (f: Formula): boolean =>
  f.slots.length === 0 &&
  f.lists.groups.length === 0 &&
  [...f.bindings.values()].every((b) => b.source.kind === 'me') &&
  f.extras.size === 0;

/**
 * The fields that a form hides from somebody whatever the record holds; with `doubtful`, those too that may be hidden by a
 * condition that also asks for the record (for lists, where no record is open).
 */
export async function withheldFields(ws: Workspace, plan: Plan, account: Account, doubtful = false): Promise<ReadonlySet<string>> {
  const personal = plan.fields.filter((f) => f.isPersonal);
  if (!personal.length) return NONE;
  const rows: RelatedRows = new Map();
  const asked = personal.flatMap((f) => formulasIn([...f.shown, ...f.showing]).filter(readsMe));
  const tables = new Set(['people', ...asked.flatMap((f) => readsOf(f, () => null).columns.map((c) => c.split('.')[0] ?? ''))]);
  await readRelated(ws, new Map([...plan.tables].filter(([key]) => tables.has(key))), rows, account);
  await readPerson(ws, account.person, rows);
  const env = outsideEnv(ws, account, rows);
  const isTold = (f: Formula): boolean => readsMe(f) && (doubtful || asksOnlyWho(f));
  // rules may speak of new records only, or of changed ones: whoever asks may be at either
  const hides = (f: PlanField): boolean => {
    const at = f.group === null ? env : { ...env, outer: env };
    const modes = (['new', 'edit'] as const).map((mode) => hidesFrom(f, at, mode, isTold, !doubtful));
    return doubtful ? modes.some(Boolean) : modes.every(Boolean);
  };
  return new Set(personal.filter(hides).map((f) => f.key));
}
const NONE: ReadonlySet<string> = new Set();

/** The columns of a form's own table that its records may be shown with. */
export async function visibleColumns(ws: Workspace, plan: Plan, account: Account, columns: readonly Column[]): Promise<readonly Column[]> {
  if (maySeeAll(account)) return columns;
  const withheld = await withheldFields(ws, plan, account, true);
  const hidden = new Set(plan.own.filter((f) => withheld.has(f.key)).map((f) => f.definition.column));
  const reached = reachOf(plan).columns.get(plan.form.table);
  return columns.filter((c) => reached?.has(c.key) && !hidden.has(c.key));
}

/** Answers what an entry screen wants of a published form: only what the form reads, at the fields it shows to this person. */
export async function answersFor(ws: Workspace, plan: Plan, account: Account, wants: readonly Want[]): Promise<Answered[]> {
  const withheld = await withheldFields(ws, plan, account);
  const refused: Answered[] = [];
  const allowed: Want[] = [];
  for (const want of wants) {
    const hidden = 'field' in want && withheld.has(want.field) ? 'This field is not shown to you.' : null;
    const file = want.kind === 'row' && want.table === FILES && !(await maySeeFile(ws, account, want.id)) ? 'There is no such file.' : null;
    const reason = hidden ?? wantProblem(plan, want) ?? file;
    if (reason === null) allowed.push(want);
    else refused.push({ want, answer: { kind: 'failed', reason } });
  }
  const answered = allowed.length ? await answerWants(ws, plan, allowed, account) : [];
  return [...answersReached(plan, answered), ...refused];
}

/** Whether somebody may have a file: who sent it may, and whoever sees a record that holds it in a field shown to them. */
export async function maySeeFile(ws: Workspace, account: Account, id: number): Promise<boolean> {
  if (maySeeAll(account)) return true;
  const places: FilePlace[] = [];
  for (const { form, plan } of await plansFor(ws, account)) {
    if (!(await rightsOf(ws, account, form.key)).includes('see')) continue;
    const withheld = await withheldFields(ws, plan, account, true);
    for (const f of plan.fields) {
      if (!holdsFiles(f.definition.type) || !f.definition.column || withheld.has(f.key)) continue;
      const table = await tableFor(ws, account, f.group === null ? form.table : (plan.lines[f.group]?.definition.table ?? form.table));
      places.push({
        table,
        column: f.definition.column,
        several: f.definition.type === 'files',
        reading: await readingOf(ws, table),
      });
    }
  }
  return heldFile(ws.db, id, account.id, places);
}

/** The tables that the forms read which somebody may use: what rows that belong to a record may be told of. */
export async function tablesInForms(ws: Workspace, account: Account): Promise<ReadonlySet<string>> {
  const tables = new Set<string>();
  for (const { plan } of await plansFor(ws, account)) for (const key of reachOf(plan).columns.keys()) tables.add(key);
  return tables;
}

/**
 * The columns of a table that a row may be looked at with: those that forms which offer its rows read, and those that its own
 * form shows where a form is saved in it. Refused where no form does either.
 */
export async function columnsToLookAt(ws: Workspace, account: Account, table: ModelTable): Promise<readonly Column[]> {
  if (maySeeAll(account)) return table.columns;
  const plans = (await plansFor(ws, account)).map((p) => p.plan);
  const rights = await Promise.all(plans.map((p) => rightsOf(ws, account, p.form.key)));
  if (plans.some((p, i) => p.form.table === table.key && rights[i]?.includes('see'))) {
    const saved = (await publishedPlans(ws)).filter((p) => p.form.table === table.key);
    const seen = await Promise.all(saved.map((p) => visibleColumns(ws, p.plan, account, table.columns)));
    // what one form hides is hidden, whatever another form over the same table shows, and whether or not that one may be used
    return table.columns.filter((c) => seen.every((columns) => columns.includes(c)));
  }
  const seen = new Set<string>();
  for (const plan of plans) {
    const withheld = await withheldFields(ws, plan, account);
    const offered = plan.fields.some((f) => f.choices?.stores === 'row' && f.choices.table === table.key && !withheld.has(f.key));
    if (offered || plan.lines.some((l) => l.definition.table === table.key))
      for (const c of reachOf(plan).columns.get(table.key) ?? []) seen.add(c);
  }
  if (seen.size) return table.columns.filter((c) => seen.has(c.key));
  throw new Refused(403, 'forbidden', 'No form that you may use offers rows of that table.');
}
