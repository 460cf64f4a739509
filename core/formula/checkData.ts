import { nearest } from '../values/text.ts';
import type { Checker } from './check.ts';
import { parseFormula } from './parse.ts';
import { printSyntax } from './print.ts';
import { type Fix, problem } from './problems.ts';
import type { EachPart, ValueMap } from './extras.ts';
import type { Binding, FeedShape } from './scope.ts';
import { type Syntax, childrenOf, pathOf, ungroup } from './syntax.ts';
import { type Hole, readTemplate } from './template.ts';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';

/*
 * Checks of the functions whose arguments are more than values: names of tables, feeds and value maps, conditions over
 * other rows, texts with holes. Each gives the type of the call and notes in `extras` what it is about.
 */
type Call = Extract<Syntax, { kind: 'call' }>;
type Special = (checker: Checker, node: Call) => Type;

const argument = (node: Call, i: number): Syntax | undefined => node.args[i]?.value;

/** A name written bare or as a text, looked up among what is known; reported with the nearest when it is not there. */
function known<V>(checker: Checker, node: Syntax | undefined, what: string, all: ReadonlyMap<string, V>): V | null {
  if (!node) return null;
  const name = node.kind === 'name' ? node.name : node.kind === 'text' ? node.value : null;
  const found = name === null ? undefined : (all.get(name) ?? all.get(name.toLowerCase()));
  if (found !== undefined) return found;
  const near = name === null ? undefined : nearest(name, all.keys(), 1)[0];
  const fixes: Fix[] = near === undefined ? [] : [{ from: node.from, to: node.to, insert: near, label: `Use ${near}` }];
  const hint = near === undefined ? '' : ` Did you mean ${near}?`;
  const said = name === null ? `The name of a ${what} is needed here.` : `There is no ${what} “${name}”.${hint}`;
  checker.problems.push(problem('unknownName', node, said, fixes));
  return null;
}

function pick(checker: Checker, node: Call, many: boolean): Type {
  const table = known(checker, argument(node, 0), 'table', checker.names.tables);
  const condition = argument(node, 1);
  if (!table || !condition) return T.UNKNOWN;
  const binding: Binding = { name: 'choice', label: `A row of ${table.label}`, type: T.rowOf(table.key), source: { kind: 'picked' } };
  checker.within(binding, () => checker.require(condition, T.YESNO));
  let sort: { column: string; descending: boolean } | null = null;
  const by = argument(node, 2);
  if (by) {
    const inner = ungroup(by);
    const descending = inner.kind === 'unary' && inner.operator === '-';
    const path = pathOf(ungroup(descending ? inner.operand : inner));
    const column = path?.[0] === 'choice' && path.length === 2 ? (path[1] as string) : null;
    if (column === null || !table.columns.has(column)) {
      checker.problems.push(
        problem('type', by, `The order is a column of the row, such as choice.${table.shown ?? 'name'}, or with a minus before it.`),
      );
    } else sort = { column, descending };
  }
  checker.extras.set(node, {
    kind: 'pick',
    table: table.key,
    condition,
    sort,
    many,
    checked: {
      types: checker.types,
      // in the database and in memory the row is the candidate, as in any narrowing
      bindings: new CandidateBindings(checker.bindings, binding),
      extras: checker.extras,
      text: printSyntax(condition),
      problems: [],
      type: T.YESNO,
    },
  });
  return many ? T.listOf(T.rowOf(table.key)) : T.rowOf(table.key);
}

/** ANYOF and its kin: the list, and what is asked of each of it. */
function eachOf(checker: Checker, node: Call, of: EachPart['of']): Type {
  const [list, condition] = [argument(node, 0), argument(node, 1)];
  const given = of === 'count' ? T.NUMBER : T.YESNO;
  if (!list || !condition) return given;
  const type = checker.type(list);
  if (type.kind !== 'list' && !T.isOpen(type)) {
    const said = `“${printSyntax(list)}” is ${checker.words(type)}; a list is needed here: lines, files, several links or choices, or what GATHER finds.`;
    checker.problems.push(problem('type', list, said));
  }
  const source = checker.bindings.get(ungroup(list))?.source;
  const lines = source?.kind === 'lines' ? source : null;
  const item = type.kind === 'list' ? type.of : T.UNKNOWN;
  const binding: Binding = { name: 'each', label: `One of ${printSyntax(list)}`, type: item, source: { kind: 'each', lines } };
  checker.within(binding, () => checker.require(condition, T.YESNO));
  const reads = new Set<string>();
  const walk = (n: Syntax): void => {
    if (n.kind === 'member' && checker.bindings.get(n.object) === binding) reads.add(n.property);
    childrenOf(n).forEach(walk);
  };
  walk(condition);
  checker.extras.set(node, { kind: 'each', of, condition, lines, reads: [...reads] });
  return given;
}

