import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { type PackagedTable, dataPackageSchema, inOrder, resourceOf, tableOf } from '../../core/exchange/dataPackage.ts';
import { csvCell, csvText } from '../../core/exchange/csv.ts';
import { isFolded } from '../../core/choices/order.ts';
import { type Column, keyFromLabel, keyProblem } from '../../core/model/tables.ts';
import type { Row } from '../../core/values/types.ts';
import type { Entry as ZipEntry, ZipFile } from 'yauzl';
import { Zip, ZipDeflate, strToU8 } from 'fflate';
import { addColumns, dropTable, orderColumns, writeSubsets } from '../database/model';
import { setColumn } from '../database/rows';
import type { ImportFile } from '../imports/files';
import { type Unpacked, unpacked } from '../imports/unpacked';
import { readEntry, zipEntries } from '../imports/zip';
import type { Account } from '../database/accounts';
import { Refused } from './errors';
import { pages } from './exports';
import { type ImportPlan, runImport } from './imports';
import type { JobHandle } from './jobs';
import { Pace } from './pace';
import type { Workspace } from './workspace';

export const isPackage = (name: string): boolean => /\.(zip|datapackage)$/i.test(name);

interface Opened {
  readonly tables: readonly PackagedTable[];
  /** the rows of a resource */
  csv(resource: string): Promise<Unpacked>;
  close(): void;
}

async function openPackage(path: string): Promise<Opened> {
  const { zip, entries } = await zipEntries(path);
  const close = (): void => zip.close();
  try {
    return { ...(await readPackage(zip, entries, path)), close };
  } catch (e) {
    close();
    throw e;
  }
}

async function readPackage(zip: ZipFile, entries: readonly ZipEntry[], path: string): Promise<Omit<Opened, 'close'>> {
  const description = entries.find((e) => /(^|\/)datapackage\.json$/.test(e.fileName));
  if (!description) throw new Refused(422, 'file', 'The archive has no datapackage.json, so it is no data package.', {});
  const folder = description.fileName.replace(/datapackage\.json$/, '');
  let json: unknown;
  try {
    json = JSON.parse((await readEntry(zip, description)).toString('utf8'));
  } catch (e) {
    if (e instanceof Refused) throw e;
    throw new Refused(422, 'file', 'The datapackage.json is not valid JSON.', {});
  }
  const parsed = dataPackageSchema.safeParse(json);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw new Refused(
      422,
      'file',
      `The datapackage.json does not describe tables: ${issue?.path.join('.') ?? ''} ${issue?.message ?? ''}`,
      {},
    );
  }
  const { resources } = parsed.data;
  return {
    tables: inOrder(
      resources.map((r) =>
        tableOf(r, (label, taken) => (keyProblem(label) === null && !taken.includes(label) ? label : keyFromLabel(label, taken))),
      ),
      (t) => ({ name: t.resource, links: t.columns.flatMap((c) => c.link?.resource ?? []) }),
    ),
    csv(name) {
      const of = resources.find((r) => r.name === name)?.path;
      const file = Array.isArray(of) ? of[0] : of;
      const entry = entries.find((e) => e.fileName === `${folder}${file ?? `${name}.csv`}`);
      if (!entry) throw new Refused(422, 'file', `The package has no file “${file ?? name}” for ${name}.`, {});
      return unpacked(zip, entry, path, name);
    },
  };
}

/** A link that could not be made while its table was imported: the column and, by row, the key it leads to. */
interface Later {
  readonly table: string;
  readonly column: Column;
  /** resource and field that the keys are of */
  readonly target: string;
  readonly order: readonly string[];
  readonly values: (readonly [row: number, key: string])[];
}

export type PackageLook = Extract<Result<typeof contract.imports.guess>, { readonly package: unknown }>['package'];

/** What a package holds and what its tables would be called here. Nothing is written. */
export async function lookAtPackage(ws: Workspace, path: string): Promise<PackageLook> {
  const opened = await openPackage(path);
  opened.close();
  const names = await freeNames(ws, opened.tables);
  return {
    tables: opened.tables.map((t) => ({
      ...(names.get(t.resource) as { key: string; label: string }),
      columns: t.columns.filter((c) => c.column).length,
      links: t.columns.flatMap((c) => (c.link ? [names.get(c.link.resource)?.label ?? c.link.resource] : [])),
    })),
  };
}

