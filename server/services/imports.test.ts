import fc from 'fast-check';
import { beforeAll, describe, expect, test } from 'vitest';
import { csvCell, csvText } from '../../core/exchange/csv.ts';
import type { ColumnType } from '../../core/model/tables.ts';
import { allRows } from '../database/rows';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { exportCsv, exportJson, wholeTable } from './exports';
import { type ImportFile, csvText as fileOf } from '../imports/files';
import { guessImport } from './importGuess';
import { type ImportPlan, checkImport, runImport } from './imports';
import { removeTable } from './tables';

let t: TestWorkspace;
beforeAll(async () => {
  t = await demoWorkspace();
});
const text = async (pieces: AsyncGenerator<string>): Promise<string> => {
  let all = '';
  for await (const piece of pieces) all += piece;
  return all;
};

async function linesOf(file: ImportFile): Promise<(readonly string[])[]> {
  const all: (readonly string[])[] = [];
  for await (const batch of file.lines()) all.push(...batch);
  return all;
}

describe('reading a file', () => {
  test.each([
    ['a,b\n1,2\n', [['1', '2']]],
    ['a;b\n1;2\n', [['1', '2']]],
    ['a\tb\r\n1\t2\r\n', [['1', '2']]],
    ['\uFEFFa|b\n"x|y"|2', [['x|y', '2']]],
    ['a,b\n"line\nbreak","say ""so"""\n', [['line\nbreak', 'say "so"']]],
    ['a,b\n\n1,2\n\n', [['1', '2']]],
  ])('%j', async (file, lines) => {
    const opened = await fileOf(file);
    expect([opened.headers, await linesOf(opened)]).toEqual([['a', 'b'], lines]);
  });

  test.each([
    ['', /empty/],
    ['a,b\n', /no rows/],
    ['a,b\n1\n', /Line 2 has 1 value, but the header names 2 columns/],
    ['a,b\n1,2\n1,2,3\n', /Line 3 has 3 values/],
    ['a\n"x\n', /line \d/],
    ['a\n\uFFFD\n', /UTF-8/],
    [`${Array.from({ length: 501 }, (_, i) => `c${i}`).join(',')}\n`, /501 columns/],
  ])('%j is refused with a sentence', async (file, message) => {
    const read = fileOf(file).then((f) => guessImport(t.ws, f));
    expect((await refusal(read)).message).toMatch(message);
  });
});

