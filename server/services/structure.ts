import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { isFolded } from '../../core/choices/order.ts';
import { subsetScope } from '../../core/choices/subsets.ts';
import type { Form } from '../../core/form/definition.ts';
import { SELF } from '../../core/exchange/match.ts';
import { type Column, type Subset, keyFromLabel, keyProblem, namesTable, shapesOf } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { formula } from '../../core/formula/formula.ts';
import { YESNO } from '../../core/values/typing.ts';
import { type ModelTable, addColumns, createTable, dropColumn, renameColumn, writeSubsets } from '../database/model';
import { Refused } from './errors';
import { breakages, refuseBreakages, withColumn, withTable, withoutColumn } from './breakage';
import { definitionsInUse, draftOf } from './forms';
import { ensureAllIndexes } from './publishing';
import { type JobHandle, UNWATCHED } from './jobs';
import { retypeColumn } from './retyping';
import type { Workspace } from './workspace';

function columnNamed(table: ModelTable, key: string): Column {
  const column = table.columns.find((c) => c.key === key);
  if (!column) throw new Refused(404, 'notFound', `${table.label} has no column “${key}”.`, {});
  return column;
}

/** Makes a table with its columns, as somebody has thought it up; gives its name. Links may lead to the table itself. */
export async function makeTable(
  ws: Workspace,
  asked: { label: string; shown: string | null; columns: readonly Column[] },
): Promise<string> {
  const tables = await ws.modelTables();
  const refuse = (message: string): never => {
    throw new Refused(422, 'values', message, {});
  };
  if (tables.some((t) => t.label.toLowerCase() === asked.label.toLowerCase())) refuse(`There is a table called ${asked.label} already.`);
  const key = keyFromLabel(asked.label, tables.map((t) => t.key)); // prettier-ignore
  const columns = asked.columns.map((c) => columnSchema.parse(c.target === SELF ? { ...c, target: key } : c));
  for (const [i, column] of columns.entries()) {
    const problem = keyProblem(column.key);
    if (problem) refuse(problem);
    if (columns.findIndex((c) => c.key === column.key) !== i) refuse(`Two columns are named “${column.key}”.`);
    if (column.target !== key) await checkTarget(ws, column);
  }
  if (asked.shown !== null && !columns.some((c) => c.key === asked.shown)) refuse('What its rows are known by must be one of its columns.');
  await ws.db.transaction((db) => createTable(db, { key, label: asked.label, shown: asked.shown, columns }));
  ws.modelChanged();
  return key;
}

/** Adds a column to a table. Refused when there is one of its name, or when its link leads to no table. */
export async function addColumn(ws: Workspace, key: string, column: Column): Promise<void> {
  const table = await ws.modelTable(key);
  if (table.columns.some((c) => c.key === column.key))
    throw new Refused(422, 'values', `${table.label} has a column “${column.key}” already.`, {});
  await checkTarget(ws, column);
  await ws.reshape([key], 'addColumn', [key, column], async () => {
    await ws.db.transaction((db) => addColumns(db, table, [columnSchema.parse(column)]));
    ws.modelChanged();
    // a search index holds all texts of its table
    if (isFolded(column.type)) await ensureAllIndexes(ws);
  });
}

async function checkTarget(ws: Workspace, column: Pick<Column, 'type' | 'target'>): Promise<void> {
  if (!namesTable(column.type)) return;
  if (!column.target) throw new Refused(422, 'values', 'Say which table the column links to.', {});
  await ws.modelTable(column.target);
}

/** Gives a column another label. Its name, which formulas use, stays. */
export async function relabelColumn(ws: Workspace, key: string, column: string, label: string): Promise<void> {
  columnNamed(await ws.modelTable(key), column);
  await renameColumn(ws.db, key, column, label);
  ws.modelChanged();
}

// ---- where a column is used ----

type UsedIn = TypePreview['uses'][number];

/** Fields of drafts and published forms that are saved in a column, and lines that are kept by it. */
export async function columnUses(ws: Workspace, table: string, column: string): Promise<UsedIn[]> {
  const found = new Map<string, UsedIn>();
  for (const { form } of await definitionsInUse(ws)) {
    const note = (field: string, how: string): void =>
      void found.set(`${form.key} ${field}`, { form: form.key, label: form.label, field, how });
    const look = (fields: Form['fields'], own: string): void => {
      if (own === table) for (const [key, f] of Object.entries(fields)) if (f.column === column) note(key, 'is saved in it');
    };
    look(form.fields, form.table);
    for (const lines of Object.values(form.lines)) {
      look(lines.fields, lines.table);
      if (lines.table === table && (lines.link === column || lines.order === column)) note(lines.label, 'keeps its lines by it');
    }
  }
  return [...found.values()];
}

