import * as D from '../values/decimal.ts';
import type { Type } from '../values/typing.ts';
import { MOST_DECIMALS, POWERS, decimalsFound, decimalsOfFull, productMantissa, scaled, sumMantissa } from '../values/wide.ts';
import type { Checked } from './check.ts';
import type { Env } from './env.ts';
import type { Syntax } from './syntax.ts';

/*
 * Plain arithmetic, + − * / and rounding over numbers and number fields, as a program for a machine with one accumulator and a stack. Mantissa and
 * decimals are kept from step to step (see wide.ts), so that each field is taken apart once and the result put together once, and no
 * closure is called and no number is made on the way. Where an operand is no number (empty, waiting, an error) or a result is none or too
 * large, there is no answer here: the closures, which know what to say then, are run.
 */

/**
 * The accumulator takes the operand; or is given with it to an operation; or, from `KEEP` on, is kept on the stack, changes its sign or is
 * rounded. `SHORT` is a LOAD with which steps begin that `runShort` can run.
 */
const [SHORT, LOAD, ADD, SUBTRACT, MULTIPLY, DIVIDE, KEEP, NEGATE, ROUND] = [0, 1, 2, 3, 4, 5, 6, 7, 8] as const;
/**
 * Where the operand is: a field of the same values, a field of the form around a line, a number; or it is the accumulator, and what was
 * kept is the left one. Of a rounding it says how to round.
 */
const [FIELD, OUTER, NUMBER, KEPT, HOW] = [0, 1, 2, 3, 4] as const;
type Place = typeof FIELD | typeof OUTER | typeof NUMBER;

const OPERATIONS: Readonly<Record<string, number>> = { '+': ADD, '-': SUBTRACT, '*': MULTIPLY, '/': DIVIDE };
/** The functions that round to decimals written beside the number (none: 0), and how. */
const ROUNDINGS: Readonly<Record<string, D.RoundingMode>> = {
  ROUND: 'halfAway',
  ROUNDUP: 'up',
  ROUNDDOWN: 'down',
  TRUNC: 'down',
  INT: 'floor',
};
const MODES: readonly D.RoundingMode[] = [...new Set(Object.values(ROUNDINGS))];
const MOST_DIGITS = 15;
const MOST_KEPT = 16;
/** In place of decimals: what goes with it is the number itself, of more digits or out of the bounds of mantissas, or 0. */
const ITSELF = -1;

/** Steps: of each the operation, where its operand is, and its place there. Of one formula, or of many one after the other. */
interface Steps {
  readonly steps: Int32Array;
  /** the numbers written in it: their mantissas, or themselves */
  readonly numbers: Float64Array;
  /** the decimals of these mantissas */
  readonly decimals: Int32Array;
}
/** A part of a formula as steps. */
export interface Arithmetic extends Steps {
  /** whether what it gives is held to 15 digits already: all but quotients are */
  readonly isHeld: boolean;
}

type Names = Pick<Checked, 'types' | 'bindings'>;

class Writer {
  readonly steps: number[] = [];
  readonly numbers: number[] = [];
  readonly decimals: number[] = [];
  private kept = 0;

  constructor(
    private readonly names: Names,
    /** parts whose place something else takes */
    private readonly instead: ReadonlyMap<Syntax, unknown>,
  ) {}

  /** Writes the steps that bring a part into the accumulator; false where it is more than plain arithmetic. */
  write(node: Syntax): boolean {
    if (this.instead.has(node)) return false;
    const leaf = this.leaf(node);
    if (leaf) return this.step(LOAD, leaf.place, leaf.at);
    if (node.kind === 'group') return this.write(node.inner);
    if (node.kind === 'unary') {
      if (node.operator === '+') return this.write(node.operand);
      return node.operator === '-' && this.write(node.operand) && this.step(NEGATE, NUMBER, 0);
    }
    const rounding = roundingOf(node);
    if (rounding) return this.isNumber(rounding.of) && this.write(rounding.of) && this.step(ROUND, HOW, rounding.how);
    if (node.kind !== 'binary') return false;
    const operation = OPERATIONS[node.operator];
    if (operation === undefined || !this.isNumber(node.left) || !this.isNumber(node.right) || !this.write(node.left)) return false;
    const right = this.leaf(node.right);
    if (right) return this.step(operation, right.place, right.at);
    if (++this.kept > MOST_KEPT) return false;
    this.step(KEEP, NUMBER, 0);
    const written = this.write(node.right);
    this.kept--;
    return written && this.step(operation, KEPT, 0);
  }
  private step(operation: number, place: number, at: number): true {
    this.steps.push(operation, place, at);
    return true;
  }
  private typeOf = (node: Syntax): Type | undefined => this.names.types.get(node);
  private isNumber = (node: Syntax): boolean => this.typeOf(node)?.kind === 'number';

