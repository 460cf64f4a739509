import { rowOf } from '../typing.ts';
import type { ValueKind } from './kind.ts';
import { link } from './link.ts';

/** The table of people: whoever has an account has a row in it. */
export const PEOPLE = 'people';

export const person: ValueKind = { ...link, label: 'Person', rows: { table: PEOPLE }, formula: () => rowOf(PEOPLE) };
