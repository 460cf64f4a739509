import type { z } from 'zod';
import type { References } from '../../model/references.ts';
import type { World } from '../../model/world.ts';
import type { Type } from '../../values/typing.ts';
import { attributes } from './attributes.ts';
import { distinct } from './distinct.ts';
import { feed } from './feed.ts';
import { json } from './json.ts';
import type { Candidates, SourceKind, SourcePlace } from './kind.ts';
import { list } from './list.ts';
import { options } from './options.ts';
import { rows } from './rows.ts';
import type { sourceSchema } from './schemas.ts';

export type FieldSource = z.infer<typeof sourceSchema>;
export type SourceKindName = FieldSource['kind'];
export type SourceOf<K extends SourceKindName> = Extract<FieldSource, { kind: K }>;

/** Every kind of source. */
const SOURCES: Readonly<Record<SourceKindName, SourceKind<FieldSource>>> = { rows, options, list, distinct, feed, attributes, json };
const kindOf = (source: FieldSource): SourceKind<FieldSource> => SOURCES[source.kind];

/** What a choice of a source stores. */
export const sourceStores = (kind: SourceKindName): 'row' | 'value' => SOURCES[kind].stores;
export const sourceMisfit = (source: FieldSource, several: boolean): string => kindOf(source).misfit(several);
/** The table whose rows a source's values are; null when they are none. */
export const sourceRows = (source: FieldSource | null): string | null => source && kindOf(source).rowsOf(source);
/** The values a source offers, where they are known without asking. */
export const sourceValues = (source: FieldSource | null, world: World): readonly string[] | null =>
  source && kindOf(source).values(source, world);
/** What a choice has besides its value; null when it has nothing. */
export const sourceMembers = (source: FieldSource | null, world: World): ReadonlyMap<string, Type> | null =>
  source && kindOf(source).members(source, world);
/** The source with everything it names passed through, its narrowing too. */
export function sourceNamed(source: FieldSource, to: References): FieldSource {
  const named = kindOf(source).named(source, to);
  return named.where === null ? named : { ...named, where: to.formula('where', named.where) };
}
export const compileSource = (source: FieldSource, place: SourcePlace): Candidates | null => kindOf(source).compile(source, place);

export type { Candidates, SourcePlace } from './kind.ts';
export type { RowsSource } from './rows.ts';
