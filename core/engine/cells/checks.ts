import type { Result } from '../../formula/errors.ts';
import type { CheckState } from '../state.ts';
import type { CellWays } from './kind.ts';

const text = (list: readonly CheckState[]): Result => list.map((c) => c.message).join(' ') || null;

export const checks: CellWays = {
  has: (field) => field.checks.length > 0,
  formulas: (field) => field.checks.map((c) => c.when),
  after: ['value'],
  compute(settling, frame, field, cause) {
    const held: CheckState[] = [];
    for (const { when, message, severity } of field.checks) if (when.run(frame.env) === true) held.push({ message, severity });
    const before = frame.checks[field.at] ?? [];
    if (before.length === held.length && before.every((c, i) => c.message === held[i]?.message)) return;
    frame.checks[field.at] = held;
    settling.trace.note({ field: field.key, line: frame.line, cell: 'checks', cause, from: text(before), to: text(held), origin: null });
  },
};
