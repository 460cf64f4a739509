import { compareCodePoints, foldText } from '../values/text.ts';
import type { Checked } from './check.ts';
import { type FormulaProblem, problem } from './problems.ts';
import { printSyntax } from './print.ts';
import { type CompareOperator, type Syntax, childrenOf, conjuncts, ungroup } from './syntax.ts';

/*
 * Conditions that no value can meet, or that every value meets, found from the formula alone: each comparison of one thing
 * with constants is a set of values; parts joined by AND must have a value in common, and what is left over of parts joined
 * by OR must not be nothing. Only what is certain is said: anything else in a part leaves it out of account.
 */

type Constant = number | string | boolean;

/** The values of one thing for which a part is true. */
interface Values {
  /** whether it is true for an empty one: a comparison with empty is false, so what denies it is true */
  readonly blank: boolean;
  readonly low: Constant | null;
  readonly lowIn: boolean;
  readonly high: Constant | null;
  readonly highIn: boolean;
  /** the only values there are, when they can be counted */
  readonly among: readonly Constant[] | null;
  readonly not: readonly Constant[];
}
const ANY: Values = { blank: false, low: null, lowIn: false, high: null, highIn: false, among: null, not: [] };

/** A part that says something of one thing: which, and for which values it is true. */
interface Atom {
  readonly of: string;
  readonly node: Syntax;
  readonly values: Values;
}

/** Warnings for parts of a formula that are never or always true. `checked` must have no errors. Cost: linear but for ORs inside ANDs. */
export function contradictions(checked: Pick<Checked, 'syntax' | 'types'>): FormulaProblem[] {
  const found: FormulaProblem[] = [];
  const walk = (node: Syntax, within: 'AND' | 'OR' | null): void => {
    const join = joinOf(node);
    if (join === 'AND' && within !== 'AND') found.push(...neverTrue(node, checked));
    else if (join === 'OR' && within !== 'OR') found.push(...alwaysTrue(node, checked));
    else if (!join) found.push(...constant(node));
    for (const child of childrenOf(node)) walk(child, node.kind === 'group' ? within : join);
  };
  if (checked.syntax) walk(checked.syntax, null);
  return found;
}

function joinOf(node: Syntax): 'AND' | 'OR' | null {
  if (node.kind === 'binary' && (node.operator === 'AND' || node.operator === 'OR')) return node.operator;
  return node.kind === 'call' && (node.name === 'AND' || node.name === 'OR') ? node.name : null;
}

// ---- AND ----

function neverTrue(node: Syntax, checked: Pick<Checked, 'types'>): FormulaProblem[] {
  const parts = conjuncts(node);
  const bare = parts.find(isYesNo);
  if (bare) return [isYes(bare) ? idle(bare) : problem('neverTrue', node, `Never true: “${shown(bare)}” stands in it.`, [], 'warning')];
  const atoms: Atom[] = [];
  for (const part of parts) {
    const atom = atomOf(part, checked);
    if (!atom) continue;
    const clash = clashing(atoms, atom);
    if (clash) return [never(node, clash, atom)];
    atoms.push(atom);
  }
  // an OR among the parts: none of what it allows goes with the rest
  for (const part of parts) {
    const branches = disjuncts(part);
    if (branches.length < 2 || !atoms.length) continue;
    const clashes = branches.map((branch) => {
      for (const p of conjuncts(branch)) {
        const atom = atomOf(p, checked);
        const clash = atom && clashing(atoms, atom);
        if (clash) return clash;
      }
      return null;
    });
    if (clashes.every((c) => c !== null)) {
      const text = `Never true: nothing that “${shown(part)}” allows goes with “${clashes[0]!.map((a) => shown(a.node)).join('” and “')}”.`;
      return [problem('neverTrue', part, text, [], 'warning')];
    }
  }
  return [];
}

const shown = (node: Syntax): string => printSyntax(ungroup(node));

function never(node: Syntax, clash: readonly Atom[], atom: Atom): FormulaProblem {
  const [first] = clash as [Atom];
  const others = clash.map((a) => `“${shown(a.node)}”`).join(', ');
  const span = { from: Math.min(first.node.from, atom.node.from), to: Math.max(first.node.to, atom.node.to) };
  const text = `Never true: ${others} and “${shown(atom.node)}” cannot hold together.`;
  const either =
    clash.length === 1 &&
    atom.values.among &&
    first.values.among &&
    node.kind === 'binary' &&
    ungroup(node.left) === ungroup(first.node) &&
    ungroup(node.right) === ungroup(atom.node);
  // "is A and is B" nearly always means "is one of A and B"
  const fixes = either ? [{ ...node.operatorSpan, insert: 'OR', label: 'Use OR' }] : [];
  return problem('neverTrue', span, text, fixes, 'warning');
}

/** The earlier atoms that cannot hold together with this one: one where one suffices. Null when they can. */
function clashing(atoms: readonly Atom[], atom: Atom): readonly Atom[] | null {
  const same = atoms.filter((a) => a.of === atom.of);
  const single = same.find((a) => isNothing(both(a.values, atom.values)));
  if (single) return [single];
  const all = same.reduce((v, a) => (v ? both(v, a.values) : a.values), null as Values | null);
  return all && isNothing(both(all, atom.values)) ? same : null;
}

