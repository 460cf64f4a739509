import { linksShown, shownTextOf } from '../../choices/shownText.ts';
import type { Result } from '../../formula/errors.ts';
import type { Row } from '../../values/types.ts';
import type { Frame } from '../frame.ts';
import { offerNow, offersAlike } from '../offers.ts';
import type { PlanChoices } from '../plan.ts';
import type { Settling } from '../settling.ts';
import type { Offer } from '../state.ts';
import { type CellWays, given } from './kind.ts';

const count = (o: Offer): Result => (o.status === 'ready' ? o.total : null);

export const choices: CellWays = {
  has: (field) => field.choices !== null,
  formulas: ({ choices: c }) => [...given(c?.narrowing?.formula), ...(c?.asks?.formulas ?? []).map((a) => a.formula)],
  after: [],
  compute(settling, frame, field, cause, reason) {
    const before = frame.offers[field.at] as Offer;
    const offer = offerNow(field, frame.world, before);
    frame.offers[field.at] = offer;
    if (field.choices && offer.rows && !settling.context.isQuiet) readShown(settling, frame, field.choices, offer.rows);
    if (offersAlike(before, offer)) return;
    settling.trace.note(field.key, frame.line, 'choices', cause, count(before), count(offer));
    settling.markDependents(frame, 'choices', field.slot, reason);
  },
};

/** Asks for what a list is shown with, together with the list: the tables that shown texts lead to, and the rows of shown columns. */
function readShown(settling: Settling, frame: Frame, choices: PlanChoices, rows: readonly Row[]): void {
  const [first] = rows;
  if (first && choices.shownAs) shownTextOf(choices, first, frame.env.row);
  readShownLinks(settling, choices, rows);
}

/** Asks for the rows that shown columns lead to, so that a list shows what they are known by: small tables, once. */
function readShownLinks({ plan, cache, frames }: Settling, of: PlanChoices, rows: readonly Row[]): void {
  for (const { column, target } of linksShown(of, plan.tables)) {
    if (plan.tables.get(target)?.large || cache.table(target)) continue;
    const id = rows.map((r) => [r[column] ?? null].flat()[0]).find((v) => typeof v === 'number');
    if (typeof id === 'number') frames.row(target, id);
  }
}