  private leaf(node: Syntax): { readonly place: Place; readonly at: number } | null {
    if (this.instead.has(node)) return null;
    if (node.kind === 'group') return this.leaf(node.inner);
    if (node.kind === 'number') return { place: NUMBER, at: this.number(node.value) };
    const source = node.kind === 'name' ? this.names.bindings.get(node)?.source : undefined;
    if (source?.kind !== 'slot' || !this.isNumber(node)) return null;
    return { place: source.outer ? OUTER : FIELD, at: source.at ?? source.slot };
  }
  private number(value: number): number {
    const decimals = decimalsIn(value);
    this.numbers.push(decimals === ITSELF ? value : Math.round(value * (POWERS[decimals] as number)));
    this.decimals.push(decimals);
    return this.numbers.length - 1;
  }
}

/** What a call rounds and how: the decimals, and the place of the mode behind them; null where it is no rounding to decimals as written. */
function roundingOf(node: Syntax): { readonly of: Syntax; readonly how: number } | null {
  const mode = node.kind === 'call' ? ROUNDINGS[node.name] : undefined;
  if (node.kind !== 'call' || mode === undefined) return null;
  const [of, digits, more] = node.args;
  if (!of || more || of.label !== null || (digits && digits.label !== null)) return null;
  if (digits && (digits.value.kind !== 'number' || node.name === 'INT')) return null;
  const decimals = digits?.value.kind === 'number' ? Math.trunc(digits.value.value) : 0;
  return decimals <= MOST_DIGITS ? { of: of.value, how: decimals * MODES.length + MODES.indexOf(mode) } : null;
}

/** The decimals that make a number a mantissa of 15 digits; none for one of more digits, out of bounds, or 0. */
function decimalsIn(value: number): number {
  const decimals = decimalsOfFull(value);
  if (decimals < 0 || decimals > MOST_DECIMALS) return ITSELF;
  const power = POWERS[decimals] as number;
  return Math.round(value * power) / power === value ? decimals : ITSELF;
}

/** A part of a formula as steps, where it is plain arithmetic of at least one operation; null elsewhere. */
export function arithmeticOf(node: Syntax, names: Names, instead: ReadonlyMap<Syntax, unknown>): Arithmetic | null {
  const inner = node.kind === 'group' ? node.inner : node;
  if (inner.kind === 'group') return arithmeticOf(inner, names, instead);
  if (inner.kind !== 'binary' && !roundingOf(inner)) return null;
  const writer = new Writer(names, instead);
  if (!writer.write(inner)) return null;
  const steps = Int32Array.from(writer.steps);
  if (isShort(writer)) steps[0] = SHORT;
  return {
    steps,
    numbers: Float64Array.from(writer.numbers),
    decimals: Int32Array.from(writer.decimals),
    isHeld: inner.kind !== 'binary' || inner.operator !== '/',
  };
}

/** Whether steps are sums, differences and products alone, of fields of the same values and of numbers that have a mantissa. */
const isShort = ({ steps, decimals }: Writer): boolean =>
  !decimals.includes(ITSELF) &&
  steps.every((step, i) => (i % 3 === 0 ? step >= LOAD && step <= MULTIPLY : i % 3 === 2 || step === FIELD || step === NUMBER));

/** The arithmetic of many formulas, by their place in a list, close together in memory: a chain of hundreds is run through at every key. */
export interface ArithmeticOfMany extends Steps {
  /** where the steps of a formula begin; -1 where it is not plain arithmetic */
  readonly from: Int32Array;
  /** where they end */
  readonly to: Int32Array;
}

