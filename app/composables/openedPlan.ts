import type { AnswerOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import { compileForm } from '~~/core/engine/compile.ts';
import type { StoredRecord } from '~~/core/engine/context.ts';
import type { Plan } from '~~/core/engine/plan.ts';
import { recordOfTold } from '~~/core/engine/told.ts';
import type { Form } from '~~/core/form/definition.ts';

/** What the server opens an entry with. */
type Answer = AnswerOf<typeof contract.entries.open>;
/** The same with its record as an entry opens it. */
export type Opened = Omit<Answer, 'record'> & {
  readonly record: (StoredRecord & { readonly id: number; readonly revision: number }) | null;
};
export const openedOf = (answer: Answer): Opened => ({ ...answer, record: answer.record && recordOfTold(answer.record) });

const byKey = <T extends { readonly key: string }>(all: readonly T[]): Map<string, T> => new Map(all.map((x) => [x.key, x]));
/** The plans made last, newest last, by what they were made from. A plan is only read, so that entries share it. */
const kept = new Map<string, Plan>();
const MOST = 6;
/**
 * The form of an entry that was opened, compiled. Cost: that of the form, the first time; afterwards that of writing it as JSON, as when
 * the next record of a form is entered.
 */
export function openedPlan(o: Pick<Opened, 'form' | 'tables' | 'lists' | 'feeds'>): Plan {
  const made = JSON.stringify([o.form, o.tables, o.lists, o.feeds]);
  // the server sends the form whole, as it has parsed it: nothing is left out that would have to be filled in
  const plan = kept.get(made) ?? compileForm(o.form as Form, byKey(o.tables), byKey(o.lists), byKey(o.feeds));
  kept.delete(made);
  kept.set(made, plan);
  if (kept.size > MOST) kept.delete(kept.keys().next().value!);
  return plan;
}
