import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { isFormulaError } from '../formula/errors.ts';
import { CONTEXT, LOT_FIELDS, SEEDBANK_TABLES, answer, openSettled, packingForm, settleAll } from '../testing/seedbank.ts';
import { DataCache } from './cache.ts';
import { compileForm } from './compile.ts';
import type { StoredRecord } from './context.ts';
import { type Entry, openEntryInSteps } from './entry.ts';
import { type Edit, addressOf } from './state.ts';
import { verify } from './verify.ts';
import { why } from './why.ts';

const number = (more: object = {}): object => ({ label: 'n', type: 'number', ...more });
const FIELDS: Record<string, object> = {
  genus: { ...LOT_FIELDS.genus, source: { kind: 'rows', table: 'genera', show: 'name', sort: ['name'] } },
  price: number({ label: 'Price' }),
  packets: number({ label: 'Packets in all', value: { kind: 'calculation', formula: 'SUM(packings.packets)' } }),
  sum: number({ label: 'Sum', value: { kind: 'calculation', formula: 'SUM(packings.total)' } }),
  lines: number({ label: 'How many lines', value: { kind: 'calculation', formula: 'COUNTA(packings)' } }),
};
const LINES: Record<string, object> = {
  species: {
    label: 'Species',
    type: 'link',
    column: 'species',
    source: {
      kind: 'rows',
      table: 'species',
      show: 'name',
      sort: ['name'],
      where: 'choice.genus = genus AND choice.active',
      waiting: 'all',
    },
  },
  packets: number({ label: 'Packets', column: 'packets', value: { kind: 'default', formula: '1' } }),
  grams: number({ label: 'Grams', column: 'grams', required: 'NOT(ISBLANK(species))' }),
  total: number({ label: 'Total', column: 'total', value: { kind: 'calculation', formula: 'packets * grams * price' } }),
  share: number({ label: 'Share', value: { kind: 'calculation', formula: 'total / SUM(packings.total)' } }),
};
const plan = compileForm(packingForm(FIELDS, LINES), SEEDBANK_TABLES);
const open = (record: StoredRecord | null = null): Entry => openSettled(plan, { mode: record ? 'edit' : 'new' }, record);
function play(entry: Entry, ...edits: Edit[]): Entry {
  for (const edit of edits) {
    entry.apply([edit]);
    settleAll(entry);
  }
  return entry;
}
const set = (field: string, line: number, value: number): Edit => ({ kind: 'set', field: `packings.${field}`, line, value });

