import { compileForm } from '../../core/engine/compile.ts';
import { type Entry } from '../../core/engine/entry.ts';
import { type Form } from '../../core/form/definition.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { parseFormula } from '../../core/formula/parse.ts';
import { Decimal } from 'decimal.js';
import { add, modulo, multiply, power, product, squareRoot } from '../../core/values/decimal.ts';
import { SEEDBANK_TABLES, openSettled } from '../../core/testing/seedbank.ts';
import { measure, report } from './measure.ts';

const number = (formula: string | null) => ({
  label: 'x',
  type: 'number',
  value: formula === null ? null : { kind: 'calculation', formula },
});
function form(fields: Record<string, object>): Form {
  return parseForm({
    key: 'bench',
    label: 'Bench',
    table: 'lots',
    pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: Object.keys(fields) }] }],
    fields,
  });
}

/** `groups` groups of an input and five formulas over it: an edit of one input affects five, however many there are. */
function groups(count: number): Form {
  const fields: Record<string, object> = {};
  for (let g = 0; g < count; g++) {
    fields[`in${g}`] = number(null);
    for (let i = 0; i < 5; i++) fields[`f${g}x${i}`] = number(`in${g} * ${1.175 + i / 8} + 0.35`);
  }
  return form(fields);
}
function chain(length: number): Form {
  const fields: Record<string, object> = { c0: number(null) };
  for (let i = 1; i <= length; i++) fields[`c${i}`] = number(`c${i - 1} * 0.999 + 1`);
  return form(fields);
}
function fan(width: number): Form {
  const fields: Record<string, object> = { source: number(null) };
  for (let i = 0; i < width; i++) fields[`w${i}`] = number(`source * ${((i * 37) % 911) / 8 + 0.137}`);
  return form(fields);
}
const open = (f: Form): Entry => openSettled(compileForm(f, SEEDBANK_TABLES));

export default async function run(): Promise<void> {
  const small = open(groups(4));
  const large = open(groups(400));
  let n = 0;
  /** Numbers as they occur: a price, a weight, a ratio of many digits. */
  const next = (): number => {
    n = (n + 1) % 99_991;
    const drawn = ((n * 7919) % 99_991) + 1;
    return n % 3 === 0 ? drawn / 100 : n % 3 === 1 ? drawn / 1000 : Number((drawn / 7.3).toPrecision(15));
  };
  const edit = (entry: Entry, field: string) => () => entry.apply([{ kind: 'set', field, value: next() }]);
  let sink = 0;
  const closures = Array.from({ length: 5 }, (_, i) => (x: number) => add(multiply(x, 1.175 + i / 8), 0.35));
  report(
    'One edit, five formulas affected (goal: 2,000 formulas within 1.5 × of 20)',
    await measure(
      {
        'form of 20 formulas': edit(small, 'in1'),
        'form of 2,000 formulas': edit(large, 'in200'),
        'bare closures over the five, decimal-exact': () => {
          const x = next();
          for (const f of closures) sink += f(x);
        },
      },
      400,
    ),
    'form of 20 formulas',
  );
  const links = open(chain(500));
  const wide = open(fan(1000));
  report(
    'Chain of 500 and fan-out of 1,000, origins and trace included',
    await measure(
      {
        'chain of 500': edit(links, 'c0'),
        'fan-out of 1,000': edit(wide, 'source'),
        '500 decimal-exact products and sums in a loop': () => {
          let x = next();
          for (let i = 0; i < 500; i++) x = add(multiply(x, 0.999), 1);
          sink += x;
        },
      },
      20,
    ),
    '500 decimal-exact products and sums in a loop',
  );
  const Big = Decimal.clone({ precision: 40, modulo: Decimal.ROUND_FLOOR });
  const held = (x: Decimal): number => x.toSignificantDigits(15).toNumber();
  /** a monthly rate, and how many months */
  const monthly = (): [number, number] => [add(1, Number((next() / 1e6).toPrecision(6))), 1 + (n % 360)];
  const pairs: Record<string, [ours: () => number, library: () => number]> = {
    'a product of three': [() => product([next(), next(), 0.175]), () => held(new Big(next()).times(next()).times(0.175))],
    'interest over months': [() => power(...monthly()), () => { const [a, b] = monthly(); return held(new Big(a).pow(b)); }],
    'discount over months': [() => { const [a, b] = monthly(); return power(a, -b); }, () => { const [a, b] = monthly(); return new Big(a).pow(-b).toNumber(); }],
    'a square root': [() => squareRoot(next()), () => new Big(next()).sqrt().toNumber()],
    'a remainder': [() => modulo(next(), 0.25), () => held(new Big(next()).mod(0.25))],
  }; // prettier-ignore
  for (const [what, [ours, library]] of Object.entries(pairs))
    report(
      `Exact arithmetic: ${what}`,
      await measure({ 'as formulas compute it': () => (sink += ours()), 'decimal.js, 40 digits': () => (sink += library()) }, 500),
      'decimal.js, 40 digits',
    );
  const text = 'IF(quantity > 0, ROUND(quantity / tsw * 1000, 0), 0)';
  report('Parsing a formula of 52 characters', await measure({ parse: () => (sink += parseFormula(text).syntax ? 1 : 0) }, 300), 'parse');
  const big = groups(100);
  report(
    'Compiling a form',
    await measure({ '600 fields, 500 formulas': () => compileForm(big, SEEDBANK_TABLES) }, 1, 9),
    '600 fields, 500 formulas',
  );
  if (Number.isNaN(sink)) throw new Error('the benchmark computed nothing');
}
