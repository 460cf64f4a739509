import type { Datum } from '../../values/types.ts';
import { type ErrorCode, FormulaError, MOST_CHARACTERS, MOST_ITEMS, type Result, type Span, TooMuch } from '../errors.ts';
import * as T from '../../values/typing.ts';
import type { Type } from '../../values/typing.ts';

export type FunctionGroup = 'logical' | 'numeric' | 'list' | 'text' | 'date' | 'information' | 'financial' | 'data';

/** What an argument may be, in words and as a test. */
export interface ParameterType {
  readonly word: string;
  /** the type named in messages when the argument does not fit */
  readonly wanted: Type;
  accepts(actual: Type): boolean;
}

export interface Parameter {
  readonly name: string;
  readonly type: ParameterType;
  readonly optional?: true;
  readonly repeats?: true;
}

/** What a function may know of the world: read once when the entry opened. */
/** The days that are worked, from Monday (1) to Sunday (7), and days off as `YYYY-MM-DD`: what counts when a formula names none. */
export interface WorkCalendar {
  readonly workingDays: readonly number[];
  readonly holidays: readonly string[];
}

export interface CallContext {
  readonly today: string;
  readonly now: string;
  readonly at: Span;
  /** what is worked; Monday to Friday, without days off, where nothing is said */
  readonly calendar?: WorkCalendar | undefined;
  /** the static types of the arguments */
  readonly types: readonly Type[];
}

interface Described {
  readonly name: string;
  readonly group: FunctionGroup;
  readonly parameters: readonly Parameter[];
  /** repeated parameters come two by two */
  readonly inPairs?: true;
  /** with `inPairs`: what a single last argument is (SWITCH's default) */
  readonly lastOfOdd?: Parameter;
  /** one line, for completion */
  readonly summary: string;
  /** more, for the guide; says how empty is treated where that is not the usual way */
  readonly detail?: string;
  /** formula and the result as it prints; run as tests */
  readonly examples: readonly (readonly [formula: string, result: string])[];
  /** the type of the result, or null when the arguments' types do not go together */
  returns(args: readonly Type[]): Type | null;
}

interface EagerFunction extends Described {
  readonly lazy?: false;
  /** 'propagate' (the usual): one empty argument makes the result empty. 'given': the function sees empties. */
  readonly empties?: 'propagate' | 'given';
  /**
   * Numbers reach a function held to 15 digits, so that what denotes 5 counts as 5. Plain arithmetic takes them as they were
   * computed: SUM(1/3, 1/3, 1/3) is 1.
   */
  readonly exact?: true;
  /** Arguments are plain values of the declared types; errors never reach it. */
  evaluate(args: readonly Datum[], context: CallContext): Result;
}

interface LazyFunction extends Described {
  readonly lazy: true;
  /** Arguments are computed when called: branches not taken are not. */
  evaluate(args: readonly (() => Result)[], context: CallContext): Result;
}

/** A function of the language: signature, help, examples and implementation in one place. */
export type FunctionDeclaration = (EagerFunction | LazyFunction) & { readonly signature: string };

const scalar = (word: string, wanted: Type, accepts: (t: Type) => boolean = (t) => T.fits(wanted, t)): ParameterType => ({
  word,
  wanted,
  accepts: (t) => t.kind !== 'object' && accepts(t),
});

