import { isLockedByFill } from '~~/core/form/fills/index.ts';
import { choiceMeant } from '~~/core/engine/meant.ts';
import { csvText } from '~~/core/exchange/csv.ts';
import { isPersons } from '~~/core/model/origin.ts';
import type { Plan, PlanField } from '~~/core/engine/plan.ts';
import type { Edit } from '~~/core/engine/state.ts';
import { readCell } from '~~/core/exchange/columns.ts';
import { fitProblem } from '~~/core/form/fit.ts';
import { isSeveral } from '~~/core/model/tables.ts';
import { inQuotes } from '~~/core/values/text.ts';
import { same, type Datum } from '~~/core/values/types.ts';

/** A choice named in an address: by its stored value (a row's number), or by the text it is shown by. */
async function chosen(host: EntryHost, field: PlanField, text: string): Promise<Datum | undefined> {
  if (field.choices?.stores === 'row' && /^\d{1,15}$/.test(text)) return Number(text);
  const entry = host.entry.value!;
  let meant = choiceMeant(entry, field.key, null, text, LOCALE);
  while ('want' in meant) {
    await host.pages([meant.want]);
    if (!entry.cache.answer(meant.want)) return undefined;
    meant = choiceMeant(entry, field.key, null, text, LOCALE);
  }
  return meant.value;
}

/** A choice as an address names it: by what it is shown by where nothing else is shown so, else by its stored value. */
async function choiceText(host: EntryHost, field: PlanField, value: Datum): Promise<string> {
  if (field.choices?.stores !== 'row') return String(value as string);
  const text = host.show(field.key, value);
  // a number is taken for the row's own
  const isTold = text !== '' && text !== '…' && !/^\d+$/.test(text) && !text.includes(',');
  return isTold && (await chosen(host, field, text)) === value ? text : String(value as number);
}
/** A value of a field as it stands in an address. Give values in the order of the form: a list is read as it is then. */
export async function addressText(host: EntryHost, field: PlanField, value: Datum): Promise<string> {
  if (!field.choices) return csvText({ type: field.definition.type }, value);
  const texts = await Promise.all([value].flat().map((v) => choiceText(host, field, v as Datum)));
  return texts.join(',');
}
/** What somebody gave an entry by hand, as the values of an address, by field; only what an address can hold. */
export async function addressOfEntry(host: EntryHost): Promise<Record<string, string>> {
  const found: Record<string, string> = {};
  for (const field of addressFields(host)) {
    const { value, state } = host.view(field.key);
    if (value !== null && isPersons(state.origin) && state.origin.kind !== 'carried')
      found[field.key] = await addressText(host, field, value);
  }
  return found;
}
/** What an address cannot hold, for those who fill one in. */
export const LINES_NOTE = 'Lines, files and what is calculated do not stand in a link.';
/** The fields that an address can fill. */
export const addressFields = (host: EntryHost): readonly PlanField[] =>
  (host.entry.value?.plan.own ?? []).filter((f) => !isLockedByFill(f) && COLUMN_LOOKS[f.definition.type].control !== 'file');
/** The names, other than of fields, that formulas of a form read from its address. */
export function namesRead(plan: Plan): readonly string[] {
  const names = plan.written.flatMap((w) => [...w.formula.text.matchAll(/\bentry\.url\.([a-z_]\w*)/gi)].map((m) => m[1]!.toLowerCase()));
  return [...new Set(names)].filter((n) => !plan.slots.has(n) && n !== 'parent').sort();
}

/**
 * Puts the values that stand in the address into the fields they name, each read by its field's type, in the order of the
 * form, so that a parent comes before its child. Gives one sentence for each that does not fit or is not offered: those
 * are left out. The server judges the same edits again when the record is saved.
 */
export async function takeAddressValues(host: EntryHost, address: Readonly<Record<string, string>>): Promise<string[]> {
  const notices: string[] = [];
  const plan = host.entry.value?.plan;
  for (const name of Object.keys(address)) {
    // what a formula reads from the link need not be a field
    const read = plan?.written.some((w) => w.formula.text.toLowerCase().includes(`entry.url.${name.toLowerCase()}`)) ?? false;
    if (name !== 'parent' && !plan?.slots.has(name) && !read) notices.push(`The link names “${name}”, which this form does not have.`);
  }
  for (const field of host.entry.value?.plan.own ?? []) {
    const text = address[field.key];
    if (text === undefined || isLockedByFill(field)) continue;
    const { label } = field.definition;
    let value: Datum | undefined;
    await host.settled();
    if (field.choices && isSeveral(field.definition.type)) {
      const all = await Promise.all(text.split(',').map((t) => chosen(host, field, t)));
      value = all.includes(undefined) ? undefined : (all as Datum[]);
    } else if (field.choices) value = await chosen(host, field, text);
    else {
      const read = readCell(field.definition.type, text);
      value = read.ok ? read.value : undefined;
    }
    if (value === undefined || fitProblem(field.definition, field.column, value) !== null) {
      notices.push(`${label}: ${inQuotes(text)} in the link does not fit and was left out.`);
      continue;
    }
    const edit: Edit = { kind: 'set', field: field.key, value, by: 'url' };
    host.apply([edit]);
    await host.settled();
    if (!same(host.entry.value?.value(field.key), value))
      notices.push(`${label}: ${inQuotes(text)} in the link is not offered and was left out.`);
  }
  return notices;
}
