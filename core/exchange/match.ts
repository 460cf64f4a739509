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

/** Different texts that name no row, kept one by one; near spellings are looked for among the first. */
const MOST_UNMATCHED = 2000;
const MOST_NEAR = 300;
/** Different texts remembered, so that a million lines fold each text once. */
const MOST_KNOWN = 200_000;

/**
 * Matches texts of a file to rows of another table by their shown text, case-blind and nothing else: a text that
 * differs by a space or a hyphen is unmatched, with the near spellings offered, because only a person can say
 * that both mean the same. A text that two rows are shown by is unmatched too. `decided` are texts a person has spoken on:
 * a row, or null for "leave it empty". Cost: rows once, then a look-up a text.
 */
export class TextMatcher {
  private readonly byText = new Map<string, number | null>();
  private readonly known = new Map<string, number | null>();
  private readonly missing = new Map<string, { count: number; firstLine: number }>();

  constructor(
    private readonly rows: readonly Named[],
    private readonly decided: ReadonlyMap<string, number | null> = new Map(),
  ) {
    for (const { id, text } of rows) {
      const key = foldText(text);
      this.byText.set(key, this.byText.has(key) ? null : id);
    }
  }

  /** The row a text names, or null; what names none and was not decided is noted with its line. */
  match(text: string, line: number): number | null {
    const before = this.known.get(text);
    if (before !== undefined) return before;
    if (text.trim() === '') return null;
    const id = this.byText.get(foldText(text)) ?? this.decided.get(text) ?? null;
    if (id === null && !this.decided.has(text)) {
      const noted = this.missing.get(text);
      if (noted) noted.count++;
      else if (this.missing.size < MOST_UNMATCHED) this.missing.set(text, { count: 1, firstLine: line });
    } else if (this.known.size < MOST_KNOWN) this.known.set(text, id);
    return id;
  }

  /** What named no row so far, in the order it was met, with near spellings. */
  unmatched(): Unmatched[] {
    return [...this.missing].map(([value, noted], i) => ({ value, ...noted, near: i < MOST_NEAR ? nearRows(value, this.rows) : [] }));
  }
}

/** Rows known by nearly this text: the same but for case, accents, hyphens and spaces first. */
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
