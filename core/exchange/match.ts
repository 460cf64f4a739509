import { foldText, looseKey, nearest } from '../values/text.ts';

/** A row that a text may name: its id and the text it is shown by. */
export interface Named {
  readonly id: number;
  readonly text: string;
}

export interface Unmatched {
  readonly value: string;
  /** how many lines have it, and the first of them (1-based, without the header) */
  readonly count: number;
  readonly firstLine: number;
  /** nearest first; the first is what a repair proposes */
  readonly near: readonly Named[];
}

export interface Matched {
  /** row id by text, for every text that names exactly one row */
  readonly ids: ReadonlyMap<string, number>;
  readonly unmatched: readonly Unmatched[];
}

/**
 * Matches texts of a file to rows of another table by their shown text, case-blind and nothing else: a text that
 * differs by a space or a hyphen is unmatched, with the near spellings offered, because only a person can say
 * that both mean the same. A text that two rows are shown by is unmatched too.
 */
export function matchTexts(texts: readonly string[], rows: readonly Named[]): Matched {
  const byText = new Map<string, Named[]>();
  for (const row of rows) {
    const key = foldText(row.text);
    byText.set(key, [...(byText.get(key) ?? []), row]);
  }
  const ids = new Map<string, number>();
  const missing = new Map<string, { count: number; firstLine: number }>();
  texts.forEach((text, line) => {
    if (text.trim() === '' || ids.has(text)) return;
    const found = byText.get(foldText(text)) ?? [];
    const [only] = found;
    if (found.length === 1 && only) ids.set(text, only.id);
    else missing.set(text, { count: (missing.get(text)?.count ?? 0) + 1, firstLine: missing.get(text)?.firstLine ?? line + 1 });
  });
  const unmatched = [...missing].map(([value, { count, firstLine }]): Unmatched => ({
    value,
    count,
    firstLine,
    near: nearRows(value, rows),
  }));
  return { ids, unmatched };
}

function nearRows(value: string, rows: readonly Named[]): Named[] {
  const loose = looseKey(value);
  const same = rows.filter((r) => looseKey(r.text) === loose);
  const texts = nearest(value, new Set(rows.map((r) => r.text)), 4);
  const near = texts.flatMap((t) => rows.filter((r) => r.text === t));
  return [...new Set([...same, ...near])].slice(0, 4);
}

/** The share of filled texts that name a row: how a file's column is recognised as a link. */
export function matchShare(texts: readonly string[], rows: readonly Named[]): number {
  const known = new Set(rows.map((r) => looseKey(r.text)));
  const filled = texts.filter((t) => t.trim() !== '');
  return filled.length ? filled.filter((t) => known.has(looseKey(t))).length / filled.length : 0;
}