/** Bindings in which the picked row is a candidate. Only those of this call: another call within is a value like any other. */
class CandidateBindings extends Map<Syntax, Binding> {
  constructor(all: ReadonlyMap<Syntax, Binding>, own: Binding) {
    super([...all].map(([node, b]) => [node, b === own ? { ...b, source: { kind: 'candidate' } } : b] as const));
  }
}

function valueMap(checker: Checker, node: Call): Type {
  const map = known(checker, argument(node, 0), 'value map', checker.names.maps ?? new Map<string, ValueMap>());
  const key = argument(node, 1);
  if (key) {
    const type = checker.type(key);
    if (type.kind === 'list' || type.kind === 'object' || type.kind === 'row') checker.expect(key, type, T.TEXT);
  }
  if (!map) return T.UNKNOWN;
  checker.extras.set(node, { kind: 'map', map });
  const [first] = map.values.values();
  return typeof first === 'number' ? T.NUMBER : T.TEXT;
}

function feed(checker: Checker, node: Call): Type {
  const shape = known(checker, argument(node, 0), 'feed', checker.names.feeds ?? new Map<string, FeedShape>());
  for (const { label, value } of node.args.slice(1)) {
    const type = checker.type(value);
    if (!shape) continue;
    const parameter = shape.params.find((p) => p.key === label?.toLowerCase());
    if (!parameter) {
      const names = shape.params.map((p) => p.key).join(', ') || 'none';
      const said =
        label === null ? 'Each value for a feed is written with its name, as in site: code.' : `${shape.label} takes no value “${label}”.`;
      checker.problems.push(problem('unknownName', value, `${said} It has: ${names}.`));
    } else if (!T.fits(parameter.type, type)) checker.expect(value, type, parameter.type);
  }
  if (!shape) return T.UNKNOWN;
  const given = new Set(node.args.map((a) => a.label?.toLowerCase()));
  const missing = shape.params.find((p) => p.required && !given.has(p.key));
  if (missing) {
    // a field of the same name is most likely meant
    const given = checker.names.bindings.has(missing.key) ? missing.key : '""';
    const fix: Fix = { from: node.to - 1, to: node.to - 1, insert: `, ${missing.key}: ${given}`, label: `Add ${missing.key}: ${given}` };
    checker.problems.push(problem('arity', node, `${shape.label} needs ${missing.label}: write ${missing.key}: and its value.`, [fix]));
  }
  checker.extras.set(node, { kind: 'feed', feed: shape });
  return { kind: 'choice', options: null, attributes: shape.members };
}

function series(checker: Checker, node: Call): Type {
  const name = argument(node, 0);
  if (name) checker.require(name, T.TEXT);
  checker.extras.set(node, { kind: 'series' });
  return T.NUMBER;
}

function last(checker: Checker, node: Call): Type {
  const record = checker.names.bindings.get('last');
  const before = checker.names.bindings.get('before')?.source;
  const by = argument(node, 0);
  if (!record || !by) {
    checker.problems.push(problem('notAvailableHere', node, 'There are no earlier entries here.'));
    return T.UNKNOWN;
  }
  checker.type(by);
  const name = by.kind === 'name' ? by.name : '';
  const column = before?.kind === 'before' ? before.columns.get(name) : undefined;
  if (column === undefined) {
    checker.problems.push(problem('type', by, 'last(…) takes a field of the form that is saved, such as last(partner).'));
    return T.UNKNOWN;
  }
  checker.extras.set(node, { kind: 'last', column });
  return record.type;
}