// ---- OR ----

function alwaysTrue(node: Syntax, checked: Pick<Checked, 'types'>): FormulaProblem[] {
  const left = new Map<string, Values>();
  const bare = disjuncts(node).find(isYesNo);
  if (bare) return [isYes(bare) ? problem('alwaysTrue', node, `Always true: “${shown(bare)}” stands in it.`, [], 'warning') : idle(bare)];
  // what asks whether a thing is empty means the empty one
  const asked = new Set<string>();
  for (const part of disjuncts(node)) {
    const atom = atomOf(part, checked);
    const rest = atom && complement(atom.values);
    if (!atom || !rest) continue;
    const before = left.get(atom.of);
    const now = before ? both(before, rest) : rest;
    if (asksBlank(part)) asked.add(atom.of);
    if (isNothing({ ...now, blank: false }) && !(now.blank && asked.has(atom.of))) {
      const text = `Always true: “${shown(node)}” holds for every value of ${atom.of}${now.blank ? '; only an empty one fails it' : ''}.`;
      const differs = node.kind === 'binary' && disjuncts(node).length === 2 && atom.values.not.length > 0;
      return [problem('alwaysTrue', node, text, differs ? [{ ...node.operatorSpan, insert: 'AND', label: 'Use AND' }] : [], 'warning')];
    }
    left.set(atom.of, now);
  }
  return [];
}

function disjuncts(node: Syntax): readonly Syntax[] {
  const inner = ungroup(node);
  if (inner.kind === 'binary' && inner.operator === 'OR') return [...disjuncts(inner.left), ...disjuncts(inner.right)];
  if (inner.kind === 'call' && inner.name === 'OR') return inner.args.flatMap((a) => disjuncts(a.value));
  return [node];
}

/** All values a part is not true for, where they are again one range or can be said as "all but". */
function complement(v: Values): Values | null {
  const rest = { ...ANY, blank: !v.blank };
  if (v.among) return v.low === null && v.high === null ? { ...rest, not: v.among } : null;
  if (v.not.length) return v.low === null && v.high === null ? { ...rest, among: v.not } : null;
  if (v.low !== null && v.high === null) return { ...rest, high: v.low, highIn: !v.lowIn };
  if (v.high !== null && v.low === null) return { ...rest, low: v.high, lowIn: !v.highIn };
  return v.low === null ? { ...rest, among: [] } : null;
}

// ---- constants ----

const isYesNo = (node: Syntax): boolean => ungroup(node).kind === 'yesno';
const isYes = (node: Syntax): boolean => {
  const inner = ungroup(node);
  return inner.kind === 'yesno' && inner.value;
};
/** TRUE beside AND, FALSE beside OR. */
const idle = (node: Syntax): FormulaProblem =>
  problem(isYes(node) ? 'alwaysTrue' : 'neverTrue', node, `“${shown(node)}” says nothing here: take it out.`, [], 'warning');
function asksBlank(part: Syntax): boolean {
  const node = ungroup(part);
  if (node.kind === 'unary') return asksBlank(node.operand);
  return (
    node.kind === 'call' && (node.name === 'ISBLANK' || (node.name === 'NOT' && node.args.length === 1 && asksBlank(node.args[0]!.value)))
  );
}

/** A comparison of constants alone. A bare TRUE or FALSE is meant. */
function constant(node: Syntax): FormulaProblem[] {
  if (node.kind !== 'binary' || !isComparison(node.operator)) return [];
  const [left, right] = [constantOf(node.left), constantOf(node.right)];
  if (left === null || right === null || typeof left !== typeof right) return [];
  const held = !isNothing(both(compared('=', left), compared(node.operator, right)));
  const text = `${held ? 'Always' : 'Never'} true: “${shown(node)}” compares constants.`;
  return [problem(held ? 'alwaysTrue' : 'neverTrue', node, text, [], 'warning')];
}

const isComparison = (operator: string): operator is CompareOperator => ['=', '<>', '<', '<=', '>', '>='].includes(operator);

/** A number, text (folded as comparisons fold it), yes/no or written date; null when it is none of them. */
function constantOf(node: Syntax): Constant | null {
  const inner = ungroup(node);
  switch (inner.kind) {
    case 'number':
    case 'yesno':
      return inner.value;
    case 'text':
      return foldText(inner.value);
    case 'percent': {
      const of = constantOf(inner.operand);
      return typeof of === 'number' ? of / 100 : null;
    }
    case 'unary': {
      const of = constantOf(inner.operand);
      return typeof of === 'number' && inner.operator !== 'NOT' ? (inner.operator === '-' ? -of : of) : null;
    }
    case 'call': {
      const numbers = inner.name === 'DATE' ? inner.args.map((a) => constantOf(a.value)) : [];
      const [y, m, d] = numbers;
      const plain =
        numbers.length === 3 &&
        typeof y === 'number' &&
        typeof m === 'number' &&
        typeof d === 'number' &&
        m >= 1 &&
        m <= 12 &&
        d >= 1 &&
        d <= 28;
      return plain ? `${String(y).padStart(4, '0')}-${String(m).padStart(2, '0')}-${String(d).padStart(2, '0')}` : null;
    }
    default:
      return null;
  }
}