describe('lines', () => {
  test('the plan has no problems; a new entry starts with a blank line that is not judged', () => {
    expect(plan.problems).toEqual([]);
    const entry = open();
    expect(entry.lines('packings')).toEqual([-1]);
    expect(entry.value('packings.packets', -1)).toBe(1);
    expect(entry.isBlankLine('packings', -1)).toBe(true);
    expect(verify(entry)).toEqual([]);
  });

  test('per line, over all lines, and back into each line', () => {
    const entry = play(open(), { kind: 'set', field: 'price', value: 2 }, set('grams', -1, 3), {
      kind: 'addLine',
      field: 'packings',
      line: -2,
    });
    expect(entry.value('packings.total', -1)).toBe(6);
    expect(entry.value('sum')).toBe(6);
    expect(entry.value('packets')).toBe(2);
    play(entry, set('grams', -2, 4.5));
    expect(entry.value('sum')).toBe(15);
    expect([entry.value('packings.share', -1), entry.value('packings.share', -2)]).toEqual([0.4, 0.6]);
    play(entry, { kind: 'set', field: 'price', value: 1 });
    expect(entry.value('sum')).toBe(7.5);
    play(entry, { kind: 'removeLine', field: 'packings', line: -1 });
    expect([entry.value('sum'), entry.value('lines'), entry.value('packings.share', -2)]).toEqual([4.5, 1, 1]);
  });

  test('a condition over lines: any, all, none of them, how many; as their values change, and as lines come and go', () => {
    const asks = (formula: string): object => ({ label: 'asks', type: 'yesno', value: { kind: 'calculation', formula } });
    const over = compileForm(
      packingForm(
        {
          price: FIELDS.price!,
          any: asks('ANYOF(packings, each.grams > price AND each.packets = 1)'),
          all: asks('ALLOF(packings, each.grams > price)'),
          none: asks('NONEOF(packings, each.species.storage_c > 0)'),
          many: { label: 'many', type: 'number', value: { kind: 'calculation', formula: 'COUNTOF(packings, each.grams > price)' } },
        },
        { ...LINES, species: { ...LINES.species, source: { kind: 'rows', table: 'species', show: 'name', sort: ['name'] } } },
      ),
      SEEDBANK_TABLES,
    );
    expect(over.problems).toEqual([]);
    const entry = openSettled(over, { mode: 'new' });
    const now = (): unknown[] => ['any', 'all', 'none', 'many'].map((k) => entry.value(k));
    expect(now()).toEqual([false, false, true, 0]);
    play(entry, { kind: 'set', field: 'price', value: 2 }, set('grams', -1, 3));
    expect(now()).toEqual([true, true, true, 1]);
    play(entry, { kind: 'addLine', field: 'packings', line: -2 }, set('grams', -2, 1));
    expect(now()).toEqual([true, false, true, 1]);
    play(entry, set('packets', -1, 4));
    expect(now()).toEqual([false, false, true, 1]);
    play(entry, set('species', -2, 101));
    expect([entry.value('none'), verify(entry)]).toEqual([false, []]);
    play(entry, { kind: 'removeLine', field: 'packings', line: -2 });
    expect(now()).toEqual([false, true, true, 1]);
    const said = why(entry, 'any');
    expect(JSON.stringify(said)).not.toContain('"each');
  });

  test('one edit in one line computes that line and the totals, not the other lines', () => {
    const without = compileForm(
      packingForm({ price: FIELDS.price!, sum: FIELDS.sum! }, { packets: number(), grams: number(), total: LINES.total! }),
      SEEDBANK_TABLES,
    );
    const entry = openSettled(without);
    entry.apply([{ kind: 'set', field: 'price', value: 1 }]);
    for (let i = 2; i <= 200; i++)
      entry.apply([{ kind: 'addLine', field: 'packings', line: -i }, set('packets', -i, 1), set('grams', -i, 1)]);
    expect(entry.value('sum')).toBe(199);
    const change = entry.apply([set('grams', -7, 5)]);
    expect(change.computed).toBe(3);
    expect(change.changes.map((c) => addressOf(c.field, c.line))).toEqual(['packings.grams#-7', 'packings.total#-7', 'sum']);
    expect(entry.value('sum')).toBe(203);
  });

  test('lists in lines narrow by the form and by their line; filling up reaches the form', () => {
    const entry = play(open(), { kind: 'set', field: 'genus', value: 11 });
    expect(entry.offer('packings.species', -1)?.rows?.map((r) => r.id)).toEqual([102, 101]);
    play(entry, { kind: 'set', field: 'packings.species', line: -1, value: 101 });
    expect(verify(entry).map((i) => [i.field, i.line, i.code])).toEqual([['packings.grams', -1, 'required']]);
    play(entry, { kind: 'set', field: 'genus', value: 21 });
    expect(entry.value('packings.species', -1)).toBe(null);
    expect(entry.state('packings.species', -1).origin).toEqual({ kind: 'cleared', by: ['genus'] });
    const other = play(open(), { kind: 'set', field: 'packings.species', line: -1, value: 201 });
    expect(other.value('genus')).toBe(21);
    expect(other.state('genus').origin).toEqual({ kind: 'filledUp', from: 'packings.species' });
  });

  test('order, stored lines, edits that may not be', () => {
    const record: StoredRecord = {
      values: {},
      origins: {},
      lines: {
        packings: [
          { id: 7, values: { grams: 2, packets: 3, total: 99 }, origins: { 'packings.grams': { kind: 'chosen' } } },
          { id: 9, values: { grams: 1, packets: 1 }, origins: undefined },
        ],
      },
    };
    const entry = open(record);
    expect(entry.lines('packings')).toEqual([7, 9]);
    expect(entry.state('packings.grams', 7).origin).toEqual({ kind: 'stored', was: { kind: 'chosen' } });
    expect(entry.value('packings.total', 7), 'a stored calculation stays until a driver changes').toBe(99);
    play(entry, { kind: 'moveLine', field: 'packings', line: 9, to: 0 }, { kind: 'addLine', field: 'packings', line: -1, at: 1 });
    expect(entry.lines('packings')).toEqual([9, -1, 7]);
    expect(entry.isBlankLine('packings', 7)).toBe(false);
    const refused = (edit: Edit): string => entry.apply([edit]).refused[0]?.message ?? '';
    expect(refused({ kind: 'addLine', field: 'packings', line: -1 })).toMatch(/number of its own/);
    expect(refused({ kind: 'removeLine', field: 'packings', line: 55 })).toMatch(/no longer exists/);
    expect(refused({ kind: 'moveLine', field: 'packings', line: 7, to: 3 })).toMatch(/cannot be moved there/);
    expect(refused(set('grams', 55, 1))).toMatch(/no longer exists/);
    expect(refused(set('total', 7, 1))).toMatch(/calculated/);
    expect(refused({ kind: 'addLine', field: 'nothing', line: -9 })).toMatch(/no lines/);
  });

  test('why explains a value in its line', () => {
    const entry = play(open(), { kind: 'set', field: 'price', value: 2 }, set('grams', -1, 3));
    const explained = why(entry, 'packings.total', -1).value;
    expect(explained.formula?.names.map((n) => [n.text, n.value])).toEqual([
      ['packets', 1],
      ['grams', 3],
      ['price', 2],
    ]);
    expect(explained.sources.map((s) => [s.field, s.line])).toEqual([
      ['packings.packets', -1],
      ['packings.grams', -1],
      ['price', null],
    ]);
  });

  test('what is wrong with lines is said', () => {
    const form = packingForm(
      { sum: number({ value: { kind: 'calculation', formula: 'SUM(packings.total)' } }) },
      {
        total: number({ value: { kind: 'calculation', formula: 'sum + 1' } }),
      },
    );
    expect(
      compileForm(form, SEEDBANK_TABLES)
        .problems.filter((p) => p.severity === 'error')
        .map((p) => p.code),
    ).toEqual(['cycle']);
    const lines = form.lines.packings!;
    const changed = (more: object): string[] =>
      compileForm(
        {
          ...form,
          fields: {},
          pages: [{ ...form.pages[0]!, sections: [{ ...form.pages[0]!.sections[0]!, fields: ['packings'] }] }],
          lines: { packings: { ...lines, fields: { n: lines.fields.total! }, columns: [], ...more } },
        } as never,
        SEEDBANK_TABLES,
      ).problems.map((p) => p.message);
    expect(changed({ table: 'gone' })[0]).toMatch(/no table “gone”/);
    expect(changed({ link: 'species' })[0]).toMatch(/does not link to Lots/);
    expect(changed({ order: 'lot' })[0]).toMatch(/needs a number column/);
  });
});