/** Puts formulas' arithmetic together; null stands for a formula that is not plain arithmetic. */
export function together(all: readonly (Arithmetic | null)[]): ArithmeticOfMany {
  const [steps, numbers, decimals]: [number[], number[], number[]] = [[], [], []];
  const from = new Int32Array(all.length).fill(-1);
  const to = new Int32Array(all.length);
  all.forEach((one, i) => {
    if (!one) return;
    from[i] = steps.length;
    const before = numbers.length;
    one.steps.forEach((step, k) => steps.push(k % 3 === 2 && one.steps[k - 1] === NUMBER ? step + before : step));
    for (const n of one.numbers) numbers.push(n);
    for (const d of one.decimals) decimals.push(d);
    to[i] = steps.length;
  });
  return { steps: Int32Array.from(steps), numbers: Float64Array.from(numbers), decimals: Int32Array.from(decimals), from, to };
}

/**
 * Numbers taken apart, each with its mantissa and how many digits of that are decimals: by the field they were read from, for what one field
 * holds is read by many; and the one put together last, for what a formula gives is what the next of a chain begins with. Fields that share a
 * place take it from each other, which costs time alone.
 */
const PLACES = 64;
const GIVEN = PLACES;
const LAST = new Float64Array(PLACES + 1).fill(NaN);
const LAST_MANTISSA = new Float64Array(PLACES + 1);
const LAST_DECIMALS = new Int32Array(PLACES + 1);

const KEPT_NUMBERS = new Float64Array(MOST_KEPT);
const KEPT_DECIMALS = new Int32Array(MOST_KEPT);

/** A mantissa with its decimals, or a number itself, as a number. */
const numberOf = (m: number, decimals: number): number => (decimals === ITSELF ? m : m / (POWERS[decimals] as number));

/** An operation on numbers themselves: of more digits, out of bounds, or 0; and quotients. Apart, so that the loop below stays small enough for its calls to be inlined. */
function operate(operation: number, left: number, right: number): number {
  const result =
    operation === ADD ? D.add(left, right)
    : operation === SUBTRACT ? D.subtract(left, right)
    : operation === MULTIPLY ? D.multiply(left, right)
    : D.divide(left, right); // prettier-ignore
  return Number.isFinite(result) ? result : NaN;
}

/** A rounding of a mantissa, or of a number itself, as a number. Apart for the same reason. */
function round(m: number, decimals: number, how: number): number {
  const mode = MODES[how % MODES.length] as D.RoundingMode;
  const digits = Math.trunc(how / MODES.length);
  if (decimals === ITSELF) return D.roundTo(m, digits, mode);
  return digits >= decimals ? numberOf(m, decimals) : D.roundMantissa(m, decimals, digits, mode);
}

/** Runs steps; NaN where an operand is no number, or a result is none or too large. Cost: its steps. */
export function runArithmetic(all: Steps, from: number, to: number, env: Env): number {
  if (all.steps[from] === SHORT) {
    const result = runShort(all, from, to, env.values);
    if (result === result) return result;
  }
  return runAny(all, from, to, env);
}

/**
 * Runs the steps that most formulas are, in a function small enough to be inlined where it is called, which takes a third of the time away;
 * NaN where more is to be done than this can: an operand is no number, or one between is not of 15 digits or out of the bounds of mantissas.
 */
