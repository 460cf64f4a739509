import { addDays, addSeconds, dateToDays, secondsBetween } from '../values/dates.ts';
import * as D from '../values/decimal.ts';
import { compareCodePoints, foldText } from '../values/text.ts';
import type { Datum, Row } from '../values/types.ts';
import { arithmeticOf, runArithmetic } from './arithmetic.ts';
import { type Checked, isMyRoles } from './check.ts';
import { compileData, feedItem } from './compileData.ts';
import type { Env } from './env.ts';
import { isDay, keyOf, midnightOf } from './equality.ts';
import { FormulaError, MOST_ITEMS, type Result, TooMuch, Waiting, isDatum } from './errors.ts';
import { type CallContext, type FunctionDeclaration, checkLength } from './functions/define.ts';
import { functionNamed } from './functions/index.ts';
import type { CompareOperator, Syntax } from './syntax.ts';
import { EMPTY_TYPE, type Type, isTextual } from '../values/typing.ts';
import { writeOut } from './write.ts';

/** A formula ready to run. Pure: all it reads is in the Env. */
export type Run = (env: Env) => Result;

/** Compiles a checked formula; a blank or broken one gives empty. Types are known, so closures need not ask. */
export function compileFormula(checked: Checked): Run {
  return checked.syntax ? compileNode(checked.syntax, checked) : () => null;
}

/**
 * An exception inside a function is an error value of its formula, never a dead form: work that would outgrow its bounds
 * says so itself, anything else is a mistake of ours and told as such.
 */
function guarded(run: Run, node: Syntax): Run {
  return (env) => {
    try {
      return run(env);
    } catch (e) {
      const at = { from: node.from, to: node.to };
      if (e instanceof TooMuch) return new FormulaError('tooMuch', e.message, at);
      return new FormulaError('broken', `This could not be computed (${e instanceof Error ? e.message : 'unknown'}).`, at);
    }
  };
}

/**
 * Compiles one part of a checked formula: what explanations and narrowings evaluate. Where `instead` has a node,
 * its closure is used in the node's place.
 */
export function compileNode(node: Syntax, checked: Names, instead: ReadonlyMap<Syntax, Run> = NOTHING): Run {
  return guarded(new Compiler(checked, instead).compile(node), node);
}
const NOTHING: ReadonlyMap<Syntax, Run> = new Map();
type Names = Pick<Checked, 'types' | 'bindings' | 'extras'>;

/** What a binary operation gives when an operand is not a plain value: the first error, else waiting, else empty. */
export function poison(...operands: readonly Result[]): Result {
  let result: Result = null;
  for (const operand of operands) {
    if (operand instanceof FormulaError) return operand;
    if (operand === Waiting.value) result = operand;
  }
  return result;
}

type Numeric = (a: number, b: number) => number;

class Compiler {
  /** whether what is compiled stands inside arithmetic that is run as steps */
  private isPlain = false;

  constructor(
    private readonly names: Names,
    private readonly instead: ReadonlyMap<Syntax, Run>,
  ) {}

  typeOf(node: Syntax): Type {
    return this.names.types.get(node) ?? EMPTY_TYPE;
  }

  compile(node: Syntax): Run {
    const instead = this.instead.get(node);
    if (instead) return instead;
    switch (node.kind) {
      case 'number':
      case 'text':
      case 'yesno': {
        const { value } = node;
        return () => value;
      }
      case 'group':
        return this.compile(node.inner);
      case 'name':
        return this.name(node);
      case 'member':
        return this.member(node);
      case 'percent': {
        const operand = this.compile(node.operand);
        return (env) => {
          const n = operand(env);
          return typeof n === 'number' ? D.divide(n, 100) : n;
        };
      }
      case 'unary':
        return this.unary(node);
      case 'binary':
        return this.inSteps(node, () => this.operation(node));
      case 'in':
        return this.isIn(node);
      case 'between': {
        const item = this.compile(node.item);
        const low = this.compile(node.low);
        const high = this.compile(node.high);
        const toLow = comparerFor(this.typeOf(node.item), this.typeOf(node.low));
        const toHigh = comparerFor(this.typeOf(node.item), this.typeOf(node.high));
        return (env) => {
          const x = item(env);
          const a = low(env);
          const b = high(env);
          if (!isValue(x) || !isValue(a) || !isValue(b)) return falseUnlessStopped(poison(x, a, b));
          return toLow(x, a) >= 0 && toHigh(x, b) <= 0;
        };
      }
      case 'call':
        return this.inSteps(node, () => this.call(node));
    }
  }

