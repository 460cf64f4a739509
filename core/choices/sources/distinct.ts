import type { z } from 'zod';
import { columnOf } from '../../model/tables.ts';
import { isFolded } from '../order.ts';
import { ITEMS, type SourceKind } from './kind.ts';
import type { distinctSchema } from './schemas.ts';

/** The values of a text column, each once. */
export const distinct: SourceKind<z.infer<typeof distinctSchema>> = {
  ...ITEMS,
  misfit: () => 'Values of a column need a field of type Choice.',
  members: () => null,
  named: (source, to) => ({
    ...source,
    table: to.table(source.table),
    subset: source.subset && to.subset(source.table, source.subset),
    values: source.values && to.column(source.table, source.values),
  }),
  compile(source, place) {
    const table = place.world.tables.get(source.table);
    if (!table) return place.note('noTable', `There is no table “${source.table}”.`);
    if (source.values === null) return place.note('noShownColumn', `Say which column of ${table.label} the choices are values of.`);
    const column = columnOf(table, source.values);
    if (!column || !isFolded(column.type)) return place.note('noColumn', `${table.label} has no text column “${source.values}”.`);
    return {
      table: source.table,
      values: column.key,
      large: table.large,
      sort: [column],
      narrowing: place.narrowing(source.where, place.subset(table, source.subset), place.ofRows(source.table)),
    };
  },
};