function runShort({ steps, numbers, decimals }: Steps, from: number, to: number, values: Env['values']): number {
  let m = 0;
  let s = 0;
  for (let i = from; i < to; i += 3) {
    const at = steps[i + 2] as number;
    let n: number;
    let t: number;
    if (steps[i + 1] === NUMBER) {
      n = numbers[at] as number;
      t = decimals[at] as number;
    } else {
      const value = values[at];
      if (typeof value !== 'number') return NaN;
      const where = apart(value, at);
      n = LAST_MANTISSA[where] as number;
      t = LAST_DECIMALS[where] as number;
      if (t === ITSELF) return NaN;
    }
    const operation = steps[i] as number;
    if (operation <= LOAD) {
      m = n;
      s = t;
      continue;
    }
    m = operation === MULTIPLY ? productMantissa(m, n, s + t) : sumMantissa(m, operation === ADD ? n : -n, s, t);
    s = decimalsFound();
    const size = m < 0 ? -m : m;
    // what is given in the end need not be of 15 digits
    if (size < 1e14 || size >= 1e15 || s < 0 || s > MOST_DECIMALS) return i + 3 < to ? NaN : scaled(m, s);
  }
  const result = m / (POWERS[s] as number);
  LAST[GIVEN] = result;
  LAST_MANTISSA[GIVEN] = m;
  LAST_DECIMALS[GIVEN] = s;
  return result;
}

/** Where a number that a field holds stands taken apart. */
const apart = (value: number, field: number): number => {
  const place = field & (PLACES - 1);
  if (value === LAST[place]) return place;
  if (value === LAST[GIVEN]) return GIVEN;
  takeApart(value, place);
  return place;
};
function takeApart(value: number, place: number): void {
  const decimals = decimalsIn(value);
  LAST[place] = value;
  LAST_MANTISSA[place] = decimals === ITSELF ? value : Math.round(value * (POWERS[decimals] as number));
  LAST_DECIMALS[place] = decimals;
}

/** Runs any steps. */
function runAny({ steps, numbers, decimals }: Steps, from: number, to: number, env: Env): number {
  // the accumulator: a mantissa and its decimals, or a number itself
  let m = 0;
  let s: number = ITSELF;
  let kept = 0;
  for (let i = from; i < to; i += 3) {
    const operation = steps[i] as number;
    const place = steps[i + 1] as number;
    if (operation >= KEEP) {
      if (operation === KEEP) {
        KEPT_NUMBERS[kept] = m;
        KEPT_DECIMALS[kept++] = s;
      } else if (operation === NEGATE) m = m === 0 ? 0 : -m;
      else {
        m = round(m, s, steps[i + 2] as number);
        s = ITSELF;
        if (i + 3 < to) {
          s = decimalsIn(m);
          if (s !== ITSELF) m = Math.round(m * (POWERS[s] as number));
        }
      }
      continue;
    }
    let n: number;
    let t: number;
    if (place === NUMBER) {
      const at = steps[i + 2] as number;
      n = numbers[at] as number;
      t = decimals[at] as number;
    } else if (place === KEPT) {
      n = m;
      t = s;
      m = KEPT_NUMBERS[--kept] as number;
      s = KEPT_DECIMALS[kept] as number;
    } else {
      const at = steps[i + 2] as number;
      const value = (place === FIELD ? env : env.outer)?.values[at];
      if (typeof value !== 'number') return NaN;
      const where = apart(value, at);
      n = LAST_MANTISSA[where] as number;
      t = LAST_DECIMALS[where] as number;
    }
    if (operation <= LOAD) {
      m = n;
      s = t;
      continue;
    }
    if (s !== ITSELF && t !== ITSELF && operation !== DIVIDE) {
      const result = operation === MULTIPLY ? productMantissa(m, n, s + t) : sumMantissa(m, operation === ADD ? n : -n, s, t);
      const found = decimalsFound();
      const size = result < 0 ? -result : result;
      if (size >= 1e14 && size < 1e15 && found >= 0 && found <= MOST_DECIMALS) {
        m = result;
        s = found;
        continue;
      }
      // rounding made one digit more, digits cancelled out, or it is too large or small for mantissas
      const value = scaled(result, found);
      m = value === value ? value : operate(operation, numberOf(m, s), numberOf(n, t));
    } else m = operate(operation, numberOf(m, s), numberOf(n, t));
    if (m !== m) return NaN;
    if (i + 3 >= to) return m;
    s = decimalsIn(m);
    if (s !== ITSELF) m = Math.round(m * (POWERS[s] as number));
  }
  const result = numberOf(m, s);
  LAST[GIVEN] = result;
  LAST_MANTISSA[GIVEN] = m;
  LAST_DECIMALS[GIVEN] = s;
  return result;
}
