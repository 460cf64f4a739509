import { isFolded } from '../../core/choices/order.ts';
import { type Narrowing, narrowRows } from '../../core/choices/narrowing.ts';
import { type View, viewCondition, viewScope } from '../../core/choices/views.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { reachOf } from '../../core/engine/reach.ts';
import type { Form } from '../../core/form/definition.ts';
import type { Env } from '../../core/formula/env.ts';
import { isDatum } from '../../core/formula/errors.ts';
import { type SqlFragment, conditionToSql } from '../../core/formula/sql.ts';
import type { Scope } from '../../core/formula/scope.ts';
import { type Column, type Table, shapesOf, targetOf } from '../../core/model/tables.ts';
import { PEOPLE } from '../../core/values/kinds/index.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Account } from '../database/accounts';
import type { ModelTable } from '../database/model';
import { dialectOf } from '../database/dialect';
import { namesFor, toStored } from '../database/names';
import { rowsAfter } from '../database/rows';
import { ALIAS, type LinkedBy, type Piece, type SumAsked, type ViewQuery, piece } from '../database/viewRows';
import { columnsToLookAt, visibleColumns } from './access';
import { Refused } from './errors';
import { publishedForm } from './forms';
import { tableFor, tablesFor } from './owners';
import { othersFirst } from './pace';
import { maySeeAll } from './rights';
import { type RelatedRows, outsideEnv, readPerson, readRelated } from './wants';
import type { Workspace } from './workspace';

/* A view of a form’s records as one person may look at it: what may be named, and the query it comes to. */

/** What somebody may name of a form’s records: the columns that they see, under the names of the fields, and the rows these lead to. */
export interface Viewed {
  readonly form: Form;
  readonly version: number;
  readonly plan: Plan;
  /** the records that they see, with the columns that they see */
  readonly table: ModelTable;
  /** that table, and those its links lead to as far as they may be asked for */
  readonly tables: ReadonlyMap<string, Table>;
  readonly linked: ReadonlyMap<string, LinkedBy>;
}

/** What of people may be asked for by anybody who sees records. */
const OF_PEOPLE = ['name', 'team'];

export async function viewed(ws: Workspace, account: Account, formKey: string): Promise<Viewed> {
  const { form, version, plan } = await publishedForm(ws, formKey);
  const whole = await tableFor(ws, account, form.table);
  const seen = await visibleColumns(ws, plan, account, whole.columns);
  const labels = new Map(plan.own.map((f) => [f.definition.column, f.definition.label]));
  // in the order of the form; what no field of it is saved in comes last
  const order = [...labels.keys()];
  const place = (c: Column): number => (order.includes(c.key) ? order.indexOf(c.key) : order.length);
  const columns = seen.map((c) => ({ ...c, label: labels.get(c.key) ?? c.label })).sort((a, b) => place(a) - place(b));
  const table = { ...whole, columns };
  const counted = (t: ModelTable): Table => ({ ...t, rows: 0, large: false });
  const tables = new Map<string, Table>([[form.table, counted(table)]]);
  for (const other of await tablesFor(ws, account)) {
    // of rows that not everybody sees nothing is asked: an answer would tell of them
    if (other.key === form.table || other.seen) continue;
    const open = await openColumns(ws, account, plan, other);
    if (open.length) tables.set(other.key, counted({ ...other, columns: open, shown: open.some((c) => c.key === other.shown) ? other.shown : null })); // prettier-ignore
  }
  const linked = new Map<string, LinkedBy>();
  for (const c of columns) {
    const target = tables.get(targetOf(c) ?? '');
    const shown = target?.columns.find((s) => s.key === target.shown);
    if (target && shown && isFolded(shown.type) && (c.type === 'link' || c.type === 'person')) linked.set(c.key, { table: target.key, shown: shown.key }); // prettier-ignore
  }
  return { form, version, plan, table, tables, linked };
}
async function openColumns(ws: Workspace, account: Account, plan: Plan, table: ModelTable): Promise<readonly Column[]> {
  if (maySeeAll(account)) return table.columns;
  const reached = reachOf(plan).columns.get(table.key);
  if (table.key === PEOPLE) return table.columns.filter((c) => OF_PEOPLE.includes(c.key) || reached?.has(c.key));
  try {
    return await columnsToLookAt(ws, account, table);
  } catch (e) {
    if (!(e instanceof Refused)) throw e;
    return [];
  }
}
export const scopeOf = (v: Viewed): Scope => viewScope(shapesOf(v.tables), v.form.table);

