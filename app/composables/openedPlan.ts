import type { AnswerOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import { compileForm } from '~~/core/engine/compile.ts';
import type { Plan } from '~~/core/engine/plan.ts';
import { parseForm } from '~~/core/form/definition.ts';

/** What the server opens an entry with. */
export type Opened = AnswerOf<typeof contract.entries.open>;
const byKey = <T extends { readonly key: string }>(all: readonly T[]): Map<string, T> => new Map(all.map((x) => [x.key, x]));
/** The form of an entry that was opened, compiled. Cost: that of the form. */
export const openedPlan = (o: Pick<Opened, 'form' | 'tables' | 'lists' | 'feeds'>): Plan =>
  compileForm(parseForm(o.form), byKey(o.tables), byKey(o.lists), byKey(o.feeds));
