import type { PlanChoices } from '../engine/plan.ts';
import { type Tables, targetOf } from '../model/tables.ts';
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

/** Columns that a list shows and that lead to other rows, with the table each leads to. They are shown as those rows are known. */
export function linksShown(choices: PlanChoices, tables: Tables): readonly LinkShown[] {
  let links = linksKnown.get(choices);
  if (!links) linksKnown.set(choices, (links = linksOf(choices, tables)));
  return links;
}
interface LinkShown {
  readonly column: string;
  readonly target: string;
}
/** they belong to one plan, and so to one model */
const linksKnown = new WeakMap<PlanChoices, readonly LinkShown[]>();
function linksOf(choices: PlanChoices, tables: Tables): readonly LinkShown[] {
  const { source, table } = choices;
  if (source.kind !== 'rows' || table === null) return [];
  const columns = tables.get(table)?.columns ?? [];
  return [source.show, ...source.beside].flatMap((key) => {
    const column = columns.find((c) => c.key === key);
    const target = column ? targetOf(column) : null;
    return column && target !== null ? [{ column: column.key, target }] : [];
  });
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
