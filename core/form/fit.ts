import { KINDS, type Limits } from '../values/kinds/index.ts';
import type { Datum } from '../values/types.ts';
import type { Field } from './definition.ts';
import type { Column } from '../model/tables.ts';

/** The decimals a field keeps: its own, else its column's; null for any. */
export const decimalsFor = (field: Pick<Field, 'decimals'>, column: Pick<Column, 'decimals'> | null): number | null =>
  field.decimals ?? column?.decimals ?? null;

const limitsOf = (field: Pick<Field, 'decimals'>, column: Pick<Column, 'decimals' | 'length'> | null): Limits => ({
  decimals: decimalsFor(field, column),
  length: column?.length ?? null,
});

/**
 * A value as a field holds it: text of nothing but white space is empty, numbers are rounded to the field's decimals,
 * text is composed (NFC). Gives values it cannot fit back unchanged; `fitProblem` says what is wrong with them.
 */
export const fitValue = (field: Pick<Field, 'type' | 'decimals'>, column: Column | null, value: Datum): Datum =>
  KINDS[field.type].fit(value, limitsOf(field, column));

/** Why a field cannot hold a value, as a sentence; null when it can. Whether a choice is offered is asked elsewhere. */
export const fitProblem = (field: Pick<Field, 'type' | 'label' | 'decimals'>, column: Column | null, value: Datum): string | null =>
  value === null ? null : KINDS[field.type].problem(value, field.label, limitsOf(field, column));

/** Why a field cannot hold a file of this kind (an ending, judged by content), as a sentence; null when it can. */
export function fileKindProblem({ label, accept }: Pick<Field, 'label' | 'accept'>, kind: string): string | null {
  const plain = (k: string): string => (k === 'jpg' ? 'jpeg' : k);
  if (!accept.length || accept.map(plain).includes(plain(kind))) return null;
  const kinds = accept.map((k) => k.toUpperCase()).join(' or ');
  return `${label} must be a ${kinds} file; by its content this one is ${kind.toUpperCase()}.`;
}
