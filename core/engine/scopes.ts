import { type Field, type Form, type Lines, fieldOrder, linesOrder } from '../form/definition.ts';
import { feedMembers, feedType } from '../model/feeds.ts';
import { tablesOncePublished } from '../form/columns.ts';
import { shapesOf, targetOf, typeOfColumn } from '../model/tables.ts';
import { mapKey } from '../formula/compileData.ts';
import type { ValueMap } from '../formula/extras.ts';
import type { Binding, ColumnShape, FeedShape, Scope } from '../formula/scope.ts';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';
import type { World } from '../model/world.ts';
import { sourceMembers, sourceRows, sourceValues } from '../choices/sources/index.ts';

/** The type of a field saved in `table`: that of its column where it has one, with the options it offers. */
export function typeOfField(table: string, field: Field, world: World): Type {
  const { source, type } = field;
  const column = field.column ? world.tables.get(table)?.columns.find((c) => c.key === field.column) : undefined;
  const target = sourceRows(source) ?? (column ? targetOf(column) : null);
  const own = typeOfColumn(type, target, sourceValues(source, world));
  const attributes = own.kind === 'choice' ? sourceMembers(source, world) : null;
  return own.kind === 'choice' && attributes ? { ...own, attributes } : own;
}

/** The form's value maps, as formulas read them. A key written twice has its first value; `mapProblems` says so. */
function valueMaps(form: Form): ReadonlyMap<string, ValueMap> {
  return new Map(
    Object.entries(form.maps).map(([key, map]) => {
      const values = new Map<string, string | number>();
      for (const { keys, value } of map.lines) for (const k of keys) if (!values.has(mapKey(k))) values.set(mapKey(k), value);
      return [key, { label: map.label, values }];
    }),
  );
}

/** What is wrong with a form's value maps: two lines for one key, numbers and texts mixed. One sentence each. */
export function mapProblems(form: Form): string[] {
  const problems: string[] = [];
  for (const { label, lines } of Object.values(form.maps)) {
    const seen = new Set<string>();
    for (const k of lines.flatMap((l) => l.keys)) {
      if (seen.has(mapKey(k))) problems.push(`The value map ${label} has two lines for “${k}”. Only one value can be given.`);
      seen.add(mapKey(k));
    }
    if (new Set(lines.map((l) => typeof l.value)).size > 1)
      problems.push(`The value map ${label} has numbers and texts as values. They must all be numbers, or all be texts.`);
  }
  return problems;
}

/** The table of the lines of a group, as paths lead through it. */
export const linesTable = (key: string): string => `_lines_${key}`;

export interface FormScopes {
  readonly form: Scope;
  /** by the key of the lines: the names inside a line, its own first */
  readonly lines: ReadonlyMap<string, Scope>;
}

/** The names every formula of the form, and of its lines, may use. */
export function scopesOf(form: Form, world: World): FormScopes {
  const bindings = new Map<string, Binding>();
  // a column that the draft itself will create is no unknown name
  const tables = new Map(shapesOf(tablesOncePublished(form, world.tables)));
  const keys = fieldOrder(form);
  keys.forEach((key, slot) => {
    const field = form.fields[key] as Field;
    bindings.set(key, { name: key, label: field.label, type: typeOfField(form.table, field, world), source: { kind: 'slot', slot } });
  });
  let first = keys.length;
  const groups = linesOrder(form).map((key, group) => {
    const lines = form.lines[key] as Lines;
    const fields = lines.columns.map((k) => ({ key: k, field: lines.fields[k] as Field }));
    const types = fields.map(({ field }) => typeOfField(lines.table, field, world));
    const shape = fields.map(({ key: k, field }, i): [string, ColumnShape] => [k, { key: k, label: field.label, type: types[i] as Type }]);
    tables.set(linesTable(key), { key: linesTable(key), label: lines.label, shown: null, columns: new Map(shape) });
    bindings.set(key, {
      name: key,
      label: lines.label,
      type: T.listOf(T.rowOf(linesTable(key))),
      source: { kind: 'lines', group, first, columns: new Map(lines.columns.map((k, i) => [k, i])) },
    });
    const own = fields.map(({ key: k, field }, i): Binding => ({
      name: k,
      label: field.label,
      type: types[i] as Type,
      source: { kind: 'slot', slot: first + i, at: i },
    }));
    first += fields.length;
    return { key, own };
  });
  bindings.set('me', { name: 'me', label: 'The person signed in', type: T.rowOf('people'), source: { kind: 'me' } });
  const url: Type = { kind: 'object', members: new Map(), others: T.TEXT };
  const entry = new Map<string, Type>([
    ['mode', { kind: 'choice', options: ['new', 'edit', 'view'] }],
    ['url', url],
  ]);
  bindings.set('entry', { name: 'entry', label: 'This entry', type: { kind: 'object', members: entry }, source: { kind: 'entry' } });
  if (form.parent && world.tables.has(form.parent)) {
    const label = `The record of ${world.tables.get(form.parent)?.label ?? form.parent} it was opened under`;
    bindings.set('parent', { name: 'parent', label, type: T.rowOf(form.parent), source: { kind: 'parent' } });
  }
  const saved = keys.map((k) => ({ key: k, field: form.fields[k] as Field })).filter(({ field }) => field.column !== null);
  bindings.set('before', {
    name: 'before',
    label: 'The record as it is stored',
    type: { kind: 'object', members: new Map(saved.map(({ key, field }) => [key, typeOfField(form.table, field, world)])) },
    source: { kind: 'before', columns: new Map(saved.map(({ key, field }) => [key, field.column as string])) },
  });
  if (world.tables.has(form.table)) {
    bindings.set('last', { name: 'last', label: 'My record of this form saved last', type: T.rowOf(form.table), source: { kind: 'last' } });
  }
  const feeds = new Map(
    [...world.feeds.values()].map((f): [string, FeedShape] => [
      f.key,
      { key: f.key, label: f.label, params: f.params.map((p) => ({ ...p, type: feedType(p.type) })), members: feedMembers(f) },
    ]),
  );
  const maps = valueMaps(form);
  const outer = new Map(
    [...bindings].map(([name, b]): [string, Binding] => [
      name,
      b.source.kind === 'slot' ? { ...b, source: { ...b.source, at: b.source.slot, outer: true } } : b,
    ]),
  );
  return {
    form: { bindings, tables, feeds, maps },
    lines: new Map(
      groups.map(({ key, own }) => [key, { tables, feeds, maps, bindings: new Map([...outer, ...own.map((b) => [b.name, b] as const)]) }]),
    ),
  };
}
