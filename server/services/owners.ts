import type { Form } from '../../core/form/definition.ts';
import { isEverybody, isOneOf } from '../../core/form/who.ts';
import { mayBuild } from '../../core/values/roles.ts';
import type { Account } from '../database/accounts';
import type { ModelTable } from '../database/model';
import { type SeenRows, linesSeen, ownedRows, seenByAll } from '../database/seen';
import { publishedPlans } from './forms';
import { dialectOf } from '../database/dialect';
import { MODEL_TABLES, type Workspace } from './workspace';

/* Records that belong to people or teams: which rows of a table somebody sees. Every reading for somebody goes through here. */

/** Who asks, as formulas and owners see them. `all`: it is the application itself that reads, or somebody who builds. */
export type Asker = Pick<Account, 'roles'> &
  Partial<Pick<Account, 'id' | 'team' | 'scope'>> & { readonly person: number | null; readonly all?: boolean };
/** The application itself: it reads everything. */
export const NOBODY: Asker = { person: null, roles: [], all: true };
export const seesAll = (who: Asker): boolean => who.all === true || (!who.scope && mayBuild(who.roles));

/** The published forms whose records belong to somebody. */
export const ownedForms = (ws: Workspace): Promise<readonly Form[]> =>
  ws.kept.get('owned forms', ['forms', 'form_versions', ...MODEL_TABLES], async () =>
    (await publishedPlans(ws)).map((p) => p.form).filter((f) => f.owners !== null),
  );

/** The tables whose rows may belong to somebody, lines with them. */
export async function ownedTables(ws: Workspace): Promise<ReadonlySet<string>> {
  return new Set((await ownedForms(ws)).flatMap((f) => [f.table, ...Object.values(f.lines).map((l) => l.table)]));
}

/** A table as somebody reads it: rows of others are not there. Where several forms save into it, each has its say. */
export async function tableFor(ws: Workspace, who: Asker, key: string): Promise<ModelTable> {
  const table = await ws.modelTable(key);
  if (seesAll(who)) return table;
  const seen = await rowsSeen(ws, who, key, await ownedForms(ws));
  return seen ? { ...table, seen } : table;
}
/** The rows of a table that somebody sees, as some forms say whose records are; undefined where that is all. */
export async function rowsSeen(ws: Workspace, who: Asker, key: string, forms: readonly Form[]): Promise<SeenRows | undefined> {
  const parts: SeenRows[] = [];
  for (const form of forms) {
    const { owners } = form;
    if (!owners || (!isEverybody(owners.also) && isOneOf(owners.also, who.roles, who.team ?? null))) continue;
    const saved = await ws.modelTable(form.table);
    const names = owners.fields.map((f) => form.fields[f]?.column);
    const columns = saved.columns.filter((c) => names.includes(c.key));
    if (!columns.length) continue;
    const seen = ownedRows(
      dialectOf(ws.db),
      { columns, creator: owners.creator },
      { account: who.id ?? null, person: who.person, team: who.team ?? null },
    );
    if (form.table === key) parts.push(seen);
    for (const lines of Object.values(form.lines)) if (lines.table === key) parts.push(linesSeen(form.table, lines.link, seen));
  }
  return seenByAll(parts);
}
/** All tables as somebody reads them. */
export const tablesFor = async (ws: Workspace, who: Asker): Promise<readonly ModelTable[]> =>
  Promise.all((await ws.modelTables()).map((t) => tableFor(ws, who, t.key)));