/** Names for the tables of a package that are not used here yet. */
async function freeNames(ws: Workspace, tables: readonly PackagedTable[]): Promise<Map<string, { key: string; label: string }>> {
  const existing = await ws.modelTables();
  const keys = existing.map((t) => t.key);
  const labels = new Set(existing.map((t) => t.label));
  const names = new Map<string, { key: string; label: string }>();
  for (const t of tables) {
    let label = t.label;
    for (let n = 2; labels.has(label); n++) label = `${t.label} ${n}`;
    labels.add(label);
    const key = keyProblem(t.resource) === null && !keys.includes(t.resource) ? t.resource : keyFromLabel(label, keys);
    keys.push(key);
    names.set(t.resource, { key, label });
  }
  return names;
}

/** Imports every resource as a new table, linked by the package's foreign keys; all of them, or none. */
export async function importPackage(
  ws: Workspace,
  account: Account | null,
  path: string,
  job: JobHandle,
): Promise<{ tables: { key: string; label: string; rows: number }[] }> {
  const opened = await openPackage(path);
  const names = await freeNames(ws, opened.tables);
  const made: { key: string; label: string; rows: number }[] = [];
  /** by resource and field: the row (its number in the file) that each key stands for */
  const keysOf = new Map<string, ReadonlyMap<string, number>>();
  const later: Later[] = [];
  try {
    for (const [at, t] of opened.tables.entries()) {
      job.at(at / opened.tables.length, `importing ${t.label}`);
      const { file, drop } = await opened.csv(t.resource);
      try {
        const { plan, keys, afterwards } = await planOf(t, file, names, keysOf, new Set(made.map((m) => m.key)));
        const done = await runImport(ws, account, plan, file, { at: (p) => job.at((at + p) / opened.tables.length) }, keys);
        made.push({ ...(names.get(t.resource) as { key: string; label: string }), rows: done.rows });
        await noteKeys(t, opened.tables, file, keysOf, afterwards, later, plan.key);
        if (t.subsets.length) await ws.db.transaction((db) => writeSubsets(db, plan.key, t.subsets));
      } finally {
        await drop();
      }
    }
    for (const l of later) {
      const known = keysOf.get(l.target);
      const column = { ...l.column, target: names.get(l.column.target ?? '')?.key ?? null };
      await ws.db.transaction(async (db) => {
        await addColumns(db, await ws.modelTable(l.table, db), [column]);
        const values = [...l.values].map(([id, text]) => ({ id, value: known?.get(text) ?? null }));
        await setColumn(db, l.table, column, values, 'silently');
        await orderColumns(db, l.table, l.order);
      });
      ws.modelChanged();
    }
    return { tables: made };
  } catch (e) {
    for (const { key } of made.reverse()) await ws.db.transaction((db) => dropTable(db, key));
    throw e;
  } finally {
    opened.close();
    ws.modelChanged();
    for (const { key } of made) ws.rowsChanged(key);
  }
}

async function planOf(
  t: PackagedTable,
  file: ImportFile,
  names: ReadonlyMap<string, { key: string; label: string }>,
  keysOf: ReadonlyMap<string, ReadonlyMap<string, number>>,
  made: ReadonlySet<string>,
): Promise<{ plan: ImportPlan; keys: Map<string, ReadonlyMap<string, number>>; afterwards: PackagedTable['columns'] }> {
  const name = names.get(t.resource) as { key: string; label: string };
  const keys = new Map<string, ReadonlyMap<string, number>>();
  const afterwards: PackagedTable['columns'][number][] = [];
  const columns = file.headers.map((header) => {
    const described = t.columns.find((c) => c.field === header);
    if (!described?.column) return null;
    const { column, link } = described;
    if (!link) return { key: column.key, label: column.label, type: column.type, target: column.target };
    const target = names.get(link.resource)?.key ?? null;
    const known = keysOf.get(`${link.resource} ${link.field}`);
    if (target !== null && made.has(target) && known) {
      keys.set(column.key, known);
      return { key: column.key, label: column.label, type: 'link' as const, target };
    }
    // a link to a table that comes later, or to the table itself, is made when its rows are there
    afterwards.push(described);
    return null;
  });
  const used = columns.filter((c) => c !== null);
  const shown = used.some((c) => c.key === t.shown) ? t.shown : (used[0]?.key ?? null);
  return { plan: { ...name, shown, columns, repairs: {} }, keys, afterwards };
}

