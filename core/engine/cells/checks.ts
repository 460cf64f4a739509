import type { Result } from '../../formula/errors.ts';
import { formEnv, isMet } from '../conditions.ts';
import type { CheckState } from '../state.ts';
import type { CellWays } from './kind.ts';
import { said } from './words.ts';

const text = (list: readonly CheckState[]): Result => list.map((c) => c.message).join(' ') || null;

export const checks: CellWays = {
  has: (field) => field.checks.length > 0,
  formulas: (field) =>
    field.checks.flatMap((c) => [...(c.when.formula ? [c.when.formula] : []), ...(typeof c.message === 'string' ? [] : [c.message])]),
  after: ['value'],
  compute(settling, frame, field, cause) {
    const held: CheckState[] = [];
    for (const { when, message, severity, at } of field.checks) {
      if (!isMet(when, frame.env) || (when.mode !== 'both' && (when.mode === 'new') !== (settling.context.mode === 'new'))) continue;
      // a message that cannot be written is said by what it was written for
      held.push({ message: said(message, when.ofForm ? formEnv(frame.env) : frame.env) ?? field.definition.label, severity, at });
    }
    const before = frame.checks[field.at] ?? [];
    if (before.length === held.length && before.every((c, i) => c.message === held[i]?.message)) return;
    frame.checks[field.at] = held;
    settling.trace.note({ field: field.key, line: frame.line, cell: 'checks', cause, from: text(before), to: text(held), origin: null });
  },
};
