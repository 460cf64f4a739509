import type { Read } from '../values/read.ts';
import type { Datum } from '../values/types.ts';
import { COLUMN_TYPES, type ColumnType, KINDS, type ValueKind } from '../values/kinds/index.ts';

/** How text from a file becomes a value of a column type. Links are matched, not read. */
export const readCell = (type: ColumnType, text: string): Read<Datum> => KINDS[type].fromFile(text);

/**
 * The likely type of a column from its texts: the narrowest type that reads all that are not blank. Numbers with
 * leading zeros ("007") are codes and stay text; 0/1 alone are numbers, not yes/no. Long texts become long text.
 */
export function guessType(texts: readonly string[]): ColumnType {
  const filled = texts.filter((t) => t.trim() !== '');
  if (!filled.length) return 'text';
  for (const type of COLUMN_TYPES) {
    const kind: ValueKind = KINDS[type];
    if (kind.suits && filled.every((t) => kind.fromFile(t).ok) && kind.suits(filled)) return type;
  }
  return filled.some((t) => t.length > 200 || t.includes('\n')) ? 'longtext' : 'text';
}
