import { FormulaError, type Result } from '../formula/errors.ts';
import { storedOf } from './candidates.ts';
import type { Settling } from './settling.ts';
import type { Cause } from './state.ts';
import { type Answered, tableOfWant, wantKey } from './wants.ts';

/* What answers, and asking again, make to be computed anew. Each is settled by the entry. */

const SUPPLIED: Cause = { kind: 'supply' };

/** Takes answers in: cells that lack them are computed. Answers to questions no longer asked stay in the cache and change nothing. */
export function takeAnswers({ plan, cache, lacks, keys, frames, dirty }: Settling, answered: readonly Answered[]): void {
  cache.supply(answered, (want) => tableOfWant(plan, want));
  for (const { want, answer } of answered) {
    if ((want.kind !== 'page' && want.kind !== 'usual') || !('rows' in answer)) continue;
    const field = plan.fields[plan.slots.get(want.field) ?? -1];
    if (field)
      cache.sawOffered(
        want,
        answer.rows.map((row) => storedOf(field, row)),
      );
  }
  for (const [key, reason] of lacks.lacking(new Set(answered.map((a) => wantKey(a.want))))) {
    const frame = frames.numbered(keys.frameOf(key));
    const cell = keys.cellOf(key);
    if (frame) dirty.mark(frame, cell, frame.reasons[plan.cells[cell]?.local ?? 0] ?? reason, SUPPLIED);
  }
}

/** A value that could not be looked up, and may be had when asked again. */
const wasNotHad = (value: Result): boolean => value instanceof FormulaError && value.code === 'notAvailable';

/** What failed is asked again. */
export function askFailedAgain(settling: Settling): void {
  settling.cache.forgetFailures();
  settling.frames.each((field, frame) => {
    if (frame.offers[field.at]?.status === 'failed') settling.markOwn(frame, 'choices', field, 'change', SUPPLIED);
    // of a large list it is asked whether a choice is offered
    if (wasNotHad(frame.values[field.at] ?? null) || field.choices?.large) settling.markOwn(frame, 'value', field, 'change', SUPPLIED);
  });
}

/** The rows of tables are asked for anew, and with them the lists they are in. */
export function askTablesAgain(settling: Settling, tables: ReadonlySet<string>): void {
  for (const table of tables) settling.cache.forgetTable(table, (want) => tableOfWant(settling.plan, want));
  settling.frames.each((field, frame) => {
    if (field.choices?.table && tables.has(field.choices.table)) settling.markOwn(frame, 'choices', field, 'change', SUPPLIED);
  });
}
