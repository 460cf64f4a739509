import type { z } from 'zod';
import { levelsOf, optionRowsOf } from '../../model/lists.ts';
import { ITEMS, type SourceKind, listed } from './kind.ts';
import type { listSchema } from './schemas.ts';

/** Choices of an option list. */
export const list: SourceKind<z.infer<typeof listSchema>> = {
  ...ITEMS,
  values: (source, { lists }) => {
    const found = lists.get(source.list);
    return found ? optionRowsOf(found, source.level).map((r) => String(r.value)) : null;
  },
  named: (source, to) => ({ ...source, list: to.list(source.list) }),
  compile(source, place) {
    const found = place.world.lists.get(source.list);
    if (!found) return place.note('noTable', `There is no option list “${source.list}”.`);
    const levels = levelsOf(found);
    if (source.level !== null && source.level > levels)
      place.note('noOptions', `${found.label} has only ${levels} ${levels === 1 ? 'level' : 'levels'}.`);
    const rows = optionRowsOf(found, source.level);
    return listed(place, source.where, rows.filter((r) => r.retired !== true), rows.filter((r) => r.retired === true)); // prettier-ignore
  },
};
