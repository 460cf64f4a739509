import type { z } from 'zod';
import type { PlanAsk } from '../../engine/plan.ts';
import { type Type, TEXT, typeInWords } from '../../values/typing.ts';
import { attributesOf } from '../attributes.ts';
import { ITEMS, type SourceKind, asking } from './kind.ts';
import type { attributesSchema } from './schemas.ts';

const MEMBERS: ReadonlyMap<string, Type> = new Map([['label', TEXT], ['holds', TEXT]]); // prettier-ignore

/** The names of what a row, or JSON, has. */
export const attributes: SourceKind<z.infer<typeof attributesSchema>> = {
  ...ITEMS,
  members: () => MEMBERS,
  named: (source, to) => ({ ...source, of: to.formula('of', source.of) }),
  compile(source, place) {
    if (source.of.trim() === '') return place.note('noSource', 'Say of which row, or of which JSON, the attributes are offered.', 'of');
    const of = place.formula('of', source.of, null);
    if (!of) return null;
    const { type } = of;
    if (type.kind !== 'row' && type.kind !== 'json')
      return place.note('noSource', `Attributes are those of a row or of JSON; this is ${typeInWords(type)}.`, 'of');
    const asks: PlanAsk = {
      formulas: [{ name: 'of', part: 'of' as const, formula: of }],
      feed: null,
      row: type.kind === 'row' ? type.table : null,
      rows: (given, world) => attributesOf(type, given.of ?? null, world),
    };
    return asking(place, source.where, asks);
  },
};
