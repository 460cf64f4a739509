import type { StoredRecord } from '~~/core/engine/context.ts';
import type { Entry } from '~~/core/engine/entry.ts';
import type { Plan } from '~~/core/engine/plan.ts';
import { type Edit, addressOf, parseAddress } from '~~/core/engine/state.ts';
import { isDatum } from '~~/core/formula/errors.ts';
import { type Datum, same } from '~~/core/values/types.ts';

/* Two people, one record: what both of them changed. */

/** A field that somebody else changed while it was changed here. */
export interface Clash {
  readonly address: string;
  readonly theirs: Datum;
  readonly mine: Datum;
}
type FieldEdit = Extract<Edit, { kind: 'set' | 'clear' }>;
const isOfField = (e: Edit): e is FieldEdit => e.kind === 'set' || e.kind === 'clear';
const addressFor = (e: Edit): string => addressOf(e.field, 'line' in e ? e.line : null);
const valueOf = (entry: Entry, address: string): Datum => {
  const { field, line = null } = parseAddress(address);
  const value = entry.value(field, line);
  return isDatum(value) ? value : null;
};
/** The lines of a group that an edit is in, or null for an edit of the form's own. */
const groupOf = (e: Edit): string | null => ('line' in e && e.line !== undefined ? (e.field.split('.')[0] ?? null) : null);

/** What the record held in the fields that edits are of, by address; nothing for a new entry. */
export function valuesAt(
  record: StoredRecord | null,
  host: { readonly entry: { readonly value: Entry | null } },
  edits: readonly Edit[],
): Record<string, Datum> {
  const plan = host.entry.value?.plan;
  const held: Record<string, Datum> = {};
  if (!record || !plan) return held;
  for (const edit of edits) {
    if (!isOfField(edit)) continue;
    const address = addressFor(edit);
    const field = plan.fields[plan.slots.get(edit.field) ?? -1];
    const column = field?.definition.column;
    if (!field || column === null || column === undefined || address in held) continue;
    const line = 'line' in edit ? edit.line : null;
    const row =
      line === null || line === undefined
        ? record.values
        : record.lines?.[edit.field.split('.')[0] ?? '']?.find((l) => l.id === line)?.values;
    held[address] = row?.[column] ?? null;
  }
  return held;
}

/** Edits without those of lines that are not there any more. */
export function withoutGoneLines(entry: Entry, edits: readonly Edit[]): { readonly kept: readonly Edit[]; readonly gone: boolean } {
  const made = new Set(edits.flatMap((e) => (e.kind === 'addLine' ? [`${e.field} ${e.line}`] : [])));
  const there = (e: Edit): boolean => {
    const group = groupOf(e);
    if (group === null || e.kind === 'addLine' || !('line' in e)) return true;
    return made.has(`${group} ${e.line}`) || entry.lines(group).includes(e.line as number);
  };
  const kept = edits.filter(there);
  return { kept, gone: kept.length < edits.length };
}

/** The fields in which the record is now another than it was before, and another than what edits make of it. The last edit of a field counts. */
export function clashesOf(entry: Entry, edits: readonly Edit[], before: Readonly<Record<string, Datum>>): Clash[] {
  const mine = new Map<string, Datum>();
  for (const e of edits) if (isOfField(e)) mine.set(addressFor(e), e.kind === 'set' ? e.value : null);
  return [...mine].flatMap(([address, value]): Clash[] => {
    if (!(address in before)) return [];
    const theirs = valueOf(entry, address);
    return same(theirs, before[address]) || same(theirs, value) ? [] : [{ address, theirs, mine: value }];
  });
}

/** The labels of the form's own fields whose stored values differ between two readings of a record. */
export function changedByThem(plan: Plan, before: StoredRecord | null, now: StoredRecord | null): string[] {
  if (!before || !now) return [];
  return plan.own.flatMap((f) => {
    const { column, label } = f.definition;
    return column !== null && !same(before.values[column] ?? null, now.values[column] ?? null) ? [label] : [];
  });
}