export const number = scalar('number', T.NUMBER);
export const text = scalar('text', T.TEXT);
export const yesno = scalar('yes/no', T.YESNO);
export const date = scalar('date', T.DATE, (t) => T.fits(T.DATE, t) || t.kind === 'datetime');
export const time = scalar('time', T.TIME, (t) => T.fits(T.TIME, t) || t.kind === 'datetime');
/** any single value or list */
export const any = scalar('any', T.UNKNOWN, () => true);
/** anything that can be written out */
export const writable = scalar('value', T.TEXT, (t) => t.kind !== 'row' && t.kind !== 'list');
export const numbers = scalar('numbers', T.NUMBER, (t) => T.fits(T.NUMBER, t.kind === 'list' ? t.of : t));
export const texts = scalar('texts', T.TEXT, (t) => {
  const of = t.kind === 'list' ? t.of : t;
  return of.kind !== 'row';
});
export const yesnos = scalar('yes/no values', T.YESNO, (t) => T.fits(T.YESNO, t.kind === 'list' ? t.of : t));
/** numbers or dates, single or in lists: what MIN and MAX order */
export const ordered = scalar('numbers or dates', T.NUMBER, (t) => {
  const of = t.kind === 'list' ? t.of : t;
  return T.isOpen(of) || ['number', 'date', 'datetime', 'time'].includes(of.kind);
});
export const list = scalar('list', T.listOf(T.UNKNOWN), (t) => T.isOpen(t) || t.kind === 'list');
export const dates = scalar('dates', T.DATE, (t) => T.fits(T.DATE, t.kind === 'list' ? t.of : t));

type Named = Omit<Parameter, 'name' | 'type'>;
export const p = (name: string, type: ParameterType, more: Named = {}): Parameter => ({ name, type, ...more });
export const optional = { optional: true } as const;
export const repeats = { optional: true, repeats: true } as const;

/** Completes a declaration with its signature. `returns` may be a fixed type. */
export function define(
  d: (Omit<EagerFunction, 'returns'> | Omit<LazyFunction, 'returns'>) & { returns: Type | Described['returns'] },
): FunctionDeclaration {
  const { returns } = d;
  const words = d.parameters.map((x) => (x.optional && !x.repeats ? `[${x.name}]` : x.repeats ? `${x.name} …` : x.name));
  const signature = `${d.name}(${words.join(', ')})`;
  const returning = typeof returns === 'function' ? returns : (): Type => returns;
  return Object.freeze({ ...d, returns: returning, signature }) as FunctionDeclaration;
}

export const fail = (code: ErrorCode, message: string, context: CallContext): FormulaError => new FormulaError(code, message, context.at);

/** All items of the arguments, lists opened, empties left out: what SUM and its kin work on. */
export function items(args: readonly Datum[]): Item[] {
  const found: Item[] = [];
  collect(args, found);
  return found;
}
type Item = Exclude<Datum, null | readonly Datum[]>;
function collect(args: readonly Datum[], found: Item[]): void {
  for (const arg of args) {
    if (Array.isArray(arg)) collect(arg as readonly Datum[], found);
    else if (arg !== null) found.push(arg as Item);
    if (found.length > MOST_ITEMS) throw new TooMuch(`A list can have at most ${MOST_ITEMS.toLocaleString('en')} items.`);
  }
}
/** The least and the greatest of numbers; Infinity and -Infinity when there are none. However many: nothing is spread. */
export const least = (ns: readonly number[]): number => ns.reduce((a, b) => (b < a ? b : a), Infinity);
export const greatest = (ns: readonly number[]): number => ns.reduce((a, b) => (b > a ? b : a), -Infinity);

/** Throws TooMuch when a text of this length would be longer than a formula may make: asked before it is built. */
export function checkLength(characters: number): void {
  if (characters > MOST_CHARACTERS) throw new TooMuch(`The text would have more than ${MOST_CHARACTERS.toLocaleString('en')} characters.`);
}
/** Texts joined, with something between them; their length is asked first. */
export function joined(parts: readonly string[], between = ''): string {
  checkLength(parts.reduce((n, p) => n + p.length, between.length * Math.max(0, parts.length - 1)));
  return parts.join(between);
}
/** The numbers among them, lists opened. */
export const numbersIn = (args: readonly Datum[]): number[] => items(args).filter((x): x is number => typeof x === 'number');

/** A result beyond what a number can hold is an error, never Infinity or NaN. */
export function finite(value: number, context: CallContext): Result {
  if (Number.isFinite(value)) return value;
  if (Number.isNaN(value)) return fail('badArgument', 'This has no result for these numbers.', context);
  return fail('overflow', 'The result is too large to be held.', context);
}