describe('guessing', () => {
  test('names, types, links and the shown column', async () => {
    const text =
      'Tray,Species,Sown on,Count,Kept by,Done\nT1,Quercus robur,2026-03-01,12,Ida Fenn,yes\nT2,rosa canina,2.3.2026,0,Tom Reed,no\n';
    const guess = await guessImport(t.ws, await fileOf(text, 'seed-trays_2026.csv'));
    expect(guess).toMatchObject({ label: 'Seed trays 2026', key: 'seed_trays_2026', shown: 'tray', rows: 2 });
    expect(guess.columns.map((c) => [c.key, c.type, c.target])).toEqual([
      ['tray', 'text', null],
      ['species', 'link', 'species'],
      ['sown_on', 'date', null],
      ['count', 'number', null],
      ['kept_by', 'person', 'people'],
      ['done', 'yesno', null],
    ]);
  });

  test('a link is found by whichever column fits best: a code, an e-mail, two columns together; its share is told', async () => {
    const coded = 'Serial,Name,Kind\nDB-10,Big balance,balance\nDB-11,Small balance,balance\nHM-1,Meter,meter\n';
    const made = await guessImport(t.ws, await fileOf(coded, 'instruments.csv'));
    expect([made.shown, made.columns.map((c) => c.type)], 'names are preferred over codes').toEqual(['name', ['text', 'text', 'text']]);
    await runImport(t.ws, t.maud, { ...made, repairs: {} }, await fileOf(coded));
    const uses =
      'Day,Instrument,By,Both\n2026-03-01,db-10,ida@marrowfen.example,DB-10 / Big balance\n2026-03-02,HM-1,tom@marrowfen.example,HM-1 Meter\n2026-03-02,HM-2,nobody@else.example,DB-11 – Small balance\n';
    const guess = await guessImport(t.ws, await fileOf(uses, 'uses.csv'));
    expect(guess.columns.map((c) => [c.type, c.target, c.by, Math.round((c.ways[0]?.share ?? 0) * 100)])).toEqual([
      ['date', null, [], 0],
      ['link', 'instruments', ['serial'], 67],
      ['person', 'people', ['email'], 67],
      ['link', 'instruments', ['serial', 'name'], 100],
    ]);
    const check = await checkImport(t.ws, { ...guess, repairs: {} }, await fileOf(uses));
    expect(check.unmatched.instrument?.map((u) => [u.value, u.near[0]?.text, u.sure])).toEqual([['HM-2', 'HM-1 · Meter', false]]);
    const repairs = { instrument: { 'HM-2': { add: true } }, by: { 'nobody@else.example': { empty: true } } } as const;
    await runImport(t.ws, t.maud, { ...guess, repairs }, await fileOf(uses));
    const instruments = await allRows(t.ws.db, await t.ws.modelTable('instruments'));
    expect(instruments.map((r) => r.serial)).toEqual(['DB-10', 'DB-11', 'HM-1', 'HM-2']);
    const rows = await allRows(t.ws.db, await t.ws.modelTable('uses'));
    expect(rows.map((r) => [r.instrument, r.both])).toEqual([[1, 1], [3, 3], [4, 2]]); // prettier-ignore
    const copy = await guessImport(t.ws, await fileOf('Tray,Serial\nT1,DB-10\nT2,HM-1\n', 'copies.csv'));
    expect(
      copy.columns.map((c) => c.type),
      'the same column again is a copy, no link',
    ).toEqual(['text', 'text']);
    await removeTable(t.ws, 'uses');
    await removeTable(t.ws, 'instruments');
  });

  test('rows of the same file can be parents of each other, wherever in it they stand', async () => {
    const text = 'Code,Name,Part of\nR2,Room two,B\nB,Building,\nS1,Shelf one,R2\nS2,Shelf two,R9\n';
    const guess = await guessImport(t.ws, await fileOf(text, 'places.csv'));
    expect(guess.columns.map((c) => [c.type, c.target, c.by])).toEqual([['text', null, []], ['text', null, []], ['link', '@self', ['code']]]); // prettier-ignore
    const plan = { ...guess, repairs: {} };
    expect((await checkImport(t.ws, plan, await fileOf(text))).unmatched.part_of?.map((u) => [u.value, u.near.map((n) => n.id)])).toEqual([['R9', [1]]]); // prettier-ignore
    await runImport(t.ws, t.maud, { ...plan, repairs: { part_of: { R9: { to: 1 } } } }, await fileOf(text));
    const rows = await allRows(t.ws.db, await t.ws.modelTable('places'));
    expect(rows.map((r) => r.part_of)).toEqual([2, null, 1, 1]);
    const columns = guess.columns.map((c) => (c.key === 'code' ? null : c));
    expect((await refusal(checkImport(t.ws, { ...plan, key: 'again', columns }, await fileOf(text)))).message).toMatch(/its own table/);
    await removeTable(t.ws, 'places');
  });

  test('rows that come to a table that is there can be parents of each other, of rows there, and of rows they change', async () => {
    const first = 'Code,Name,Part of\nB,Building,\nR1,Room one,B\n';
    const made = await guessImport(t.ws, await fileOf(first, 'places.csv'));
    await runImport(t.ws, t.maud, { ...made, shown: 'name', repairs: {} }, await fileOf(first));
    const more = 'Code,Name,Part of\nS1,Shelf one,R2\nR2,Room two,B\nR1,Room 1,W\nW,Wing,b\nS2,Shelf two,R1\nS3,Shelf three,X\n';
    const guess = await guessImport(t.ws, await fileOf(more), 'places');
    expect([guess.columns[2]?.by, guess.columns[2]?.ways[0]?.share.toFixed(2)]).toEqual([['code'], '0.83']);
    for (const [match, expected, counts] of [
      ['code', ['B ', 'R1 W', 'S1 R2', 'R2 B', 'W B', 'S2 R1', 'S3 '], { added: 5, changed: 1 }],
      [null, ['B ', 'R1 B', 'S1 R2', 'R2 B', 'R1 W', 'W B', 'S2 R1', 'S3 '], { added: 6, changed: 0 }],
    ] as const) {
      await removeTable(t.ws, 'places');
      await runImport(t.ws, t.maud, { ...made, shown: 'name', repairs: {} }, await fileOf(first));
      const plan: ImportPlan = { ...guess, into: 'places', match, repairs: {} };
      expect((await checkImport(t.ws, plan, await fileOf(more))).unmatched.part_of?.map((u) => u.value)).toEqual(['X']);
      const done = await runImport(t.ws, t.maud, { ...plan, repairs: { part_of: { X: { empty: true } } } }, await fileOf(more));
      expect(done).toMatchObject(counts);
      const rows = await allRows(t.ws.db, await t.ws.modelTable('places'));
      const codes = new Map(rows.map((r) => [r.id, String(r.code)]));
      expect(rows.map((r) => `${String(r.code)} ${codes.get(Number(r.part_of)) ?? ''}`)).toEqual(expected);
    }
    // a parent that is made by the way, and one that another line of the file is (near, chosen by hand)
    const last = 'Code,Name,Part of\nT1,Tray one,Q\nT2,Tray two,T-1\n';
    const plan: ImportPlan = { ...(await guessImport(t.ws, await fileOf(last), 'places')), into: 'places', match: 'code', repairs: {} };
    const by = plan.columns.map((c) => c && { ...c, by: c.key === 'part_of' ? ['code'] : [] });
    const near = (await checkImport(t.ws, { ...plan, columns: by }, await fileOf(last))).unmatched.part_of;
    expect(near?.map((u) => u.value)).toEqual(['Q', 'T-1']);
    expect(near?.[1]?.near[0]?.id).toBe(-1);
    const repairs = { part_of: { Q: { add: true }, 'T-1': { to: -1 } } } as const;
    await runImport(t.ws, t.maud, { ...plan, columns: by, repairs }, await fileOf(last));
    const rows = await allRows(t.ws.db, await t.ws.modelTable('places'));
    const called = new Map(rows.map((r) => [r.id, String(r.code)]));
    expect(rows.filter((r) => /^T/.test(String(r.code))).map((r) => called.get(Number(r.part_of)))).toEqual(['Q', 'T1']);
    await removeTable(t.ws, 'places');
  });

  test('a file named like a table gets a label and a name of its own', async () => {
    expect(await guessImport(t.ws, await fileOf('name\nA\n', 'stores.csv'))).toMatchObject({ label: 'Stores 2', key: 'stores_2' });
  });

  test('columns without a name or with the same name get one of their own', async () => {
    const guess = await guessImport(t.ws, await fileOf(',a,a\n1,2,3\n'));
    expect(guess.columns.map((c) => c.key)).toEqual(['column_1', 'a', 'a_2']);
  });
});