  private name(node: Syntax): Run {
    const source = this.names.bindings.get(node)?.source;
    switch (source?.kind) {
      case 'slot': {
        const at = source.at ?? source.slot;
        if (source.outer) return (env) => env.outer?.values[at] ?? null;
        return (env) => env.values[at] ?? null;
      }
      case 'candidate':
        return (env) => env.candidate?.id ?? null;
      case 'each':
        return (env) => env.each?.value ?? null;
      case 'me':
        return (env) => env.me;
      case 'parent':
        return (env) => env.parent;
      case 'last':
        return (env) => env.data?.last(null, null) ?? null;
      case 'lines': {
        const { group } = source;
        return (env) => env.lines(group, -1);
      }
      default:
        return () => null;
    }
  }

  private member(node: Extract<Syntax, { kind: 'member' }>): Run {
    const { object, property } = node;
    const type = this.typeOf(object);
    const source = this.names.bindings.get(object)?.source;
    switch (source?.kind) {
      case 'candidate':
        return (env) => env.candidate?.[property] ?? null;
      case 'each':
        if (source.lines) return (env) => env.each?.line?.[property] ?? null;
        break;
      case 'entry':
        return property === 'mode' ? (env) => env.mode : () => null;
      case 'before': {
        const column = source.columns.get(property) ?? '';
        return (env) => env.before?.[column] ?? null;
      }
      case 'lines': {
        const { group, columns } = source;
        const at = columns.get(property) ?? -1;
        return (env) => env.lines(group, at);
      }
    }
    if (type.kind === 'choice' && source?.kind === 'slot') {
      const { slot, outer } = source;
      return (env) => (outer ? (env.outer as Env) : env).item(slot)?.[property] ?? null;
    }
    if (object.kind === 'call' && object.name === 'FEED') {
      const item = feedItem(object, this);
      return (env) => {
        const row = item(env);
        return row instanceof Waiting || row instanceof FormulaError ? row : (row?.[property] ?? null);
      };
    }
    // a column of that name in People goes before
    if (isMyRoles(node, this.names.bindings) && this.typeOf(node).kind === 'list') return (env) => env.roles ?? [];
    // the only object left that has members of its own
    if (type.kind === 'object') return (env) => env.url[property] ?? null;
    const of = this.compile(object);
    if (type.kind === 'list') {
      const table = type.of.kind === 'row' ? type.of.table : '';
      return (env) => {
        const ids = of(env);
        if (!Array.isArray(ids)) return ids;
        const found: Datum[] = [];
        for (const id of ids as readonly Datum[]) {
          const row = typeof id === 'number' ? env.row(table, id) : null;
          if (row instanceof Waiting) return row;
          const value = row?.[property] ?? null;
          if (Array.isArray(value)) for (const one of value as readonly Datum[]) found.push(one);
          else found.push(value);
          if (found.length > MOST_ITEMS) throw new TooMuch(`A list can have at most ${MOST_ITEMS.toLocaleString('en')} items.`);
        }
        return found;
      };
    }
    const table = type.kind === 'row' ? type.table : '';
    return (env) => {
      const id = of(env);
      if (typeof id !== 'number') return id;
      const row: Row | null | Waiting = env.row(table, id);
      return row === null || row instanceof Waiting ? row : (row[property] ?? null);
    };
  }

