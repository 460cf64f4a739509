import { parseFormula } from '../formula/parse.ts';
import { type Scope, withBinding } from '../formula/scope.ts';
import { type Syntax, childrenOf, pathOf, ungroup } from '../formula/syntax.ts';
import * as T from '../values/typing.ts';

/*
 * A condition over an entry (`species.protected AND quantity_g > 5`) read as one over a row on offer, so that the same sentences build
 * both: the entry is the row, its fields are the columns (`choice.species.protected AND choice.quantity_g > 5`).
 */

/** The table that stands for the entry: its columns are the fields. No table of the model can have this key. */
export const ENTRY_TABLE = '@entry';

/** The names of a form with its fields as columns of the row `choice`; and who is signed in, as a column of it. */
export function entryScope(scope: Scope): Scope {
  const columns = new Map(
    [...scope.bindings].flatMap(([key, b]) =>
      b.source.kind === 'slot' || b.source.kind === 'lines' || b.source.kind === 'me'
        ? [[key, { key, label: b.source.kind === 'me' ? 'the person signed in' : b.label, type: b.type }] as const]
        : [],
    ),
  );
  const tables = new Map(scope.tables).set(ENTRY_TABLE, { key: ENTRY_TABLE, label: 'this entry', shown: null, columns });
  const type = T.rowOf(ENTRY_TABLE);
  return withBinding({ ...scope, tables }, { name: 'choice', label: 'The entry', type, source: { kind: 'candidate' } });
}

/** Functions whose sentence is about their first argument. */
const ABOUT_FIRST = new Set(['ISBLANK', 'CONTAINSANY', 'COUNTA', 'ANYOF', 'ALLOF', 'NONEOF']);
const COMPARES = new Set(['=', '<>', '<', '<=', '>', '>=']);
/** Where in a condition the thing stands that each of its sentences is about. */
function subjects(syntax: Syntax, isField: (name: string) => boolean): readonly Syntax[] {
  const node = ungroup(syntax);
  const field = (n: Syntax | undefined): Syntax[] => {
    const whole = n && ungroup(n);
    const inner = whole?.kind === 'call' && whole.name === 'COUNTA' && whole.args.length === 1 ? ungroup(whole.args[0]!.value) : whole;
    const path = inner && pathOf(inner);
    return inner && path && isField(path[0] ?? '') ? [inner] : [];
  };
  if (node.kind === 'binary') {
    if (node.operator === 'AND' || node.operator === 'OR') return [node.left, node.right].flatMap((n) => subjects(n, isField));
    if (!COMPARES.has(node.operator)) return [];
    const left = field(node.left);
    return left.length ? left : field(node.right);
  }
  if (node.kind === 'unary') return node.operator === 'NOT' ? subjects(node.operand, isField) : [];
  if (node.kind === 'between') return field(node.item);
  if (node.kind === 'in') {
    const item = field(node.item);
    return item.length ? item : node.list.flatMap(field);
  }
  if (node.kind === 'call') {
    const args = node.args.map((a) => a.value);
    if (node.name === 'AND' || node.name === 'OR' || node.name === 'NOT') return args.flatMap((n) => subjects(n, isField));
    return ABOUT_FIRST.has(node.name) ? field(args[0]) : [];
  }
  return field(node);
}

/** A condition over an entry as one over `choice`. What cannot be read stays as it is. Cost: linear. */
export function asChoice(text: string, scope: Scope): string {
  const { syntax } = parseFormula(text);
  if (!syntax) return text;
  const isField = (name: string): boolean => scope.tables.get(ENTRY_TABLE)?.columns.has(name.toLowerCase()) ?? false;
  let made = text;
  // from the end, so that places before stay where they are
  for (const { from } of [...subjects(syntax, isField)].sort((a, b) => b.from - a.from))
    made = `${made.slice(0, from)}choice.${made.slice(from)}`;
  return made;
}

/** A condition over `choice` as one over the entry again; rows on offer inside PICK and GATHER stay. Cost: linear. */
export function fromChoice(text: string): string {
  const { syntax } = parseFormula(text);
  if (!syntax) return text;
  const found: number[] = [];
  const walk = (node: Syntax): void => {
    if (node.kind === 'call' && (node.name === 'PICK' || node.name === 'GATHER')) return;
    if (node.kind === 'member') {
      const root = ungroup(node.object);
      if (root.kind === 'name' && root.name.toLowerCase() === 'choice') found.push(root.from);
    }
    childrenOf(node).forEach(walk);
  };
  walk(syntax);
  let made = text;
  for (const from of [...new Set(found)].sort((a, b) => b - a))
    made = made.slice(0, from) + made.slice(from).replace(/^choice\s*\.\s*/i, '');
  return made;
}
