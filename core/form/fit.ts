import { isIsoDate, isIsoDateTime, isIsoTime } from '../values/dates.ts';
import { MAX_NUMBER, SIGNIFICANT_DIGITS, canonical, roundTo } from '../values/decimal.ts';
import { isBlankText, textProblem } from '../values/text.ts';
import type { Datum } from '../values/types.ts';
import type { Field } from './definition.ts';
import { type Column, MAX_TEXT } from './tables.ts';

/** The decimals a field keeps: its own, else its column's; null for any. */
export const decimalsFor = (field: Pick<Field, 'decimals'>, column: Pick<Column, 'decimals'> | null): number | null =>
  field.decimals ?? column?.decimals ?? null;

/**
 * A value as a field holds it: text of nothing but white space is empty, numbers are rounded to the field's decimals,
 * text is composed (NFC). Gives values it cannot fit back unchanged; `fitProblem` says what is wrong with them.
 */
export function fitValue(field: Pick<Field, 'type' | 'decimals'>, column: Column | null, value: Datum): Datum {
  if (typeof value === 'string') {
    if (isBlankText(value)) return null;
    return field.type === 'text' || field.type === 'longtext' ? value.normalize('NFC') : value;
  }
  if (Array.isArray(value)) {
    const kept = [...new Set((value as readonly Datum[]).filter((v) => v !== null && v !== ''))];
    return kept.length ? kept : null;
  }
  if (typeof value === 'number' && field.type === 'number') {
    const decimals = decimalsFor(field, column);
    return decimals === null ? canonical(value) : roundTo(value, decimals);
  }
  return value;
}

/** Why a field cannot hold a value, as a sentence; null when it can. Whether a choice is offered is asked elsewhere. */
export function fitProblem(field: Pick<Field, 'type' | 'label' | 'decimals'>, column: Column | null, value: Datum): string | null {
  if (value === null) return null;
  const { type, label } = field;
  switch (type) {
    case 'number':
      return typeof value === 'number' && Number.isFinite(value) ? numberProblem(label, value) : `${label} must be a number.`;
    case 'yesno':
      return typeof value === 'boolean' ? null : `${label} must be yes or no.`;
    case 'date':
      return typeof value === 'string' && isIsoDate(value) ? null : `${label} must be a date from the years 1 to 9999.`;
    case 'time':
      return typeof value === 'string' && isIsoTime(value) ? null : `${label} must be a time.`;
    case 'datetime':
      return typeof value === 'string' && isIsoDateTime(value) ? null : `${label} must be a date and time.`;
    case 'link':
    case 'person':
      return typeof value === 'number' && Number.isInteger(value) && value > 0 ? null : `${label} must be one of the rows offered.`;
    case 'links': {
      const good = Array.isArray(value) && (value as readonly Datum[]).every((v) => typeof v === 'number' && Number.isInteger(v) && v > 0);
      return good ? null : `${label} must be some of the rows offered.`;
    }
    case 'choice':
      return typeof value === 'string' ? charactersProblem(label, value) : `${label} must be one of the choices.`;
    case 'choices': {
      const good =
        Array.isArray(value) && (value as readonly Datum[]).every((v) => typeof v === 'string' && charactersProblem(label, v) === null);
      return good ? null : `${label} must be some of the choices.`;
    }
    case 'file':
      return typeof value === 'number' && Number.isInteger(value) && value > 0 ? null : `${label} must be a file that was sent.`;
    case 'json':
      return typeof value === 'string' ? jsonProblem(label, value) : `${label} must be JSON.`;
    case 'text':
    case 'longtext': {
      if (typeof value !== 'string') return `${label} must be text.`;
      const most = column?.length ?? MAX_TEXT;
      if (value.length > most) return `${label} has ${value.length} characters; at most ${most} can be saved.`;
      return charactersProblem(label, value);
    }
  }
}

/** Digits beyond those that are kept are said, not cut in silence. */
function numberProblem(label: string, value: number): string | null {
  if (Math.abs(value) > MAX_NUMBER) return `${label} is too large.`;
  return canonical(value) === value || value === 0 ? null : `${label} has more digits than the ${SIGNIFICANT_DIGITS} that are kept.`;
}
/** What no database and no file holds unchanged. */
function charactersProblem(label: string, text: string): string | null {
  const odd = textProblem(text);
  return odd === null ? null : `${label} ${odd}`;
}

function jsonProblem(label: string, text: string): string | null {
  const odd = charactersProblem(label, text);
  if (odd !== null) return odd;
  if (text.length > MAX_JSON) return `${label} is larger than ${MAX_JSON / 1000} kilobytes.`;
  try {
    JSON.parse(text);
    return null;
  } catch (e) {
    return `${label} is no JSON: ${e instanceof Error ? e.message : 'it cannot be read'}.`;
  }
}
const MAX_JSON = 200_000;

/** Why a field cannot hold a file of this kind (an ending, judged by content), as a sentence; null when it can. */
export function fileKindProblem({ label, accept }: Pick<Field, 'label' | 'accept'>, kind: string): string | null {
  const plain = (k: string): string => (k === 'jpg' ? 'jpeg' : k);
  if (!accept.length || accept.map(plain).includes(plain(kind))) return null;
  const kinds = accept.map((k) => k.toUpperCase()).join(' or ');
  return `${label} must be a ${kinds} file; by its content this one is ${kind.toUpperCase()}.`;
}
