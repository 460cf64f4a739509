import { createRequire } from 'node:module';
import { compileForm } from '../../core/engine/compile.ts';
import type { Entry } from '../../core/engine/entry.ts';
import { type Form } from '../../core/form/definition.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { parseFormula } from '../../core/formula/parse.ts';
import { SEEDBANK_TABLES, openSettled, table } from '../../core/testing/seedbank.ts';
import { type Goal, goal, measure, report } from './measure.ts';

/*
 * The engine beside public libraries that compute too. They are installed for this folder alone (see run.mjs); nothing of
 * the product uses them. A spreadsheet engine has no origins and no trace; the engine measured here keeps both.
 */
const load = createRequire(`${process.env.BRISK_BENCH_OTHERS ?? '.'}/package.json`);
interface Sheet {
  setCellContents(at: { sheet: number; row: number; col: number }, value: unknown): unknown;
  getCellValue(at: { sheet: number; row: number; col: number }): unknown;
  calculateFormula(text: string, sheet: number): unknown;
  validateFormula(text: string): boolean;
}
const { HyperFormula } = load('hyperformula') as { HyperFormula: { buildFromArray(rows: unknown[][], o: object): Sheet } };
const signals = load('alien-signals') as {
  signal<T>(v: T): { (): T; (v: T): void };
  computed<T>(f: () => T): () => T;
};
const { Parser } = load('expr-eval') as { Parser: new () => { parse(text: string): unknown } };
const sheet = (rows: unknown[][]): Sheet => HyperFormula.buildFromArray(rows, { licenseKey: 'gpl-v3' });
const column = (n: number): string => (n < 26 ? '' : String.fromCharCode(64 + Math.floor(n / 26))) + String.fromCharCode(65 + (n % 26));

const number = (formula: string | null) => ({
  label: 'x',
  type: 'number',
  value: formula === null ? null : { kind: 'calculation', formula },
});
const form = (fields: Record<string, object>, more: object = {}, placed = Object.keys(fields)): Form =>
  parseForm({
    key: 'bench',
    label: 'Bench',
    table: 'lots',
    pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: placed }] }],
    fields,
    ...more,
  });
/** What is to be reached, and what the other library took, in microseconds, where that was set. */
type Aim = Pick<Goal, 'what' | 'unit' | 'most'> & { readonly then?: number };
/** Measures ours beside others, reports it, and notes it for the table of what is to be reached. */
async function timed(
  title: string,
  other: string,
  { then, ...aim }: Aim,
  things: Readonly<Record<string, () => unknown>>,
  calls: number,
): Promise<void> {
  const measured = await measure(things, calls);
  report(title, measured, other);
  const [ours, theirs] = [measured['Brisk Acorn']?.micros ?? NaN, measured[other]?.micros ?? NaN];
  goal({
    ...aim,
    measured: aim.unit === 'µs' ? ours : ours / theirs,
    beside: `${other} ${theirs.toFixed(theirs < 10 ? 1 : 0)} µs`,
    ...(then === undefined ? {} : { slower: theirs / then }),
  });
}

const open = (f: Form): Entry => openSettled(compileForm(f, SEEDBANK_TABLES));

