import type { z } from 'zod';
import { feedMembers, feedType } from '../../model/feeds.ts';
import { ITEMS, type SourceKind, asking } from './kind.ts';
import type { feedSchema } from './schemas.ts';

/** What an outside service answers. */
export const feed: SourceKind<z.infer<typeof feedSchema>> = {
  ...ITEMS,
  members: (source, { feeds }) => {
    const found = feeds.get(source.feed);
    return found ? feedMembers(found) : ITEMS.members();
  },
  named: (source, to) => ({
    ...source,
    feed: to.feed(source.feed),
    params: Object.fromEntries(Object.entries(source.params).map(([key, text]) => [key, to.formula(`params.${key}`, text)])),
  }),
  compile(source, place) {
    const found = place.world.feeds.get(source.feed);
    if (!found) return place.note('noFeed', `There is no feed “${source.feed}”.`);
    const formulas = found.params.flatMap((p) => {
      const part = `params.${p.key}` as const;
      const text = source.params[p.key] ?? '';
      if (text.trim() === '') {
        if (p.required) place.note('noFeed', `${found.label} needs ${p.label}: say which value it takes.`, part);
        return [];
      }
      const formula = place.formula(part, text, p.type === 'text' ? null : feedType(p.type));
      return formula ? [{ name: p.key, part, formula }] : [];
    });
    const complete = found.params.every((p) => !p.required || formulas.some((f) => f.name === p.key));
    return asking(place, source.where, complete ? { formulas, feed: found.key } : null, feedMembers(found));
  },
};
