import { compileNode } from '../formula/compile.ts';
import { type Result, isDatum } from '../formula/errors.ts';
import type { Env } from '../formula/env.ts';
import type { Formula } from '../formula/formula.ts';
import { partsOf } from '../formula/formula.ts';
import { printSyntax } from '../formula/print.ts';
import { type Syntax, rootOf, ungroup } from '../formula/syntax.ts';
import { type Origin, firstOrigin, makerOf } from '../model/origin.ts';
import { add, divide, multiply, subtract } from '../values/decimal.ts';
import { type Datum, type Row, same } from '../values/types.ts';
import { type Type, UNKNOWN } from '../values/typing.ts';
import type { Entry } from './entry.ts';

/** What stands between a field and a value that somebody expected in it. */
export type Against =
  /** nothing fills the field */
  | { readonly kind: 'noFill' }
  /** something else than its fill set it: a person, a rule, a move, hiding; `gives` is what its fill would give */
  | { readonly kind: 'set'; readonly origin: Origin; readonly gives: Result; readonly wouldFit: boolean }
  /** it is a default, and the record is not new */
  | { readonly kind: 'default'; readonly gives: Result; readonly wouldFit: boolean }
  /** another branch would give it: the condition would have to be true (or not) */
  | { readonly kind: 'branch'; readonly condition: Syntax; readonly result: Result; readonly wants: boolean; readonly gives: Syntax }
  /** a later part would give it, but an earlier one is not empty */
  | { readonly kind: 'earlier'; readonly part: Syntax; readonly value: Result; readonly gives: Syntax }
  /** a name that would have to be something else */
  | { readonly kind: 'name'; readonly name: Syntax; readonly slot: number | null; readonly type: Type; readonly value: Result; readonly needed: Datum; readonly rows: RowsWith | null }
  /** nothing simpler than that the formula gives something else */
  | { readonly kind: 'gives'; readonly value: Result }; // prettier-ignore

/** Rows of the table that a name goes through, which have what is needed. */
export interface RowsWith {
  readonly table: string;
  readonly count: number;
  /** the first of them */
  readonly some: readonly number[];
}

/** How many ways are told, how deep a formula is looked into, and how many rows are tried. */
const MOST = 6;
const DEEPEST = 40;
const MOST_ROWS = 5000;

/**
 * What stands against an expected value in a field: whoever set it instead of its fill, and the parts of the fill's formula that would have
 * to be otherwise — the condition of a branch that would give it, an earlier alternative that is not empty, or a single name, worked
 * backwards through sums, differences, products, quotients and rounding. Takes the field by its path, the line it stands in, and the value
 * that is expected. Gives an empty array when the field holds it. Reads only. Throws RangeError when the form has no such field. Cost:
 * the parts of the formula, and up to 5,000 known rows for each name that leads through a link.
 */
export function whyNotValue(entry: Entry, path: string, line: number | null, expected: Datum): readonly Against[] {
  const field = entry.field(path);
  const { value, origin } = entry.state(path, line);
  if (isDatum(value) && same(value, expected)) return [];
  if (!field.value) return [{ kind: 'noFill' }];
  const { formula, kind, fitted } = field.value;
  const env = entry.environmentOf(path, line);
  const gives = fitted(env);
  const wouldFit = isDatum(gives) && same(gives, expected);
  const found: Against[] = [];
  const first = firstOrigin(origin);
  const maker = makerOf(first);
  if (kind === 'default' && entry.context.mode !== 'new') found.push({ kind: 'default', gives, wouldFit });
  else if (maker !== 'formula' && maker !== 'nobody') found.push({ kind: 'set', origin: first, gives, wouldFit });
  if (wouldFit || !formula.syntax) return found;
  return [...found, ...new Backwards(entry, formula, env).against(formula.syntax, expected, 0).slice(0, MOST)];
}

class Backwards {
  private readonly once: ReadonlySet<string>;
  constructor(
    private readonly entry: Entry,
    private readonly formula: Formula,
    private readonly env: Env,
  ) {
    this.once = namesOnce(formula);
  }
  private run = (node: Syntax): Result => compileNode(node, this.formula)(this.env);
  private gives(node: Syntax, expected: Datum): boolean {
    const value = this.run(node);
    return isDatum(value) && same(value, expected);
  }

  /** What would have to be otherwise so that a part gives a value; empty when it does. */
  against(part: Syntax, expected: Datum, depth: number): Against[] {
    const node = ungroup(part);
    if (this.gives(node, expected)) return [];
    const found = depth > DEEPEST ? [] : this.inside(node, expected, depth + 1);
    return found.length ? found : [{ kind: 'gives', value: this.run(node) }];
  }
  private inside(node: Syntax, expected: Datum, depth: number): Against[] {
    switch (node.kind) {
      case 'call':
        return this.ofCall(node, expected, depth);
      case 'binary':
        return this.ofBinary(node, expected, depth);
      case 'unary':
        return node.operator === '-' && typeof expected === 'number' ? this.told(node.operand, subtract(0, expected), depth) : [];
      case 'percent':
        return typeof expected === 'number' ? this.told(node.operand, multiply(expected, 100), depth) : [];
      case 'name':
      case 'member':
        return this.ofName(node, expected);
      default:
        return [];
    }
  }
  /** As `against`, without telling that a part gives something else: the whole tells it. */
  private told(part: Syntax, expected: Datum, depth: number): Against[] {
    return this.against(part, expected, depth).filter((a) => a.kind !== 'gives');
  }