export default async function run(): Promise<void> {
  let n = 0;
  let sink = 0;
  /** Numbers as they occur, one after the other: a price, a weight, a ratio of many digits. */
  const next = (): number => {
    n = (n + 1) % 99_991;
    const drawn = (n * 7919) % 99_991;
    return n % 3 === 0 ? (drawn + 1) / 100 : n % 3 === 1 ? (drawn + 1) / 1000 : Number(((drawn + 1) / 7.3).toPrecision(15));
  };
  const edit = (entry: Entry, field: string, line?: () => number) => () =>
    entry.apply([{ kind: 'set', field, value: next(), ...(line === undefined ? {} : { line: line() }) }]);

  // 2,000 formulas, five affected by an edit
  const groups: Record<string, object> = {};
  for (let g = 0; g < 400; g++) {
    groups[`in${g}`] = number(null);
    for (let i = 0; i < 5; i++) groups[`f${g}x${i}`] = number(`in${g} * ${1.175 + i / 8} + 0.35`);
  }
  const many = open(form(groups));
  const manyCells = sheet(
    Array.from({ length: 400 }, (_, r) => [1, ...Array.from({ length: 5 }, (_, i) => `=A${r + 1}*${1.175 + i / 8}+0.35`)]),
  );
  await timed(
    'One edit in 2,000 formulas, five affected (goal: at least 10 × faster than HyperFormula)',
    'HyperFormula',
    { what: '2,000 formulas, five affected by an edit', unit: 'µs', most: 4, then: 40 },
    {
      HyperFormula: () => (
        manyCells.setCellContents({ sheet: 0, row: 200, col: 0 }, next()),
        (sink += Number(manyCells.getCellValue({ sheet: 0, row: 200, col: 5 })))
      ),
      'Brisk Acorn': edit(many, 'in200'),
    },
    1000,
  );

  // a chain of 500
  const links: Record<string, object> = { c0: number(null) };
  for (let i = 1; i <= 500; i++) links[`c${i}`] = number(`c${i - 1} * 0.999 + 1`);
  const chain = open(form(links));
  const chainCells = sheet([[1, ...Array.from({ length: 500 }, (_, i) => `=${column(i)}1*0.999+1`)]]);
  const start = signals.signal(0);
  let last: () => number = start;
  for (let i = 0; i < 500; i++) {
    const before = last;
    last = signals.computed(() => before() * 0.999 + 1);
  }
  await timed(
    'A chain of 500, each x * 0.999 + 1 (goal: at least 5 × faster than HyperFormula)',
    'HyperFormula',
    { what: 'a chain of 500, each x × 0.999 + 1', unit: 'µs', most: 150, then: 750 },
    {
      HyperFormula: () => (
        chainCells.setCellContents({ sheet: 0, row: 0, col: 0 }, next()),
        (sink += Number(chainCells.getCellValue({ sheet: 0, row: 0, col: 500 })))
      ),
      'alien-signals, binary numbers, no origins': () => (start(next()), (sink += last())),
      'Brisk Acorn': edit(chain, 'c0'),
    },
    50,
  );

  // a fan-out of 1,000
  const spread: Record<string, object> = { source: number(null) };
  for (let i = 0; i < 1000; i++) spread[`w${i}`] = number(`source * ${((i * 37) % 911) / 8 + 0.137}`);
  const wide = open(form(spread));
  const wideCells = sheet([[1], ...Array.from({ length: 1000 }, (_, i) => [`=A1*${((i * 37) % 911) / 8 + 0.137}`])]);
  await timed(
    'A fan-out of 1,000 (goal: at least 10 × faster than HyperFormula)',
    'HyperFormula',
    { what: 'a fan-out of 1,000', unit: 'µs', most: 140, then: 1406 },
    {
      HyperFormula: () => (
        wideCells.setCellContents({ sheet: 0, row: 0, col: 0 }, next()),
        (sink += Number(wideCells.getCellValue({ sheet: 0, row: 1000, col: 0 })))
      ),
      'Brisk Acorn': edit(wide, 'source'),
    },
    50,
  );

  // 1,000 lines with a total each, a subtotal and a grand total
  const tables = new Map(SEEDBANK_TABLES);
  tables.set('packets', table('packets', { lot: 'link:lots', price: 'number', packets: 'number', line_total: 'number' }));
  const lined = compileForm(
    form(
      { subtotal: number('SUM(packets.line_total)'), total: number('subtotal * 1.2 + 5') },
      {
        lines: {
          packets: {
            label: 'Packets',
            table: 'packets',
            link: 'lot',
            start: 0,
            columns: ['price', 'packets', 'line_total'],
            fields: {
              price: { ...number(null), column: 'price' },
              packets: { ...number(null), column: 'packets' },
              line_total: { ...number('price * packets'), column: 'line_total' },
            },
          },
        },
      },
      ['packets', 'subtotal', 'total'],
    ),
    tables,
  );
  const errors = lined.problems.filter((p) => p.severity === 'error');
  if (errors.length) throw new Error(errors.map((p) => p.message).join(' '));
  const prices = Array.from({ length: 1000 }, (_, i) => (((i * 7919) % 9973) + 1) / 100);
  const quantities = Array.from({ length: 1000 }, (_, i) => (((i * 104_729) % 9973) + 1) / 1000);
  const lines = prices.map((price, i) => ({ id: i + 1, values: { price, packets: quantities[i]!, line_total: Number((price * quantities[i]!).toFixed(5)) }, origins: undefined })); // prettier-ignore
  // another line each time
  let at = 0;
  const another = (): number => 1 + (at = (at + 389) % 1000);
  const order = openSettled(lined, { mode: 'edit' }, { values: {}, origins: {}, lines: { packets: lines } });
  const orderCells = sheet([
    ...Array.from({ length: 1000 }, (_, i) => [prices[i], quantities[i], `=A${i + 1}*B${i + 1}`]),
    [null, null, '=SUM(C1:C1000)'],
    [null, null, '=C1001*1.2+5'],
  ]);
  await timed(
    '1,000 lines, quantity × price and a total, another line edited each time (goal: at least 7 × faster than HyperFormula)',
    'HyperFormula',
    { what: '1,000 lines and a total, another line edited each time', unit: 'µs', most: 20, then: 150 },
    {
      HyperFormula: () => (
        orderCells.setCellContents({ sheet: 0, row: another() - 1, col: 0 }, next()),
        (sink += Number(orderCells.getCellValue({ sheet: 0, row: 1001, col: 2 })))
      ),
      'Brisk Acorn': edit(order, 'packets.price', another),
    },
    500,
  );
  edit(order, 'packets.price', another)();
  const sum = order.lines('packets').reduce((s, l) => s + Number(order.value('packets.line_total', l)), 0);
  if (Math.abs(Number(order.value('subtotal')) - sum) > 1e-6) throw new Error('the subtotal is wrong');

  // parsing
  const ours = 'IF(quantity > 0, ROUND(quantity / tsw * 1000, 0), 0)';
  const theirs = 'quantity > 0 ? round(quantity / tsw * 1000 + 0) : 0';
  const cells = sheet([[1]]);
  let unique = 0;
  await timed(
    'Parsing a formula of some 50 characters (goal: not slower than expr-eval)',
    'expr-eval',
    { what: 'parsing a formula of some 50 characters', unit: '× expr-eval', most: 1 },
    {
      'expr-eval': () => (sink += new Parser().parse(theirs) ? 1 : 0),
      // a text it has not seen, since it keeps what it parsed
      HyperFormula: () => (sink += cells.validateFormula(`=IF(A1>0,ROUND(A1/B1*1000,0),${unique++})`) ? 1 : 0),
      'Brisk Acorn': () => (sink += parseFormula(ours).syntax ? 1 : 0),
    },
    200,
  );
  if (Number.isNaN(sink)) throw new Error('the benchmark computed nothing');
}
