import type { Answer, Result } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import { readCell } from '~~/core/exchange/columns.ts';
import { type Form, fieldAt } from '~~/core/form/definition.ts';
import type { RehearsalValue } from '~~/core/form/rehearsal.ts';
import { isSeveral } from '~~/core/model/tables.ts';

export type KeptRehearsal = Answer<typeof contract.rehearsals.list>[number];
export type RanRehearsal = Result<typeof contract.rehearsals.run>['results'][number];

/** A value as somebody types it in a rehearsal: rows and choices by what they are called, several apart by semicolons. */
export function typedValue(form: Form, path: string, text: string): RehearsalValue {
  const field = fieldAt(form, path);
  const plain = text.trim();
  if (plain === '' || !field) return plain === '' ? null : plain;
  if (isSeveral(field.type)) return plain.split(';').map((t) => t.trim()).filter(Boolean); // prettier-ignore
  if (field.source) return plain;
  const read = readCell(field.type, plain);
  return read.ok ? (read.value as RehearsalValue) : plain;
}
/** The same as text, to be typed over. */
export const writtenValue = (value: RehearsalValue): string =>
  value === null ? '' : Array.isArray(value) ? value.join('; ') : typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value);