  private unary(node: Extract<Syntax, { kind: 'unary' }>): Run {
    const operand = this.compile(node.operand);
    switch (node.operator) {
      case '+':
        return operand;
      case '-':
        return (env) => {
          const n = operand(env);
          return typeof n === 'number' ? (n === 0 ? 0 : -n) : n;
        };
      case 'NOT':
        return (env) => {
          const x = operand(env);
          return isDatum(x) ? x !== true : x;
        };
    }
  }

  /** The largest part that is plain arithmetic is run as steps; its closures say what there is to say where that gives no number. */
  private inSteps(node: Syntax, compile: () => Run): Run {
    const steps = this.isPlain ? null : arithmeticOf(node, this.names, this.instead);
    if (!steps) return compile();
    this.isPlain = true;
    const closures = compile();
    this.isPlain = false;
    return (env) => {
      const result = runArithmetic(steps, 0, steps.steps.length, env);
      return result === result ? result : closures(env);
    };
  }
  private operation(node: Extract<Syntax, { kind: 'binary' }>): Run {
    const left = this.compile(node.left);
    const right = this.compile(node.right);
    const lt = this.typeOf(node.left);
    const rt = this.typeOf(node.right);
    switch (node.operator) {
      case 'AND':
        return (env) => {
          const a = left(env);
          // what is known to fail need not wait for the rest; an error is told only when it matters
          if (isDatum(a) && a !== true) return false;
          const b = right(env);
          if (isDatum(b) && b !== true) return false;
          return a === true && b === true ? true : poison(a, b);
        };
      case 'OR':
        return (env) => {
          const a = left(env);
          if (a === true) return true;
          const b = right(env);
          if (b === true) return true;
          return isDatum(a) && isDatum(b) ? false : poison(a, b);
        };
      case '&':
        return (env) => {
          const a = left(env);
          const b = right(env);
          if (!isValue(a) || !isValue(b)) return poison(a, b);
          const [x, y] = [
            typeof a === 'string' && isTextual(lt) ? a : writeOut(a, lt),
            typeof b === 'string' && isTextual(rt) ? b : writeOut(b, rt),
          ];
          checkLength(x.length + y.length);
          return x + y;
        };
      case '+':
      case '-':
        if (isDay(lt) || isDay(rt)) return moveDays(node, left, right, lt, rt);
        return arithmetic(node, left, right, node.operator === '+' ? D.add : D.subtract);
      case '*':
        return arithmetic(node, left, right, D.multiply);
      case '^':
        return arithmetic(node, left, right, D.power);
      case '/': {
        const zero = new FormulaError('divideByZero', 'This divides by zero.', { from: node.from, to: node.to });
        const overflow = overflowOf(node);
        return (env) => {
          const a = left(env);
          const b = right(env);
          if (typeof a !== 'number' || typeof b !== 'number') return poison(a, b);
          if (b === 0) return zero;
          const result = D.divide(a, b);
          return Number.isFinite(result) ? result : overflow;
        };
      }
      default:
        return comparison(node.operator, left, right, lt, rt);
    }
  }

  private isIn(node: Extract<Syntax, { kind: 'in' }>): Run {
    const item = this.compile(node.item);
    const key = keyOf(this.typeOf(node.item));
    // what stands in the formula itself is made ready to be compared once
    const fixed = new Set(node.list.flatMap((x) => (x.kind === 'text' || x.kind === 'number' ? [key(x.value)] : [])));
    const options = node.list
      .filter((x) => x.kind !== 'text' && x.kind !== 'number')
      .map((x) => ({ run: this.compile(x), has: listHas(key) }));
    // it is asked again and again for the same, by every condition at every edit
    let [last, lastKey]: [Datum, Datum] = [null, null];
    return (env) => {
      const x = item(env);
      if (!isValue(x)) return falseUnlessStopped(x);
      if (x !== last) {
        last = x;
        lastKey = key(x);
      }
      const sought = lastKey;
      if (fixed.has(sought)) return true;
      let stopped: Result = null;
      for (const { run, has } of options) {
        const y = run(env);
        if (Array.isArray(y)) {
          if (has(y as readonly Datum[], sought)) return true;
        } else if (isValue(y)) {
          if (key(y) === sought) return true;
        } else stopped = poison(stopped, y);
      }
      return falseUnlessStopped(stopped);
    };
  }