/** Deletes a column with what stands in it. Refused while a form uses it, or when the rows are known by it. */
export async function removeColumn(ws: Workspace, key: string, columnKey: string): Promise<void> {
  const table = await ws.modelTable(key);
  const column = columnNamed(table, columnKey);
  const uses = await columnUses(ws, key, columnKey);
  if (uses.length) {
    const said = uses.map((u) => `${u.label}: ${u.field} ${u.how}`).join('; ');
    throw new Refused(409, 'inUse', `${column.label} is used, so it cannot be deleted (${said}).`, { uses });
  }
  const broken = await breakages(ws, (tables) => withoutColumn(tables, key, columnKey));
  refuseBreakages(`${column.label} is used, so it cannot be deleted`, broken);
  if (table.shown === columnKey)
    throw new Refused(409, 'inUse', `The rows of ${table.label} are known by ${column.label}. Choose another column first.`, {});
  if (isOfPeople(key, columnKey)) throw new Refused(409, 'inUse', 'People need a name, an e-mail and a team.', {});
  await ws.reshape([key], 'removeColumn', [key, columnKey], async () => {
    await ws.db.transaction((db) => dropColumn(db, table, column));
    ws.modelChanged();
    await ensureAllIndexes(ws);
  });
}

/** Columns that the application itself reads: who signs in, and what their team is. */
const isOfPeople = (table: string, column: string): boolean => table === 'people' && ['name', 'email', 'team'].includes(column);

// ---- another type ----

export interface TypeChange {
  readonly type: Column['type'];
  readonly target: string | null;
  readonly decimals: number | null;
}
export type TypePreview = Answer<typeof contract.tables.retypeColumn>;

const changedColumn = (column: Column, change: TypeChange): Column =>
  columnSchema.parse({
    ...column,
    type: change.type,
    target: namesTable(change.type) ? change.target : null,
    decimals: change.type === 'number' ? change.decimals : null,
    length: null,
  });

/** What another type would make of a column's values; nothing is written. */
export async function previewType(
  ws: Workspace,
  key: string,
  columnKey: string,
  change: TypeChange,
  job: JobHandle = UNWATCHED,
): Promise<TypePreview> {
  const table = await ws.modelTable(key);
  const column = columnNamed(table, columnKey);
  await checkTarget(ws, change);
  const input = { table: key, from: column, to: changedColumn(column, change) };
  return { ...(await ws.work.run('retype', input, job)), uses: await columnUses(ws, key, columnKey) };
}

/** Gives a column another type and converts its values; those that do not convert become empty: see `retypeColumn`. */
export async function changeColumnType(
  ws: Workspace,
  key: string,
  columnKey: string,
  change: TypeChange,
  mayLose: boolean,
): Promise<TypePreview> {
  const table = await ws.modelTable(key);
  const column = columnNamed(table, columnKey);
  if (isOfPeople(key, columnKey) && change.type !== 'text')
    throw new Refused(409, 'inUse', 'Who people are and which team they are in is told by texts: this column stays one.', {});
  await checkTarget(ws, change);
  const to = changedColumn(column, change);
  const saved = (await columnUses(ws, key, columnKey)).filter((u) => u.how === 'is saved in it' && column.type !== to.type);
  if (saved.length) {
    throw new Refused(
      409,
      'inUse',
      `${saved.map((u) => `${u.label} (${u.field})`).join(', ')} saves into ${column.label}, so its type must stay. Take the field out of the form first.`,
      { uses: saved },
    );
  }
  const broken = await breakages(ws, (tables) => withColumn(tables, key, to));
  refuseBreakages(`${column.label} is used, so its type must stay`, broken);
  return ws.reshape([key], 'changeColumnType', [key, columnKey, change, mayLose], async () => {
    const done = await retypeColumn(ws, key, column, to, mayLose);
    await ensureAllIndexes(ws);
    return { ...done, uses: [] };
  });
}

// ---- subsets ----

/** Sets the subsets of a table. Refused when a condition has a mistake, or a subset that is taken away is used. */
export async function saveSubsets(ws: Workspace, key: string, subsets: readonly Subset[]): Promise<void> {
  await ws.modelTable(key);
  const shapes = { tables: shapesOf(await ws.tables()) };
  for (const s of subsets) {
    const mistake = formula(s.condition, subsetScope(shapes, key), YESNO).problems.find((p) => p.severity === 'error');
    if (mistake) throw new Refused(422, 'values', `${s.label}: ${mistake.message}`, { subset: s.key });
  }
  if (new Set(subsets.map((s) => s.key)).size !== subsets.length) throw new Refused(422, 'values', 'Two subsets have the same name.', {});
  const broken = await breakages(ws, (tables) => withTable(tables, key, (t) => ({ ...t, subsets })));
  refuseBreakages('A subset that is taken away or changed is used', broken);
  await ws.db.transaction((db) => writeSubsets(db, key, subsets));
  ws.modelChanged();
}

// ---- lines ----

/** Makes a child table for the lines of a form: `place` keeps their order, a link leads to the record. */
export async function createLinesTable(
  ws: Workspace,
  form: string,
  label: string,
): Promise<{ table: string; link: string; order: string }> {
  const { draft } = await draftOf(ws, form);
  const parent = await ws.modelTable(draft.table);
  const key = keyFromLabel(label, (await ws.modelTables()).map((t) => t.key)); // prettier-ignore
  const link = keyFromLabel(parent.label, ['place']);
  const columns = [
    columnSchema.parse({ key: link, label: parent.label, type: 'link', target: parent.key }),
    columnSchema.parse({ key: 'place', label: 'Place', type: 'number', decimals: 0 }),
  ];
  await ws.db.transaction((db) => createTable(db, { key, label, shown: null, columns }));
  ws.modelChanged();
  return { table: key, link, order: 'place' };
}