/** A view as a query. Throws Refused (422) with what cannot be asked, and where. */
export async function viewQuery(
  ws: Workspace,
  account: Account,
  v: Viewed,
  view: View,
  search: string,
  newestFirst = false,
): Promise<{ query: ViewQuery; sums: SumAsked[] }> {
  const column = (key: string): Column => {
    const found = key === 'id' ? ID : v.table.columns.find((c) => c.key === key);
    if (!found) throw new Refused(422, 'values', `These records have no column “${key}” that you see.`, {});
    return found;
  };
  const asking = new Asking(ws, account, v);
  const where = view.where === null ? [] : [await asking.condition(view.where, 'which records')];
  const colours: Piece[] = [];
  for (const c of view.colours) colours.push(await asking.condition(c.where, `the colour “${c.word}”`));
  const query = {
    table: v.table,
    where,
    search,
    linked: v.linked,
    group: view.group && { column: column(view.group.column), by: view.group.by },
    sort: view.sort.map((s) => ({ column: column(s.column), descending: s.descending })),
    colours,
    newestFirst,
  };
  return { query, sums: view.sums.map((s) => ({ column: column(s.column), of: s.of })) };
}
const ID: Column = { key: 'id', label: 'Nr', type: 'number', target: null } as Column;

/** The most records that a condition which the database cannot ask is asked of, one by one. */
const MOST_LOOKED_AT = 200_000;
const PAGE = 2000;

/** Conditions of a view as SQL, for whoever looks. */
class Asking {
  private readonly scope: Scope;
  private readonly rows: RelatedRows = new Map();
  private env: Env | null = null;
  constructor(
    private readonly ws: Workspace,
    private readonly account: Account,
    private readonly v: Viewed,
  ) {
    this.scope = scopeOf(v);
  }

  /** `of`: what it is a condition for, when it cannot be used. */
  async condition(text: string, of: string): Promise<Piece> {
    const narrowing = viewCondition(text, this.scope);
    if (typeof narrowing === 'string') throw new Refused(422, 'values', `The condition for ${of} cannot be used: ${narrowing}`, {});
    const env = await this.asked();
    const params = narrowing.params.map((p) => p.run(env));
    // what has no value, since it is an error, holds for nothing
    if (params.some((p) => !isDatum(p))) return piece('1 = 0');
    const data = params as Datum[];
    const parts: Piece[] = [];
    const rest = new Set<number>();
    narrowing.parts.forEach((part, n) => {
      const sql = conditionToSql(part.syntax, narrowing.formula, narrowing.paramNumbers, namesFor(this.ws.db), ALIAS);
      if (sql) parts.push(bound(sql, data));
      else rest.add(n);
    });
    if (rest.size)
      parts.push(piece(`${ALIAS}.id IN (${dialectOf(this.ws.db).ids('?')})`, [JSON.stringify(await this.lookedAt(narrowing, rest, data))]));
    return parts.length ? piece(`coalesce(${parts.map((p) => p.sql).join(' AND ')}, FALSE)`, parts.flatMap((p) => p.bindings)) : piece('1 = 1'); // prettier-ignore
  }

  private async asked(): Promise<Env> {
    if (!this.env) {
      await readPerson(this.ws, this.account.person, this.rows);
      this.env = outsideEnv(this.ws, this.account, this.rows);
    }
    return this.env;
  }

  /** The records that meet parts which the database cannot ask, a page at a time; others have their turn between two pages. */
  private async lookedAt(narrowing: Narrowing, rest: ReadonlySet<number>, params: readonly Datum[]): Promise<number[]> {
    const { ws, v, account } = this;
    const tables = new Map([...v.plan.tables].filter(([key]) => v.tables.has(key)));
    await readRelated(ws, tables, this.rows, account);
    const env = { ...(await this.asked()), params };
    const open = new Set([...narrowing.parts.keys()].filter((n) => !rest.has(n)));
    const found: number[] = [];
    for (let [after, looked] = [0, 0]; ; looked += PAGE) {
      const rows = await rowsAfter(ws.db, v.table, after, PAGE);
      if (looked + rows.length > MOST_LOOKED_AT)
        throw new Refused(422, 'tooMuch', 'This condition must be asked of each record, and there are too many. Compare columns with values instead.', {}); // prettier-ignore
      found.push(...narrowRows(narrowing, rows, open, env).rows.map((r) => r.id));
      if (rows.length < PAGE) return found;
      after = rows.at(-1)?.id ?? after;
      await othersFirst();
    }
  }
}

const bound = ({ sql, bindings }: SqlFragment, params: readonly Datum[]): Piece =>
  piece(sql, bindings.map((b) => {
    const value = 'param' in b ? (params[b.param] ?? null) : b.value;
    return b.fold && typeof value === 'string' ? foldText(value) : toStored(value);
  })); // prettier-ignore