  private call(node: Extract<Syntax, { kind: 'call' }>): Run {
    const extra = this.names.extras.get(node);
    if (extra) return compileData(node, extra, this);
    const declaration = functionNamed(node.name) as FunctionDeclaration;
    const args = node.args.map((a) => this.compile(a.value));
    const types = node.args.map((a) => this.typeOf(a.value));
    const at = { from: node.from, to: node.to };
    const context = new CallsContext(at, types);
    const overflow = overflowOf(node);
    const kept = (result: Result): Result => (typeof result === 'number' && !Number.isFinite(result) ? overflow : result);
    if (declaration.lazy) {
      // made once and not for each call
      const later = args.map((arg) => () => arg(context.env));
      return (env) => {
        const before = context.env;
        context.env = env;
        const result = declaration.evaluate(later, context);
        context.env = before;
        return kept(result);
      };
    }
    const givesEmpties = declaration.empties === 'given';
    const held = declaration.exact !== true;
    // what the arguments are put into, while nobody has it: most calls need not make one
    let spare: Datum[] | null = null;
    const run: Run = (env) => {
      // with room for all at once: what grows as it is filled takes several times as much
      const values = spare ?? new Array<Datum>(args.length);
      spare = null;
      let waiting = false;
      let empty = false;
      for (let i = 0; i < args.length; i++) {
        const value = (args[i] as Run)(env);
        if (value instanceof FormulaError) return value;
        if (value instanceof Waiting) waiting = true;
        else {
          if (value === null) empty = true;
          values[i] = held && typeof value === 'number' ? D.canonical(value) : value;
        }
      }
      if (waiting) return Waiting.value;
      if (empty && !givesEmpties) return null;
      const before = context.env;
      context.env = env;
      const result = declaration.evaluate(values, context);
      context.env = before;
      // a list may be the arguments themselves
      if (!Array.isArray(result)) spare = values;
      return kept(result);
    };
    const column = node.name === 'SUM' && node.args.length === 1 ? this.linesColumn(node.args[0]!.value) : null;
    return column ? (env) => env.total?.(column.group, column.at) ?? run(env) : run;
  }

  /** The column of all lines that a part names (`packets.grams`), when it does. */
  private linesColumn(node: Syntax): { group: number; at: number } | null {
    const source = node.kind === 'member' ? this.names.bindings.get(node.object)?.source : undefined;
    if (node.kind !== 'member' || source?.kind !== 'lines' || !isNumbers(this.typeOf(node))) return null;
    const at = source.columns.get(node.property);
    return at === undefined ? null : { group: source.group, at };
  }
}

/** Whether a list has a value that is sought by its key. Of a list that is asked again, as the roles of who is signed in, the keys are kept. */
function listHas(key: (value: Datum) => Datum): (list: readonly Datum[], sought: Datum) => boolean {
  let last: readonly Datum[] | null = null;
  let keys: Set<Datum> | null = null;
  return (list, sought) => {
    if (list !== last) {
      last = list;
      keys = null;
      for (const value of list) if (value !== null && key(value) === sought) return true;
      return false;
    }
    keys ??= new Set(list.flatMap((value) => (value === null ? [] : [key(value)])));
    return keys.has(sought);
  };
}

const NOWHERE: Env = { mode: 'view', today: '', now: '' } as never;
/** What functions may ask of where they are called: the same object for each call of one place in a formula. Between calls it holds no entry. */
class CallsContext implements CallContext {
  env = NOWHERE;

  constructor(
    readonly at: CallContext['at'],
    readonly types: CallContext['types'],
  ) {}
  get today(): string {
    return this.env.today;
  }
  get now(): string {
    return this.env.now;
  }
  get calendar(): CallContext['calendar'] {
    return this.env.calendar;
  }
}

