import type { z } from 'zod';
import { keysOfJson } from '../json.ts';
import { ITEMS, type SourceKind, listed } from './kind.ts';
import type { jsonSchema } from './schemas.ts';

/** Choices out of JSON typed in with the field. */
export const json: SourceKind<z.infer<typeof jsonSchema>> = {
  ...ITEMS,
  values: (source) => {
    const items = keysOfJson(source.text);
    return items.ok ? items.rows.map((r) => String(r.value)) : null;
  },
  named: (source) => source,
  compile(source, place) {
    const items = keysOfJson(source.text);
    if (!items.ok) return place.note('noOptions', items.message);
    if (!items.rows.length)
      place.note('noOptions', 'The JSON has no choices yet: write a list of texts, of objects with value and label, or an object.');
    return listed(place, source.where, items.rows);
  },
};
