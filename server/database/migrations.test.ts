import { expect, test } from 'vitest';
import { columnSchema } from '../../core/model/schemas.ts';
import { openDatabase } from './connection';
import { MIGRATIONS } from './migrations';
import { addColumns, createTable, dropTable, readModel } from './model';
import { SQL_NAMES, dataTable, storedColumns } from './names';
import { allRows, insertRow } from './rows';

const STAMP = { at: '2026-03-10T09:00:00', account: null, form: null, formVersion: null };

test('migrations go down as they came up, and up again', async () => {
  const db = await openDatabase(':memory:');
  const names = async (): Promise<string[]> =>
    (
      (await db.raw(
        `SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'knex%' AND name NOT LIKE 'sqlite%' ORDER BY name`,
      )) as { name: string }[]
    ).map((r) => r.name);
  const before = await names();
  expect(before).toEqual(
    expect.arrayContaining(['accounts', 'data_people', 'forms', 'form_versions', 'history', 'option_lists', 'origins']),
  );
  for (const m of [...MIGRATIONS].reverse()) await m.down(db);
  expect(await names()).toEqual([]);
  for (const m of MIGRATIONS) await m.up(db);
  expect(await names()).toEqual(before);
  await db.destroy();
});

test('durable, write-ahead, and with foreign keys', async () => {
  const db = await openDatabase(':memory:');
  const pragma = async (name: string): Promise<unknown> => Object.values(((await db.raw(`PRAGMA ${name}`)) as object[])[0] ?? {})[0];
  expect(await pragma('foreign_keys')).toBe(1);
  expect(await pragma('synchronous')).toBe(2);
  await db.destroy();
});

test('every column type is a typed SQL column and gives back what was put in', async () => {
  const db = await openDatabase(':memory:');
  const column = (key: string, type: string, target: string | null = null) => columnSchema.parse({ key, label: key, type, target });
  const parent = { key: 'places', label: 'Places', shown: 'name', columns: [column('name', 'text')] };
  const table = {
    key: 'things', label: 'Things', shown: null,
    columns: [column('t', 'text'), column('lt', 'longtext'), column('n', 'number'), column('d', 'date'), column('ti', 'time'), column('dt', 'datetime'), column('y', 'yesno'), column('c', 'choice'), column('l', 'link', 'places')],
  }; // prettier-ignore
  await createTable(db, parent);
  await createTable(db, table);
  await addColumns(db, table, [column('p', 'person')]);
  const whole = (await readModel(db)).find((x) => x.key === 'things')!;
  expect(whole.columns.map((c) => [c.key, c.type, c.target])).toEqual([
    ...table.columns.map((c) => [c.key, c.type, c.target]),
    ['p', 'person', null],
  ]);
  const types = (await db.raw(`SELECT name, type FROM pragma_table_info('data_things')`)) as { name: string; type: string }[];
  expect(Object.fromEntries(types.map((t) => [t.name, t.type.toLowerCase()]))).toMatchObject({
    n: 'numeric',
    y: 'integer',
    l: 'integer',
    d: 'text',
    t__fold: 'text',
    p: 'integer',
  });
  const place = await insertRow(db, parent, { name: 'Fen' }, STAMP);
  const values = {
    t: 'Größe',
    lt: 'a\nb',
    n: 0.1,
    d: '0001-01-01',
    ti: '23:59:59',
    dt: '2026-03-01T10:00:00',
    y: false,
    c: 'x',
    l: place,
    p: null,
  };
  const id = await insertRow(db, whole, values, STAMP);
  expect(await allRows(db, whole)).toEqual([{ id, ...values }]);
  await expect(insertRow(db, whole, { l: 99_999 }, STAMP)).rejects.toThrow(/FOREIGN KEY/);
  await expect(db('data_places').where({ id: place }).delete()).rejects.toThrow(/FOREIGN KEY/);
  await dropTable(db, 'things');
  expect((await readModel(db)).some((x) => x.key === 'things')).toBe(false);
  await db.destroy();
});

test('identifiers come from the model only', () => {
  for (const bad of ['x"; DROP TABLE forms; --', 'Upper', '', 'a-b', '1a', '_x']) {
    expect(() => dataTable(bad), bad).toThrow(RangeError);
    expect(() => SQL_NAMES.column('t', bad), bad).toThrow(RangeError);
  }
  expect(SQL_NAMES.column('t', 'genus')).toBe('t."genus"');
  expect(storedColumns(columnSchema.parse({ key: 'name', label: 'N', type: 'text' }), 'Fen')).toEqual({ name: 'Fen', name__fold: 'FEN' });
});
