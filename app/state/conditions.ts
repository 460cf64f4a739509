import type { SentencePart } from '~~/core/choices/sentence.ts';
import type { FieldSource } from '~~/core/choices/sources/index.ts';
import { type Form, fieldAt } from '~~/core/form/definition.ts';
import type { Scope } from '~~/core/formula/scope.ts';
import { lowerFirst } from '~~/core/formula/words.ts';
import { type Table, targetOf } from '~~/core/model/tables.ts';

/** A condition as the builder has it: the parts that one word joins, finished or begun. */
export interface ConditionRoot {
  readonly any: boolean;
  readonly parts: readonly SentencePart[];
}

export interface LikelyCondition {
  readonly text: string;
  readonly label: string;
}
/**
 * Conditions that the data suggests for a list over a table: its rows link to rows that another field holds; or it repeats values
 * (each site has its region) of which another field holds one. What the condition says already is left out.
 */
export function likelyConditions(table: Table, own: string, scope: Scope, form: Form, where: string): LikelyCondition[] {
  const found: LikelyCondition[] = [];
  const ownColumn = valuesColumn(fieldAt(form, own)?.source, table.key);
  for (const c of table.columns) {
    for (const [key, binding] of scope.bindings) {
      const { source, type } = binding;
      if (key === own || (source.kind !== 'slot' && source.kind !== 'parent')) continue;
      const links = type.kind === 'row' && targetOf(c) === type.table && c.type === 'link';
      // a name of a line's field stands for itself inside the line
      const path = own.includes('.') && !fieldAt(form, key) ? `${own.split('.')[0]}.${key}` : key;
      const repeats = c.key !== ownColumn && valuesColumn(fieldAt(form, path)?.source, table.key) === c.key;
      const text = `choice.${c.key} = ${key}`;
      if ((links || repeats) && !where.includes(text))
        found.push({
          text,
          label: `${lowerFirst(c.label)} is the ${source.kind === 'parent' ? 'opened record' : `entry’s ${binding.label}`}`,
        });
    }
  }
  return found;
}
/** The column of a table whose values a source offers; null when it offers something else. */
const valuesColumn = (source: FieldSource | null | undefined, table: string): string | null =>
  source?.kind === 'distinct' && source.table === table ? source.values : null;
