import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Row } from '../../core/values/types.ts';
import { openDatabase, closeDatabase } from '../database/connection';
import type { ModelTable } from '../database/model';
import { allRows, deleteRow, insertRow, restoreRow, setColumn, updateRow } from '../database/rows';
import { ON_SERVER } from '../testing/databases';
import { FIXED, NOW, bareWorkspace, demoFile } from '../testing/workspace';
import { Workspace } from './workspace';

/* Small tables are kept whole. Of one that was written in few rows these are read anew; it is what reading all of it gives. */

const STAMP = { at: NOW, account: null, form: null, formVersion: null };
const turn = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));
const revision = async (ws: Workspace, table: ModelTable, id: number): Promise<number> =>
  ((await ws.db(`data_${table.key}`).where({ id }).first('_revision')) as { _revision: number } | undefined)?._revision ?? 0;

/** Numbers below this one are put back, ever lower ones: what is inserted after them gets higher ones. */
const PUT_BACK = 1_000_000;
/** What is done to a table, each in a way of its own: to one row, or to rows of which nobody says which. */
const WRITES: ((ws: Workspace, table: ModelTable, ids: readonly number[], n: number) => Promise<unknown>)[] = [
  (ws, table, _, n) => insertRow(ws.db, table, { name: `New ${n}` }, STAMP),
  (ws, table, _, n) => ws.db.transaction(async (db) => { await insertRow(db, table, { name: `a ${n}` }, STAMP); await insertRow(db, table, { name: `B ${n}` }, STAMP); }),
  async (ws, table, [id = 0], n) => updateRow(ws.db, table, id, await revision(ws, table, id), { name: `named ${n}` }, STAMP),
  (ws, table, [id = 0]) => updateRow(ws.db, table, id, 99_999, { name: 'never' }, STAMP),
  (ws, table, [id = 0]) => deleteRow(ws.db, table.key, id),
  (ws, table, ids, n) => ws.db.transaction(async (db) => { for (const id of ids) await deleteRow(db, table.key, id); await insertRow(db, table, { name: `after ${n}` }, STAMP); }),
  (ws, table, [id = 0], n) => setColumn(ws.db, table.key, table.columns.find((c) => c.key === 'name')!, [{ id, value: `silent ${n}` }], 'silently'),
  (ws, table, _, n) => restoreRow(ws.db, table, { id: PUT_BACK - n, name: 'back' }, STAMP),
  (ws, table, [id = 0]) => ws.db.transaction(async (db) => { await deleteRow(db, table.key, id); throw new Error('undone'); }).catch(() => 0),
  (ws) => ws.db('data_people').update({ team: 'Field' }),
]; // prettier-ignore

test('whatever is written, in whatever order, what is kept is what there is', async () => {
  const { ws } = await bareWorkspace();
  const table = await ws.modelTable('people');
  for (let i = 0; i < 20; i++) await insertRow(ws.db, table, { name: `Person ${i}` }, STAMP);
  let n = 0;
  let again = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(fc.tuple(fc.nat(WRITES.length - 1), fc.nat(), fc.boolean()), { maxLength: 8 }), async (steps) => {
      let before = await ws.wholeTable(table);
      for (const [which, at, asks] of steps) {
        // the first two have accounts, and stay
        const from = 2 + (at % (before.length - 1));
        await WRITES[which]!(ws, table, before.slice(from, from + 2).map((r) => r.id), ++n); // prettier-ignore
        if (!asks) continue;
        const now = await ws.wholeTable(table);
        expect(now).toEqual(await allRows(ws.db, table));
        if (now.some((r) => before.includes(r))) again++;
        before = now;
      }
      expect(await ws.wholeTable(table)).toEqual(await allRows(ws.db, table));
    }),
    { numRuns: 60 },
  );
  // rows that were not written are the very same: they were not read again
  expect(again).toBeGreaterThan(20);
  await ws.close();
});

test('many commits between two questions, and what another process writes, are read whole', async () => {
  const file = ON_SERVER ? null : await demoFile();
  const [one, other] = file ? [new Workspace(await openDatabase(file), FIXED), new Workspace(await openDatabase(file), FIXED)] : [(await bareWorkspace()).ws, null]; // prettier-ignore
  const table = await one.modelTable('people');
  const first = await one.wholeTable(table);
  for (let i = 0; i < 120; i++) await insertRow(one.db, table, { name: `One of many ${i}` }, STAMP);
  expect(await one.wholeTable(table)).toEqual(await allRows(one.db, table));
  expect((await one.wholeTable(table)).length).toBe(first.length + 120);
  if (other) {
    expect(await other.wholeTable(table)).toEqual(await allRows(one.db, table));
    await insertRow(other.db, table, { name: 'From elsewhere' }, STAMP);
    await insertRow(one.db, table, { name: 'From here' }, STAMP);
    await turn();
    for (const ws of [one, other]) {
      const names = (rows: readonly Row[]): unknown[] => rows.slice(-2).map((r) => r.name);
      expect(names(await ws.wholeTable(table))).toEqual(['From elsewhere', 'From here']);
    }
    await closeDatabase(other.db);
  }
  await one.close();
});