const isNumbers = (t: Type): boolean => t.kind === 'list' && t.of.kind === 'number';
const isValue = (r: Result): r is string | number | boolean => r !== null && typeof r !== 'object';
/** Comparisons with empty are false; errors and waiting pass on. */
const falseUnlessStopped = (r: Result): Result => (r === null ? false : r);

const overflowOf = (node: Syntax): FormulaError =>
  new FormulaError('overflow', 'The result is too large, or is not a number.', { from: node.from, to: node.to });

function arithmetic(node: Syntax, left: Run, right: Run, operation: Numeric): Run {
  const overflow = overflowOf(node);
  return (env) => {
    const a = left(env);
    const b = right(env);
    if (typeof a !== 'number' || typeof b !== 'number') return poison(a, b);
    const result = operation(a, b);
    return Number.isFinite(result) ? result : overflow;
  };
}

function moveDays(node: Extract<Syntax, { kind: 'binary' }>, left: Run, right: Run, lt: Type, rt: Type): Run {
  const outside = new FormulaError('overflow', 'The date lies outside the years 1 to 9999.', { from: node.from, to: node.to });
  if (isDay(lt) && isDay(rt)) {
    return (env) => {
      const a = left(env);
      const b = right(env);
      if (typeof a !== 'string' || typeof b !== 'string') return poison(a, b);
      if (a.length === 10 && b.length === 10) return dateToDays(a) - dateToDays(b);
      return D.divide(secondsBetween(b, a), 86_400);
    };
  }
  const [day, days] = isDay(lt) ? [left, right] : [right, left];
  const sign = node.operator === '-' ? -1 : 1;
  return (env) => {
    const d = day(env);
    const n = days(env);
    if (typeof d !== 'string' || typeof n !== 'number') return poison(d, n);
    // a date moves by whole days; a date-time by the part of a day too
    const moved = d.length === 10 ? addDays(d, Math.trunc(D.canonical(n)) * sign) : addSeconds(d, Math.round(n * 86_400) * sign);
    return moved ?? outside;
  };
}

/** How two values of these types are ordered: text case-blind by code point, date-time text, numbers, no before yes. */
function comparerFor(lt: Type, rt: Type): (a: Datum, b: Datum) => number {
  if (isTextual(lt) || isTextual(rt)) return (a, b) => compareCodePoints(foldText(String(a)), foldText(String(b)));
  if (lt.kind !== rt.kind && isDay(lt) && isDay(rt)) {
    return (a, b) => {
      const [x, y] = [midnightOf(String(a)), midnightOf(String(b))];
      return x < y ? -1 : x > y ? 1 : 0;
    };
  }
  if (lt.kind === 'number' && rt.kind === 'number') return (a, b) => D.compareNumbers(a as number, b as number);
  return (a, b) => ((a as number) < (b as number) ? -1 : (a as number) > (b as number) ? 1 : 0);
}

const TESTS: Readonly<Record<CompareOperator, (order: number) => boolean>> = {
  '=': (o) => o === 0,
  '<>': (o) => o !== 0,
  '<': (o) => o < 0,
  '<=': (o) => o <= 0,
  '>': (o) => o > 0,
  '>=': (o) => o >= 0,
};

function comparison(operator: CompareOperator, left: Run, right: Run, lt: Type, rt: Type): Run {
  const test = TESTS[operator];
  const compare = comparerFor(lt, rt);
  const plain = (operator === '=' || operator === '<>') && !isTextual(lt) && !isTextual(rt) && lt.kind === rt.kind && lt.kind !== 'number';
  const equal = operator === '=';
  return (env) => {
    const a = left(env);
    const b = right(env);
    if (!isValue(a) || !isValue(b)) return falseUnlessStopped(poison(a, b));
    return plain ? (a === b) === equal : test(compare(a, b));
  };
}
