import type { PlanChoices } from '../engine/plan.ts';
import type { Env } from '../formula/env.ts';
import type { Row } from '../values/types.ts';
import type { Waiting } from '../formula/errors.ts';

/** Reads a row that a shown text leads to; Waiting while it is not here. */
export type ReadRow = (table: string, id: number) => Row | null | Waiting;

/**
 * The text a candidate is shown by where the field has a formula for it (a TEMPLATE over `choice`); null where it has none,
 * or where what it takes is not here yet: then the shown column stands in. Cost: one formula.
 */
export function shownTextOf(choices: PlanChoices, row: Row, read: ReadRow): string | null {
  if (!choices.shownAs) return null;
  const text = choices.shownAs.run({ ...NOWHERE, candidate: row, row: read });
  return typeof text === 'string' && text.trim() !== '' ? text : null;
}

/** The text says what a row is, not what stands around it: there is nothing else to read. */
const NOWHERE: Env = {
  values: [],
  outer: null,
  candidate: null,
  params: [],
  today: '',
  now: '',
  me: null,
  mode: 'view',
  url: {},
  parent: null,
  before: null,
  lines: () => null,
  item: () => null,
  row: () => null,
};