/** Notes which row each key of a resource stands for, where others refer to it, and what is to be linked afterwards. */
async function noteKeys(
  t: PackagedTable,
  all: readonly PackagedTable[],
  file: ImportFile,
  keysOf: Map<string, ReadonlyMap<string, number>>,
  afterwards: PackagedTable['columns'],
  later: Later[],
  key: string,
): Promise<void> {
  const referred = new Set(all.flatMap((o) => o.columns.flatMap((c) => (c.link?.resource === t.resource ? [c.link.field] : []))));
  const order = t.columns.flatMap((c) => (c.column ? [c.column.key] : []));
  const maps = [...referred].map((field) => ({ field, at: file.headers.indexOf(field), map: new Map<string, number>() }));
  const links = afterwards.flatMap((c) =>
    c.column && c.link
      ? [
          {
            at: file.headers.indexOf(c.field),
            made: {
              table: key,
              column: c.column,
              order,
              target: `${c.link.resource} ${c.link.field}`,
              values: [] as (readonly [number, string])[],
            },
          },
        ]
      : [],
  );
  let row = 0;
  for await (const batch of file.lines()) {
    for (const cells of batch) {
      row++;
      for (const { at, map } of maps) map.set(cells[at] ?? '', row);
      for (const l of links) if ((cells[l.at] ?? '') !== '') l.made.values.push([row, cells[l.at] as string]);
    }
  }
  for (const { field, map } of maps) keysOf.set(`${t.resource} ${field}`, map);
  later.push(...links.map((l) => l.made));
}

/** A text that stands in an archive beside the tables. */
export interface Beside {
  readonly name: string;
  readonly text: string;
}
/** Tables as a data package: a zip with datapackage.json and one CSV each, streamed; what stands beside them comes first. */
export async function* exportPackage(ws: Workspace, keys: readonly string[], beside: readonly Beside[] = []): AsyncGenerator<Uint8Array> {
  const tables = await Promise.all(keys.map((k) => ws.modelTable(k)));
  const packaged = new Set(keys);
  const pace = new Pace();
  const ready: Uint8Array[] = [];
  let failure: Error | null = null;
  const zip = new Zip((error, chunk) => {
    if (error) failure = error;
    else ready.push(chunk);
  });
  const take = function* (): Generator<Uint8Array> {
    if (failure) throw failure;
    yield* ready.splice(0);
  };
  const description = new ZipDeflate('datapackage.json');
  zip.add(description);
  const json = {
    name: 'brisk-acorn',
    created: new Date().toISOString(),
    profile: 'tabular-data-package',
    resources: tables.map((t) => resourceOf(t, packaged)),
  };
  description.push(strToU8(`${JSON.stringify(json, null, 2)}\n`), true);
  for (const { name, text } of beside) {
    const file = new ZipDeflate(name);
    zip.add(file);
    file.push(strToU8(text), true);
    yield* take();
    await pace.rest();
  }
  for (const table of tables) {
    const file = new ZipDeflate(`${table.key}.csv`);
    zip.add(file);
    file.push(strToU8(`id,${table.columns.map((c) => csvCell(c.key, true)).join(',')}\n`));
    for await (const rows of pages(ws, table)) {
      const line = (row: Row): string =>
        `${row.id},${table.columns.map((c) => csvCell(csvText(c, row[c.key] ?? null), isFolded(c.type))).join(',')}\n`;
      file.push(strToU8(rows.map(line).join('')));
      yield* take();
      await pace.rest();
    }
    file.push(new Uint8Array(0), true);
    yield* take();
    await pace.rest();
  }
  zip.end();
  yield* take();
}
