import { type Run, compileNode, poison } from '../formula/compile.ts';
import type { Env } from '../formula/env.ts';
import { type Result, Waiting, isDatum, isFormulaError } from '../formula/errors.ts';
import { type Formula, readsCandidate, slotsRead } from '../formula/formula.ts';
import { printSyntax } from '../formula/print.ts';
import { type Syntax, childrenOf, conjuncts, ungroup } from '../formula/syntax.ts';
import type { Datum, Row } from '../values/types.ts';

/** One top-level AND part of a narrowing: what the funnel counts. */
export interface NarrowingPart {
  readonly syntax: Syntax;
  readonly text: string;
  /** true for candidates it keeps; reads `env.candidate` and `env.params` */
  readonly run: Run;
  /** slots of the fields it waits for: those it reads, but for those it asks ISBLANK of (it says itself what empty means) */
  readonly drivers: readonly number[];
  /** the parameters it binds, as places in `Narrowing.params` */
  readonly params: readonly number[];
  /** for `choice.genus = genus`: the field equated and the candidate's side, from which filling up takes its value */
  readonly equates: { readonly slot: number; readonly syntax: Syntax; readonly candidate: Run } | null;
  /**
   * Of a part that was not written but follows from the levels above (see through.ts): the fields that must all be empty for
   * it to count. Null for a part that was written.
   */
  readonly through: readonly number[] | null;
  /** whether it asks the candidates' own columns and nothing else: of the same rows and parameters it keeps the same, whenever */
  readonly asksRowsAlone: boolean;
}

/** A part that follows from the levels above, as `narrowingOf` takes it. */
export interface ThroughPart {
  readonly syntax: Extract<Syntax, { kind: 'binary' }>;
  readonly through: readonly number[];
  readonly driver: number;
  /** what is asked of both sides instead of equality, with how it reads; of option lists, whose links are no paths */
  readonly instead?: { readonly text: string; test(candidate: Datum, wanted: Datum): boolean };
}

/** A narrowing taken apart once: what is asked of the entry (params), and what is asked of each candidate (parts). */
export interface Narrowing {
  readonly formula: Formula;
  readonly parts: readonly NarrowingPart[];
  readonly params: readonly { readonly syntax: Syntax; readonly text: string; readonly run: Run }[];
  readonly paramNumbers: ReadonlyMap<Syntax, number>;
  readonly drivers: readonly number[];
  /** whether it is the same whatever has been entered: it waits for no field and binds nothing */
  readonly isFixed: boolean;
}

/**
 * Takes a checked narrowing apart. Each largest part that does not read the candidate becomes a parameter, computed
 * once per entry state instead of once per row; the same parameters are what SQL binds.
 */
export function narrowingOf(formula: Formula, follows: readonly ThroughPart[] = []): Narrowing {
  const params: Narrowing['params'][number][] = [];
  const paramNumbers = new Map<Syntax, number>();
  const instead = new Map<Syntax, Run>();
  const collect = (node: Syntax): void => {
    if (node.kind === 'number' || node.kind === 'text' || node.kind === 'yesno') return;
    if (readsCandidate(node, formula)) {
      // what is asked of each of a list has a value for that one alone
      const parts = formula.extras.get(node)?.kind === 'each' ? childrenOf(node).slice(0, 1) : childrenOf(node);
      for (const child of parts) collect(child);
      return;
    }
    const number = params.length;
    params.push({ syntax: node, text: printSyntax(node), run: compileNode(node, formula) });
    paramNumbers.set(node, number);
    instead.set(node, (env) => env.params[number] ?? null);
  };
  const parts: NarrowingPart[] = [];
  for (const syntax of formula.syntax ? conjuncts(formula.syntax) : []) {
    const before = params.length;
    collect(syntax);
    parts.push({
      syntax,
      text: printSyntax(ungroup(syntax)),
      run: compileNode(syntax, formula, instead),
      drivers: slotsAwaited(syntax, formula),
      params: params.slice(before).map((_, i) => before + i),
      equates: equated(ungroup(syntax), formula),
      through: null,
      asksRowsAlone: asksRowsAlone(syntax, formula, paramNumbers),
    });
  }
  for (const { syntax, through, driver, instead: other } of follows) {
    const before = params.length;
    collect(syntax);
    const run = other ? comparedBy(other.test, compileNode(syntax.left, formula, instead), compileNode(syntax.right, formula, instead)) : compileNode(syntax, formula, instead); // prettier-ignore
    const numbers = params.slice(before).map((_, i) => before + i);
    const alone = asksRowsAlone(syntax, formula, paramNumbers);
    parts.push({ syntax, text: other?.text ?? printSyntax(syntax), run, drivers: [driver], params: numbers, equates: null, through, asksRowsAlone: alone }); // prettier-ignore
  }
  return {
    formula,
    parts,
    params,
    paramNumbers,
    drivers: [...new Set(parts.flatMap((p) => (p.through ? [] : p.drivers)))].sort((a, b) => a - b),
    isFixed: !params.length && parts.every((p) => !p.drivers.length && !p.through),
  };
}