// ---- what one part says ----

function atomOf(part: Syntax, checked: Pick<Checked, 'types'>, negated = false): Atom | null {
  const node = ungroup(part);
  const about = (term: Syntax, values: Values | null): Atom | null =>
    values && isPath(ungroup(term)) ? { of: printSyntax(ungroup(term)), node: part, values } : null;
  if (node.kind === 'unary' && node.operator === 'NOT') {
    const inner = atomOf(node.operand, checked, !negated);
    return inner && { ...inner, node: part };
  }
  if (node.kind === 'call' && node.name === 'NOT' && node.args.length === 1) {
    const inner = atomOf(node.args[0]!.value, checked, !negated);
    return inner && { ...inner, node: part };
  }
  if (node.kind === 'call' && node.name === 'ISBLANK' && node.args.length === 1)
    return about(node.args[0]!.value, negated ? ANY : { ...ANY, blank: true, among: [] });
  if (isPath(node) && checked.types.get(node)?.kind === 'yesno') return about(node, { ...ANY, among: [!negated], blank: negated });
  const said = valuesOf(node, about);
  if (!said || !negated) return said;
  const values = complement(said.values);
  return values && { ...said, values };
}

function valuesOf(node: Syntax, about: (term: Syntax, values: Values | null) => Atom | null): Atom | null {
  if (node.kind === 'binary' && isComparison(node.operator)) {
    const right = constantOf(node.right);
    if (right !== null) return about(node.left, compared(node.operator, right));
    const left = constantOf(node.left);
    return left === null ? null : about(node.right, compared(TURNED[node.operator], left));
  }
  if (node.kind === 'in') {
    const list = node.list.map(constantOf);
    return list.every((c) => c !== null) ? about(node.item, { ...ANY, among: list }) : null;
  }
  if (node.kind === 'between') {
    const [low, high] = [constantOf(node.low), constantOf(node.high)];
    return low === null || high === null ? null : about(node.item, { ...ANY, low, lowIn: true, high, highIn: true });
  }
  return null;
}
const TURNED: Record<CompareOperator, CompareOperator> = { '=': '=', '<>': '<>', '<': '>', '<=': '>=', '>': '<', '>=': '<=' };

function compared(operator: CompareOperator, value: Constant): Values {
  switch (operator) {
    case '=':
      return { ...ANY, among: [value] };
    case '<>':
      return { ...ANY, not: [value] };
    case '<':
    case '<=':
      return { ...ANY, high: value, highIn: operator === '<=' };
    case '>':
    case '>=':
      return { ...ANY, low: value, lowIn: operator === '>=' };
  }
}

function isPath(node: Syntax): boolean {
  return node.kind === 'name' || (node.kind === 'member' && isPath(node.object));
}

// ---- sets of values ----

function both(a: Values, b: Values): Values {
  const low = tighter(a.low, a.lowIn, b.low, b.lowIn, 1);
  const high = tighter(a.high, a.highIn, b.high, b.highIn, -1);
  const among = a.among && b.among ? a.among.filter((v) => b.among!.includes(v)) : (a.among ?? b.among);
  return { blank: a.blank && b.blank, low: low[0], lowIn: low[1], high: high[0], highIn: high[1], among, not: [...a.not, ...b.not] };
}

function tighter(a: Constant | null, aIn: boolean, b: Constant | null, bIn: boolean, side: 1 | -1): [Constant | null, boolean] {
  if (a === null || b === null) return a === null ? [b, bIn] : [a, aIn];
  if (typeof a !== typeof b || a === b) return [a, aIn && bIn];
  return order(a, b) === side ? [a, aIn] : [b, bIn];
}

/** As values are compared when a formula runs. */
const order = (a: Constant, b: Constant): number =>
  typeof a === 'string' && typeof b === 'string' ? Math.sign(compareCodePoints(a, b)) : a > b ? 1 : a < b ? -1 : 0;

/** Whether there is certainly no such value. Values of different kinds are not judged. */
function isNothing(v: Values): boolean {
  if (v.blank) return false;
  const kinds = new Set([v.low, v.high, ...(v.among ?? []), ...v.not].filter((c) => c !== null).map((c) => typeof c));
  if (kinds.size > 1) return false;
  if (v.among) return !v.among.some((c) => within(c, v) && !v.not.includes(c));
  if (v.not.includes(true) && v.not.includes(false)) return true;
  if (v.low === null || v.high === null) return false;
  return order(v.low, v.high) > 0 || (v.low === v.high && (!(v.lowIn && v.highIn) || v.not.includes(v.low)));
}

const within = (c: Constant, v: Values): boolean =>
  (v.low === null || order(c, v.low) > 0 || (c === v.low && v.lowIn)) &&
  (v.high === null || order(c, v.high) < 0 || (c === v.high && v.highIn));