// ---- property: incremental = from scratch, with lines ----

const operand = fc.constantFrom(
  'price',
  'rate',
  'a',
  'b',
  '2',
  '0.5',
  'SUM(packings.a)',
  'MAX(packings.b)',
  'species.storage_c',
  'EMPTY()',
);
const outerOperand = fc.constantFrom('price', '3', 'SUM(packings.c)', 'COUNT(packings.a)', 'AVERAGE(packings.b)');
const text = (o: fc.Arbitrary<string>): fc.Arbitrary<string> =>
  fc.oneof(
    fc.tuple(o, fc.constantFrom('+', '-', '*', '/'), o).map(([x, op, y]) => `${x} ${op} ${y}`),
    fc.tuple(o, o, o).map(([x, y, z]) => `IF(${x} > ${y}, ${z}, ${x})`),
    fc.tuple(o, o).map(([x, y]) => `COALESCE(${x}, ${y})`),
  );
const step: fc.Arbitrary<(entry: Entry) => Edit | null> = fc.oneof(
  fc.constant((entry: Entry): Edit => ({ kind: 'addLine', field: 'packings', line: entry.freeLine('packings') })),
  fc.nat(20).map((n) => (entry: Entry): Edit => ({
    kind: 'addLine',
    field: 'packings',
    line: entry.freeLine('packings'),
    at: n % (entry.lines('packings').length + 1),
  })),
  fc.nat(20).map((n) => (entry: Entry): Edit | null => {
    const ids = entry.lines('packings');
    return ids.length ? { kind: 'removeLine', field: 'packings', line: ids[n % ids.length]! } : null;
  }),
  fc.tuple(fc.nat(20), fc.nat(20)).map(([n, m]) => (entry: Entry): Edit | null => {
    const ids = entry.lines('packings');
    return ids.length ? { kind: 'moveLine', field: 'packings', line: ids[n % ids.length]!, to: m % ids.length } : null;
  }),
  fc
    .tuple(fc.nat(20), fc.constantFrom('a', 'b', 'species'), fc.integer({ min: -9, max: 9 }))
    .map(([n, field, value]) => (entry: Entry): Edit | null => {
      const ids = entry.lines('packings');
      if (!ids.length) return null;
      return set(field, ids[n % ids.length]!, field === 'species' ? [101, 102, 201, 211, 301][Math.abs(value) % 5]! : value);
    }),
  fc
    .tuple(fc.constantFrom('price', 'genus'), fc.integer({ min: 0, max: 4 }))
    .map(([field, n]) => (): Edit => ({ kind: 'set', field, value: field === 'genus' ? [11, 12, 21, 22, 31][n]! : n })),
  fc.constant((): Edit => ({ kind: 'clear', field: 'genus' })),
);
const generated = fc.record({
  c: text(operand),
  rate: text(outerOperand),
  total: text(outerOperand),
  prefill: text(operand.filter((o) => !/rate|\bb\b|packings/.test(o))),
  shown: fc.constantFrom(null, 'a > 0', 'price > 1'),
  hidden: fc.constantFrom('keep', 'clear'),
  steps: fc.array(step, { maxLength: 16 }),
});
type Generated = typeof generated extends fc.Arbitrary<infer G> ? G : never;

