import { KINDS, type Limits } from '../values/kinds/index.ts';
import type { Datum } from '../values/types.ts';
import type { Field } from './definition.ts';
import type { Column } from '../model/tables.ts';

/** The decimals a field keeps: its own, else its column's; null for any. */
export const decimalsFor = (field: Pick<Field, 'decimals'>, column: Pick<Column, 'decimals'> | null): number | null =>
  field.decimals ?? column?.decimals ?? null;

/** By decimals and length: thousands of fields have the same few, and each value that comes into one is held to them. */
const limits = new Map<number, Limits>();
const MOST_LIMITS = 1000;
const MOST_DECIMALS = 98;
function limitsOf(field: Pick<Field, 'decimals'>, column: Pick<Column, 'decimals' | 'length'> | null): Limits {
  const decimals = decimalsFor(field, column);
  const length = column?.length ?? null;
  const isUsual = (decimals === null || (decimals >= 0 && decimals <= MOST_DECIMALS)) && (length === null || length >= 0);
  if (!isUsual) return { decimals, length };
  const key = (MOST_DECIMALS + 2) * (length === null ? 0 : length + 1) + (decimals === null ? 0 : decimals + 1);
  let known = limits.get(key);
  if (!known) {
    if (limits.size >= MOST_LIMITS) limits.clear();
    limits.set(key, (known = { decimals, length }));
  }
  return known;
}

/**
 * A value as a field holds it: text of nothing but white space is empty, numbers are rounded to the field's decimals,
 * text is composed (NFC). Gives values it cannot fit back unchanged; `fitProblem` says what is wrong with them.
 */
export const fitValue = (field: Pick<Field, 'type' | 'decimals'>, column: Column | null, value: Datum): Datum =>
  KINDS[field.type].fit(value, limitsOf(field, column));

/** Why a field cannot hold a value, as a sentence; null when it can. Whether a choice is offered is asked elsewhere. */
export const fitProblem = (field: Pick<Field, 'type' | 'label' | 'decimals'>, column: Column | null, value: Datum): string | null =>
  value === null ? null : KINDS[field.type].problem(value, field.label, limitsOf(field, column));

/** A file as it is judged: its kind by its content (an ending), its name, its size in bytes. */
export interface JudgedFile {
  readonly name: string;
  readonly kind: string;
  readonly size: number;
}
const plainKind = (k: string): string => (k === 'jpg' ? 'jpeg' : k);
const PICTURES: ReadonlySet<string> = new Set(['png', 'jpeg', 'gif', 'webp', 'bmp', 'tif', 'svg', 'avif']);
const MB = 1_000_000;
const megabytes = (n: number): string => `${Math.round((n / MB) * 10) / 10} MB`;

/** Why a field cannot hold these files, as a sentence; null when it can: their kinds, how many there are, how large each and all. */
export function filesProblem(
  { label, accept, files: limits }: Pick<Field, 'label' | 'accept' | 'files'>,
  files: readonly JudgedFile[],
): string | null {
  const accepted = accept.map(plainKind);
  const other = accept.length ? files.find((f) => !accepted.includes(plainKind(f.kind))) : undefined;
  if (other) {
    const kinds = [...new Set(accepted)].map((k) => k.toUpperCase()).join(' or ');
    const kind = plainKind(other.kind);
    const is = PICTURES.has(kind) ? `a ${kind.toUpperCase()} picture` : kind === 'bin' ? 'of another kind' : `a ${kind.toUpperCase()} file`;
    const ending = /\.([a-z0-9]{1,8})$/i.exec(other.name)?.[1]?.toLowerCase() ?? '';
    // a file that says it is what it is not
    const lies = ending !== '' && accepted.includes(plainKind(ending)) ? ` named .${ending}` : '';
    return `${label} takes only ${kinds}; “${other.name}” is ${is}${lies}.`;
  }
  if (limits?.most !== null && limits?.most !== undefined && files.length > limits.most)
    return `${label} takes at most ${limits.most} ${limits.most === 1 ? 'file' : 'files'}; these are ${files.length}.`;
  const each = limits?.eachMb ?? null;
  const large = each === null ? undefined : files.find((f) => f.size > each * MB);
  if (large) return `${label} takes files of at most ${each} MB; “${large.name}” has ${megabytes(large.size)}.`;
  const all = files.reduce((sum, f) => sum + f.size, 0);
  if (limits?.allMb && all > limits.allMb * MB) return `${label} takes at most ${limits.allMb} MB in all; these have ${megabytes(all)}.`;
  return null;
}