/** Functions that make of what they are given alone what they give. */
const OF_ARGUMENTS = new Set(['ISBLANK', 'NOT', 'AND', 'OR', 'IF', 'COALESCE']);
/** Whether a part reads nothing but columns of the candidate and parameters. What is not known to be so is taken not to be. */
function asksRowsAlone(node: Syntax, formula: Formula, params: ReadonlyMap<Syntax, number>): boolean {
  if (params.has(node)) return true;
  if (formula.extras.has(node)) return false;
  switch (node.kind) {
    case 'number':
    case 'text':
    case 'yesno':
      return true;
    case 'member':
      return formula.bindings.get(node.object)?.source.kind === 'candidate';
    case 'name':
      return false;
    case 'call':
      return OF_ARGUMENTS.has(node.name.toUpperCase()) && childrenOf(node).every((n) => asksRowsAlone(n, formula, params));
    default:
      return childrenOf(node).every((n) => asksRowsAlone(n, formula, params));
  }
}

function comparedBy(test: (a: Datum, b: Datum) => boolean, left: Run, right: Run): Run {
  return (env) => {
    const [a, b] = [left(env), right(env)];
    if (!isDatum(a) || !isDatum(b)) return poison(a, b);
    return a !== null && b !== null && test(a, b);
  };
}

function slotsAwaited(node: Syntax, formula: Formula): readonly number[] {
  const asked = new Set<number>();
  const walk = (n: Syntax): void => {
    if (n.kind === 'call' && n.name === 'ISBLANK') for (const slot of slotsRead(n, formula)) asked.add(slot);
    childrenOf(n).forEach(walk);
  };
  walk(node);
  return slotsRead(node, formula).filter((slot) => !asked.has(slot));
}

function equated(node: Syntax, formula: Formula): NarrowingPart['equates'] {
  if (node.kind !== 'binary' || node.operator !== '=') return null;
  for (const [field, other] of [
    [node.right, node.left],
    [node.left, node.right],
  ] as const) {
    const source = formula.bindings.get(ungroup(field))?.source;
    if (source?.kind === 'slot' && readsCandidate(other, formula))
      return { slot: source.slot, syntax: other, candidate: compileNode(other, formula) };
  }
  return null;
}

/** How many candidates were left after each part. `text` is the part as a formula. */
export interface FunnelStep {
  readonly part: number;
  readonly text: string;
  readonly remaining: number;
  /** left out because a field it reads is empty and the list offers all while waiting */
  readonly skipped: boolean;
}

export interface Narrowed {
  readonly rows: readonly Row[];
  readonly funnel: readonly FunnelStep[];
  /** a part could not be computed for some row */
  readonly failed: Result;
  readonly waiting: boolean;
}

/**
 * Narrows rows in memory, part by part, which gives the funnel for free. `open` parts are skipped. A row for which
 * a part is an error or still waiting is not offered; the first such result is given back.
 * Cost: rows × parts, falling with each part.
 */
export function narrowRows(narrowing: Narrowing | null, rows: readonly Row[], open: ReadonlySet<number>, env: Env): Narrowed {
  let left = rows;
  let failed: Result = null;
  let waiting = false;
  const funnel: FunnelStep[] = [];
  const before = env.candidate;
  narrowing?.parts.forEach((part, number) => {
    const skipped = open.has(number);
    if (!skipped) {
      left = left.filter((row) => {
        env.candidate = row;
        const met = part.run(env);
        if (met === Waiting.value) waiting = true;
        else if (failed === null && isFormulaError(met)) failed = met;
        return met === true;
      });
    }
    funnel.push({ part: number, text: part.text, remaining: left.length, skipped });
  });
  env.candidate = before;
  return { rows: left, funnel, failed, waiting };
}

/** The parts that wait because a field they read is empty: until it is filled, the list does what its field says. */
export const waitingParts = (narrowing: Narrowing | null, valueAt: (slot: number) => Result): readonly number[] =>
  partsThat(narrowing, (part) => !part.through && part.drivers.some((slot) => valueAt(slot) === null));

/** The parts that do not count now: those that wait, and those through levels that are filled or lead to one that is not. */
export const skippedParts = (narrowing: Narrowing | null, valueAt: (slot: number) => Result): readonly number[] =>
  partsThat(narrowing, (part) => isSkipped(part, valueAt));
export function isSkipped({ drivers, through }: NarrowingPart, valueAt: (slot: number) => Result): boolean {
  for (const slot of drivers) if (valueAt(slot) === null) return true;
  if (through) for (const slot of through) if (valueAt(slot) !== null) return true;
  return false;
}

const NO_PARTS: readonly number[] = Object.freeze([]);
/** The numbers of some parts. Mostly there is none, and then nothing is made. */
function partsThat(narrowing: Narrowing | null, are: (part: NarrowingPart) => boolean): readonly number[] {
  let found: number[] | null = null;
  const parts = narrowing?.parts ?? [];
  for (let i = 0; i < parts.length; i++) if (are(parts[i] as NarrowingPart)) (found ??= []).push(i);
  return found ?? NO_PARTS;
}