function attribute(checker: Checker, node: Call): Type {
  const [of, name] = [argument(node, 0), argument(node, 1)];
  if (!of || !name) return T.TEXT;
  const type = checker.type(of);
  checker.require(name, T.TEXT);
  if (type.kind !== 'row' && type.kind !== 'json' && !T.isOpen(type)) {
    const said = `“${printSyntax(of)}” is ${checker.words(type)}; attributes are those of a row or of JSON.`;
    checker.problems.push(problem('type', of, said));
  }
  const table = type.kind === 'row' ? (checker.names.tables.get(type.table) ?? null) : null;
  checker.extras.set(node, { kind: 'attribute', table: table?.key ?? null, columns: table?.columns ?? new Map() });
  return T.TEXT;
}

function template(checker: Checker, node: Call): Type {
  const text = argument(node, 0);
  if (!text) return T.TEXT;
  if (text.kind !== 'text') {
    checker.type(text);
    checker.problems.push(problem('type', text, 'The text with holes is written here in quotation marks; it cannot be computed.'));
    return T.TEXT;
  }
  const read = readTemplate(text.value);
  if (!read.ok) {
    checker.problems.push(problem('syntax', text, read.message));
    return T.TEXT;
  }
  const holes = new Map<string, Syntax>();
  for (const hole of read.template.holes) {
    const syntax = holeSyntax(checker, text, hole);
    if (syntax) holes.set(hole.path, syntax);
  }
  checker.extras.set(node, { kind: 'template', template: read.template, holes, leavesOut: node.name.toUpperCase() === 'SAY' });
  return T.TEXT;
}

/** The path in a hole as part of the formula, at the place where it stands in the text. */
function holeSyntax(checker: Checker, text: Extract<Syntax, { kind: 'text' }>, hole: Hole): Syntax | null {
  const { syntax } = parseFormula(hole.path);
  const shift = placeInText(text, hole.places[0] ?? 0);
  if (!syntax || !pathOf(syntax)) {
    checker.problems.push(problem('syntax', text, `A hole holds a name, such as {site.name}; “${hole.path}” is none.`));
    return null;
  }
  const moved = moveSyntax(syntax, shift);
  const type = checker.type(moved);
  const wrong =
    type.kind === 'row' || type.kind === 'list' || type.kind === 'object' ? T.TEXT
    : hole.uses.has('date') && type.kind !== 'date' && type.kind !== 'datetime' ? T.DATE
    : hole.uses.has('time') && type.kind !== 'time' && type.kind !== 'datetime' ? T.TIME
    : (hole.uses.has('number') || hole.uses.has('plural')) && type.kind !== 'number' ? T.NUMBER
    : null; // prettier-ignore
  if (wrong && !T.isOpen(type)) checker.expect(moved, type, wrong);
  return moved;
}

/** A place in a text's value as a place in the formula: after the quotation mark, past marks that are doubled where they are written. */
export const placeInText = (text: Extract<Syntax, { kind: 'text' }>, at: number): number =>
  text.from + 1 + at + (text.value.slice(0, at).match(/"/g)?.length ?? 0);

function moveSyntax(node: Syntax, by: number): Syntax {
  const span = { from: node.from + by, to: node.to + by };
  if (node.kind !== 'member') return { ...node, ...span };
  const { from, to } = node.propertySpan;
  return { ...node, ...span, object: moveSyntax(node.object, by), propertySpan: { from: from + by, to: to + by } };
}

/** By the name of the function. */
export const SPECIAL: Readonly<Record<string, Special>> = {
  PICK: (c, n) => pick(c, n, false),
  GATHER: (c, n) => pick(c, n, true),
  ANYOF: (c, n) => eachOf(c, n, 'any'),
  ALLOF: (c, n) => eachOf(c, n, 'all'),
  NONEOF: (c, n) => eachOf(c, n, 'none'),
  COUNTOF: (c, n) => eachOf(c, n, 'count'),
  VALUEMAP: valueMap,
  NEXTNUMBER: series,
  FEED: feed,
  LAST: last,
  ATTRIBUTE: attribute,
  TEMPLATE: template,
  SAY: template,
};
