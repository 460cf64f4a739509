import type { z } from 'zod';
import { ITEMS, type SourceKind, listed } from './kind.ts';
import type { optionsSchema } from './schemas.ts';

/** Choices typed in with the field. */
export const options: SourceKind<z.infer<typeof optionsSchema>> = {
  ...ITEMS,
  values: (source) => source.options.map((o) => o.value),
  named: (source) => source,
  compile(source, place) {
    if (!source.options.length) place.note('noOptions', 'The list typed in place has no choices yet.');
    const rows = source.options.map((o, i) => ({ id: i + 1, value: o.value, label: o.label, parent: null, level: 1, retired: false }));
    return listed(place, source.where, rows);
  },
};