describe('bringing in', () => {
  const plan = (more: Partial<ImportPlan> = {}): ImportPlan => ({
    key: 'trays',
    label: 'Trays',
    shown: 'name',
    repairs: {},
    columns: [
      { key: 'name', label: 'Name', type: 'text', target: null },
      { key: 'genus', label: 'Genus', type: 'link', target: 'genera' },
    ],
    ...more,
  });
  const FILE = 'name,genus\nA,Quercus\nB,Qeurcus\nC,Nowhere\nD,\n';

  test('what does not match is told with the nearest, and nothing is written until it is decided', async () => {
    const check = await checkImport(t.ws, plan(), await fileOf(FILE));
    expect(check.unmatched.genus?.map((u) => [u.value, u.near[0]?.text])).toEqual([
      ['Qeurcus', 'Quercus'],
      ['Nowhere', undefined],
    ]);
    expect(await refusal(runImport(t.ws, t.maud, plan(), await fileOf(FILE)))).toMatchObject({ status: 422, code: 'import' });
    expect((await t.ws.modelTables()).some((x) => x.key === 'trays')).toBe(false);
  });

  test('a repair leads to a row, leaves empty, or adds a row', async () => {
    const genera = await allRows(t.ws.db, await t.ws.modelTable('genera'));
    const quercus = genera.find((g) => g.name === 'Quercus')?.id ?? 0;
    const repairs = { genus: { Qeurcus: { to: quercus }, Nowhere: { add: true } } } as const;
    expect(await runImport(t.ws, t.maud, plan({ repairs }), await fileOf(FILE))).toMatchObject({ table: 'trays', rows: 4, added: 4 });
    const rows = await allRows(t.ws.db, await t.ws.modelTable('trays'));
    const added = (await allRows(t.ws.db, await t.ws.modelTable('genera'))).find((g) => g.name === 'Nowhere');
    expect(rows.map((r) => r.genus)).toEqual([quercus, quercus, added?.id, null]);
    await removeTable(t.ws, 'trays');
  });

  test.each([
    ['a name in use', { key: 'genera' }, /already/],
    ['a name that cannot be', { key: 'Trays!' }, /cannot be a name/],
    ['no column', { columns: [null, null] }, /At least one/],
    ['two of one name', { columns: [{ key: 'a', label: 'A', type: 'text', target: null }, { key: 'a', label: 'B', type: 'text', target: null }] }, /Two columns/],
    ['a link to no table', { columns: [{ key: 'name', label: 'A', type: 'text', target: null }, { key: 'genus', label: 'B', type: 'link', target: null }] }, /which table/],
    ['another file', { columns: [null] }, /do not fit the file/],
  ] as [string, Partial<ImportPlan>, RegExp][])('%s is refused', async (_, more, message) => {
    expect((await refusal(checkImport(t.ws, plan(more), await fileOf(FILE)))).message).toMatch(message);
  }); // prettier-ignore

  test('values that do not convert are listed with their lines', async () => {
    const number = { columns: [{ key: 'name', label: 'Name', type: 'number', target: null }, null] } as Partial<ImportPlan>;
    const check = await checkImport(t.ws, plan(number), await fileOf(FILE));
    expect(check.badCount).toBe(4);
    expect(check.bad[1]).toEqual({ line: 3, column: 'name', text: 'B', message: '“B” is not a number.' });
  });
});