  private ofCall(node: Extract<Syntax, { kind: 'call' }>, expected: Datum, depth: number): Against[] {
    const args = node.args.map((a) => a.value);
    const [first, second, third] = args;
    if (node.name === 'ROUND' && first && typeof expected === 'number') return this.told(first, expected, depth);
    if (node.name === 'IF' && first && second) return this.ofBranches([[first, second]], third ?? null, expected, depth);
    if (node.name === 'IFS') {
      const pairs = args.flatMap((c, i): [Syntax, Syntax][] => (i % 2 === 0 && args[i + 1] ? [[c, args[i + 1] as Syntax]] : []));
      return this.ofBranches(pairs, args.length % 2 ? (args.at(-1) ?? null) : null, expected, depth);
    }
    if (node.name === 'COALESCE' || node.name === 'IFERROR' || node.name === 'IFNA') {
      const filled = args.findIndex((a) => {
        const value = this.run(a);
        return isDatum(value) && value !== null;
      });
      const taken = args[filled];
      const later = args.slice(filled + 1).find((a) => this.gives(a, expected));
      if (taken && later) return [{ kind: 'earlier', part: taken, value: this.run(taken), gives: later }];
      return taken ? this.told(taken, expected, depth) : args.flatMap((a) => this.told(a, expected, depth));
    }
    return [];
  }
  /** Branches with their conditions: the one that is taken worked backwards, and those that would give it. */
  private ofBranches(pairs: readonly (readonly [Syntax, Syntax])[], otherwise: Syntax | null, expected: Datum, depth: number): Against[] {
    const held = pairs.findIndex(([condition]) => this.run(condition) === true);
    const taken = held < 0 ? otherwise : (pairs[held]?.[1] ?? null);
    const found: Against[] = [];
    for (const [i, [condition, gives]] of pairs.entries()) {
      if (i === held || !this.gives(gives, expected)) continue;
      found.push({ kind: 'branch', condition, result: this.run(condition), wants: true, gives });
      // what stands before it would be taken instead
      const before = held >= 0 && held < i ? pairs[held] : undefined;
      if (before) found.push({ kind: 'branch', condition: before[0], result: true, wants: false, gives });
    }
    const [only] = pairs;
    if (otherwise && held >= 0 && only && this.gives(otherwise, expected))
      found.push({ kind: 'branch', condition: pairs[held]?.[0] ?? only[0], result: true, wants: false, gives: otherwise });
    return [...found, ...(taken ? this.told(taken, expected, depth) : [])];
  }

  private ofBinary(node: Extract<Syntax, { kind: 'binary' }>, expected: Datum, depth: number): Against[] {
    if (typeof expected !== 'number') return [];
    const { left, right, operator } = node;
    const [l, r] = [this.run(left), this.run(right)];
    const found: Against[] = [];
    const side = (part: Syntax, needed: number): void => {
      if (Number.isFinite(needed)) found.push(...this.told(part, needed, depth));
    };
    if (typeof r === 'number') {
      if (operator === '+') side(left, subtract(expected, r));
      if (operator === '-') side(left, add(expected, r));
      if (operator === '*' && r !== 0) side(left, divide(expected, r));
      if (operator === '/' && r !== 0) side(left, multiply(expected, r));
    }
    if (typeof l === 'number') {
      if (operator === '+') side(right, subtract(expected, l));
      if (operator === '-') side(right, subtract(l, expected));
      if (operator === '*' && l !== 0) side(right, divide(expected, l));
      if (operator === '/' && expected !== 0) side(right, divide(l, expected));
    }
    return found;
  }

  /** A name would have to be the value itself; one that leads through a link, a link to another row. */
  private ofName(node: Syntax, needed: Datum): Against[] {
    if (!this.once.has(printSyntax(node))) return [];
    const root = rootOf(node);
    const source = this.formula.bindings.get(root)?.source;
    if (source?.kind === 'candidate' || source?.kind === 'picked' || source?.kind === 'each') return [];
    const slot = source?.kind === 'slot' ? source.slot : null;
    const type = this.formula.types.get(node) ?? UNKNOWN;
    const rows = node.kind === 'member' ? this.rowsWith(node, needed) : null;
    return [{ kind: 'name', name: node, slot, type, value: this.run(node), needed, rows }];
  }
  /** Which rows have the value in the column a path ends in, of those that are known. */
  private rowsWith(node: Extract<Syntax, { kind: 'member' }>, needed: Datum): RowsWith | null {
    const of = this.formula.types.get(node.object);
    if (of?.kind !== 'row') return null;
    const known = this.entry.cache.table(of.table)?.rows;
    if (!known || known.length > MOST_ROWS) return null;
    const fits = known.filter((row: Row) => same(row[node.property] ?? null, needed));
    return { table: of.table, count: fits.length, some: fits.slice(0, 3).map((r) => r.id) };
  }
}

/** The names that stand in a formula once: what is worked backwards through the others has one unknown. */
function namesOnce(formula: Formula): ReadonlySet<string> {
  const counts = new Map<string, number>();
  const walk = (node: Syntax): void => {
    if (node.kind === 'name' || (node.kind === 'member' && rootOf(node).kind === 'name')) {
      const text = printSyntax(node);
      counts.set(text, (counts.get(text) ?? 0) + 1);
    } else partsOf(node, formula).forEach(walk);
  };
  if (formula.syntax) walk(formula.syntax);
  return new Set([...counts].filter(([, n]) => n === 1).map(([text]) => text));
}
