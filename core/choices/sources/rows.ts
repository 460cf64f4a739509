import type { z } from 'zod';
import type { Formula } from '../../formula/formula.ts';
import { type Column, columnOf } from '../../model/tables.ts';
import { KINDS } from '../../values/kinds/index.ts';
import { TEXT } from '../../values/typing.ts';
import { isFolded } from '../order.ts';
import { subsetScope } from '../subsets.ts';
import { type SourceKind, type SourcePlace } from './kind.ts';
import type { rowsSchema } from './schemas.ts';

export type RowsSource = z.infer<typeof rowsSchema>;

/** Rows of a table. */
export const rows: SourceKind<RowsSource> = {
  stores: 'row',
  misfit: () => 'Rows of a table are stored by a field of type Link to a row.',
  rowsOf: (source) => source.table,
  values: () => null,
  members: () => null,
  named: (source, to) => {
    const column = (key: string): string => to.column(source.table, key);
    return {
      ...source,
      table: to.table(source.table),
      subset: source.subset && to.subset(source.table, source.subset),
      show: source.show && column(source.show),
      shownAs: source.shownAs && to.formula('shownAs', source.shownAs),
      beside: source.beside.map(column),
      search: source.search.map(column),
      sort: source.sort.map(column),
    };
  },
  compile(source, place) {
    const table = place.world.tables.get(source.table);
    if (!table) return place.note('noTable', `There is no table “${source.table}”.`);
    const { rows: held } = KINDS[place.field.type];
    if (held !== null && held !== 'named' && source.table !== held.table)
      place.note('noTable', `A ${KINDS[place.field.type].label.toLowerCase()} is a row of ${place.world.tables.get(held.table)?.label ?? held.table}.`); // prettier-ignore
    for (const column of [source.show, ...source.beside, ...source.search, ...source.sort])
      if (column !== null && !columnOf(table, column)) place.note('noColumn', `${table.label} has no column “${column}”.`);
    if (source.show === null)
      place.note(
        'noShownColumn',
        `No column of ${table.label} is shown, so the list would be blank. Choose the column people know the rows by.`,
      );
    const columns = (names: readonly string[]): Column[] => names.map((n) => columnOf(table, n)).filter((c) => c !== undefined);
    const sort = source.sort.length ? source.sort : source.show ? [source.show] : [];
    const search = source.search.length ? source.search : source.show ? [source.show, ...source.beside] : [];
    return {
      table: source.table,
      large: table.large,
      sort: columns(sort),
      search: columns(search)
        .filter((c) => isFolded(c.type))
        .map((c) => c.key),
      shownAs: shownAs(source, place),
      narrowing: place.narrowing(source.where, place.subset(table, source.subset), place.ofRows(source.table)),
    };
  },
};

/** The text rows are shown by. It says what the row is: it may not depend on the entry around it. */
function shownAs(source: RowsSource, place: SourcePlace): Formula | null {
  const compiled = place.formula('shownAs', source.shownAs, TEXT, subsetScope(place.scope, source.table));
  if (!compiled || [...compiled.bindings.values()].every((b) => b.source.kind === 'candidate')) return compiled;
  return place.note('noShownColumn', 'What a row is shown as may only name the row itself: choice and its columns.', 'shownAs');
}