test('any table written as CSV and brought in again is the same table', async () => {
  const filled = fc.oneof(fc.string({ unit: 'grapheme', minLength: 1, maxLength: 12 }), fc.constantFrom('=1+1', "'quoted'", ' spaces ', 'a,b', 'line\nbreak', '-', '+44', '@x')).filter((s) => s.trim() !== '' && !s.includes('\uFFFD') && !/\r/.test(s)).map((s) => s.normalize('NFC')); // prettier-ignore
  const row = fc.record({
    name: filled,
    amount: fc.option(fc.integer({ min: -1e9, max: 1e9 }).map((n) => n / 1000), { nil: null }), // prettier-ignore
    day: fc.option(fc.constantFrom('2026-03-01', '1999-12-31', '0099-01-01'), { nil: null }),
    yes: fc.option(fc.boolean(), { nil: null }),
    region: fc.option(fc.integer({ min: 1, max: 8 }), { nil: null }),
  });
  const columns: { key: string; label: string; type: ColumnType; target: string | null }[] = [
    { key: 'name', label: 'Name', type: 'text', target: null },
    { key: 'amount', label: 'Amount', type: 'number', target: null },
    { key: 'day', label: 'Day', type: 'date', target: null },
    { key: 'yes', label: 'Yes', type: 'yesno', target: null },
    { key: 'region', label: 'Region', type: 'link', target: 'regions' },
  ];
  const regions = await allRows(t.ws.db, await t.ws.modelTable('regions'));
  const plan = (key: string): ImportPlan => ({ key, label: key, shown: 'name', repairs: {}, columns });
  await fc.assert(
    fc.asyncProperty(fc.array(row, { minLength: 1, maxLength: 8 }), async (rows) => {
      const lines = rows.map((r) =>
        [
          csvCell(r.name, true),
          csvText({ type: 'number' }, r.amount),
          csvText({ type: 'date' }, r.day),
          csvText({ type: 'yesno' }, r.yes),
          String(regions.find((x) => x.id === r.region)?.name ?? ''),
        ].join(','),
      );
      try {
        await runImport(t.ws, t.maud, plan('first'), await fileOf(`name,amount,day,yes,region\n${lines.join('\n')}\n`));
        const stored = await allRows(t.ws.db, await t.ws.modelTable('first'));
        expect(stored.map(({ id: _, ...r }) => r)).toEqual(rows.map((r) => ({ ...r, name: r.name })));
        const csv = await text(exportCsv(t.ws, await wholeTable(t.ws, 'first')));
        await runImport(t.ws, t.maud, plan('second'), await fileOf(csv));
        expect(await text(exportCsv(t.ws, await wholeTable(t.ws, 'second')))).toBe(csv);
        const json = JSON.parse(await text(exportJson(t.ws, await wholeTable(t.ws, 'second')))) as { region: { id: number } | null }[];
        expect(json.map((r) => ({ ...r, region: r.region?.id ?? null }))).toEqual(stored);
      } finally {
        const made = (await t.ws.modelTables()).filter((x) => ['first', 'second'].includes(x.key));
        for (const { key } of made) await removeTable(t.ws, key);
      }
    }),
    { numRuns: 40 },
  );
});
