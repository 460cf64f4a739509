import type { Datum } from '../../core/values/types.ts';

/** A value as JSON text. Most are numbers, which are finite here, or nothing: written out, that takes half as long as to have them made into text. */
export const datumText = (value: Datum): string => (typeof value === 'number' || value === null ? String(value) : JSON.stringify(value));
