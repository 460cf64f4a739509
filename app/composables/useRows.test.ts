import { expect, test } from 'vitest';
import { later } from '../testing/server';
import { type RowsPage, type RowsQuery, useRows } from './useRows';

interface Line {
  readonly row: { readonly id: number; readonly name: string };
}
const line = (id: number, name = `row ${id}`): Line => ({ row: { id, name } });
/** A table of 250 rows as the server answers it; what was asked stands in `asked`. */
function table(total = 250) {
  const asked: RowsQuery[] = [];
  const read = (query: RowsQuery): Promise<RowsPage<Line>> => {
    asked.push(query);
    const first = Number(query.offset ?? 0);
    const rows = Array.from({ length: Math.min(100, total - first) }, (_, i) => line(first + i + 1));
    return Promise.resolve({ rows, total, linked: { sites: { 7: `site of ${first}` } } });
  };
  return { asked, read };
}
const settled = async (): Promise<void> => {
  for (let i = 0; i < 20; i++) await Promise.resolve();
};

test('pages are read as they come into view, each once; texts of linked rows are gathered', async () => {
  const { asked, read } = table();
  const rows = useRows(read);
  rows.need(0, 30);
  rows.need(20, 60);
  await settled();
  expect(asked.map((q) => q.offset)).toEqual([0]);
  expect([rows.total.value, rows.at(99)?.row.id, rows.at(100)]).toEqual([250, 100, undefined]);
  rows.need(90, 240);
  await settled();
  expect(asked.map((q) => q.offset)).toEqual([0, 100, 200]);
  expect([rows.at(249)?.row.id, rows.find(150)?.row.name, rows.linked.sites?.[7]]).toEqual([250, 'row 150', 'site of 200']);
});

test('sorting, and sorting the same again, reads anew; an answer to what was asked before takes no newer one’s place', async () => {
  const first = later<RowsPage<Line>>();
  const asked: RowsQuery[] = [];
  const rows = useRows((query: RowsQuery) => {
    asked.push(query);
    return asked.length === 1 ? first.answer : Promise.resolve({ rows: [line(9, 'sorted')], total: 1, linked: {} });
  });
  rows.need(0, 10);
  rows.sortBy('name');
  await settled();
  first.give({ rows: [line(1, 'late')], total: 1, linked: {} });
  await settled();
  expect(rows.at(0)?.row.name).toBe('sorted');
  rows.sortBy('name');
  expect(asked.map((q) => [q.sort, q.descending])).toEqual([[undefined, '0'], ['name', '0'], ['name', '1']]); // prettier-ignore
});

test('what could not be read is told, and is read when it is needed again', async () => {
  let down = true;
  const rows = useRows((query: RowsQuery) => (down ? Promise.reject(new Error('The disk is full.')) : table().read(query)));
  rows.need(0, 10);
  await settled();
  expect([rows.ready.value, rows.failed.value?.message]).toEqual([false, 'The disk is full.']);
  down = false;
  rows.need(0, 10);
  await settled();
  expect([rows.ready.value, rows.failed.value, rows.total.value]).toEqual([true, null, 250]);
});

test('read anew, the rows that stood further down are not taken for what they were', async () => {
  const { read } = table();
  const rows = useRows(read);
  rows.need(0, 240);
  await settled();
  rows.replace(line(150, 'changed here'));
  expect(rows.find(150)?.row.name).toBe('changed here');
  rows.need(0, 10);
  await rows.again();
  expect([rows.at(0)?.row.id, rows.at(149)]).toEqual([1, undefined]);
  rows.need(140, 160);
  await settled();
  expect(rows.at(149)?.row.name).toBe('row 150');
});

test('of a million rows only those that were read are kept: places are made as they are drawn, the same until something changes', async () => {
  const { read } = table(1_000_000);
  const rows = useRows(read);
  rows.need(0, 10);
  rows.need(700_050, 700_060);
  await settled();
  const { lines } = rows;
  expect([lines.value.length, Object.keys(lines.value).filter((k) => /^\d/.test(k)).length]).toEqual([1_000_000, 0]);
  const [read0, unread] = [lines.value.slice(700_099, 700_101), lines.value.slice(700_099, 700_101)];
  expect(read0.map((l) => [l.index, l.row?.row.id ?? null])).toEqual([[700_099, 700_100], [700_100, null]]); // prettier-ignore
  expect([unread[0] === read0[0], unread[1] === read0[1]]).toEqual([true, true]);
  expect(lines.value.slice(999_999, 1_000_020)).toHaveLength(1);
});