function seen(entry: Entry): unknown {
  const all: Record<string, unknown> = { order: entry.lines('packings') };
  entry.eachField((field, frame) => {
    const { value, origin, gone } = frame.state(field.at);
    all[addressOf(field.key, frame.line)] = [
      isFormulaError(value) ? value.code : value, origin.kind, gone, frame.shown[field.at], frame.offers[field.at]?.status, frame.offers[field.at]?.total,
      frame.checks[field.at]?.map((c) => c.message),
    ]; // prettier-ignore
  });
  return all;
}
function build(g: Generated) {
  const fields = {
    genus: FIELDS.genus!,
    price: FIELDS.price!,
    rate: number({ value: { kind: 'calculation', formula: g.rate } }),
    sum: number({ value: { kind: 'calculation', formula: g.total } }),
  };
  const lines = {
    species: LINES.species!,
    a: number({ shown: g.shown === 'a > 0' ? null : g.shown, hiddenValue: g.hidden, checks: [{ when: 'a > 2 OR ANYOF(packings, each.a > 8)', message: 'more than {price}', severity: 'error' }] }), // prettier-ignore
    b: number({ value: { kind: 'prefill', formula: g.prefill }, shown: g.shown, hiddenValue: g.hidden }),
    c: number({ value: { kind: 'calculation', formula: g.c } }),
  };
  return compileForm(packingForm(fields, lines, 2), SEEDBANK_TABLES);
}

test('a record of many lines, opened and supplied in steps, stands as it does when it is opened at once', () => {
  const many = Array.from({ length: 400 }, (_, i) => ({ id: i + 1, values: { species: [101, 111, 201][i % 3]!, packets: i % 5, grams: (i % 97) * 0.37, total: null }, origins: undefined })); // prettier-ignore
  const record: StoredRecord = { values: { genus: 11 }, origins: {}, lines: { packings: many } };
  const context = { ...CONTEXT, mode: 'edit' } as const;
  const through = <T>(steps: Generator<void, T>): [T, number] => {
    for (let count = 0; ; count++) {
      const step = steps.next();
      if (step.done) return [step.value, count];
    }
  };
  const [entry, steps] = through(openEntryInSteps(plan, context, new DataCache(), record));
  expect(steps).toBeGreaterThan(4);
  let more = 0;
  while (entry.wants.length) more += through(entry.supplyInSteps(answer(entry.wants)))[1];
  expect(more).toBeGreaterThan(0);
  const whole = open(record);
  expect(seen(entry)).toEqual(seen(whole));
  expect(entry.value('sum')).toEqual(whole.value('sum'));
  // and it goes on as any other
  for (const e of [entry, whole]) play(e, set('grams', 200, 12.5), { kind: 'set', field: 'price', value: 3 });
  expect(seen(entry)).toEqual(seen(whole));
});

test('with lines too, what settles step by step is what computing everything gives, and a replayed log the same', () => {
  let lines = 0;
  let tried = 0;
  let said = 0;
  fc.assert(
    fc.property(generated, (g) => {
      const built = build(g);
      const entry = openSettled(built);
      for (const make of g.steps) {
        const edit = make(entry);
        if (edit) play(entry, edit);
      }
      tried++;
      lines += entry.lines('packings').length;
      const before = seen(entry);
      entry.recomputeAll();
      expect(seen(entry)).toEqual(before);
      expect(seen(play(openSettled(built), ...entry.log))).toEqual(before);
      // what people are told is put off until all is done
      const late = play(openSettled(built, { tellsLate: true }), ...entry.log);
      late.tell();
      settleAll(late);
      expect(seen(late)).toEqual(before);
      late.eachField((field, frame) => void (said += frame.checks[field.at]!.length));
    }),
    { numRuns: 1000 },
  );
  expect(lines / tried).toBeGreaterThan(1);
  expect(said).toBeGreaterThan(10);
});
