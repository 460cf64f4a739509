import { apart, foldText, looseKey, nearest } from '../values/text.ts';

/** A row that a text may name: its id, the text it is matched by, and what people know it by where that is another. */
export interface Named {
  readonly id: number;
  readonly text: string;
  readonly known?: string;
}

export interface Unmatched {
  readonly value: string;
  /** how many lines have it, and the first of them (1-based, without the header) */
  readonly count: number;
  readonly firstLine: number;
  /** nearest first; the first is what a repair proposes */
  readonly near: readonly { readonly id: number; readonly text: string }[];
  /** whether the nearest is beyond reasonable doubt, so that it may be taken unseen together with others */
  readonly sure: boolean;
}

/** The target of a column that links to rows of the very table it is brought into. */
export const SELF = '@self';

/** Different texts that name no row, kept one by one; near spellings are looked for among the first. */
const MOST_UNMATCHED = 2000;
const MOST_NEAR = 300;
/** Different texts remembered, so that a million lines fold each text once. */
const MOST_KNOWN = 200_000;

/** How texts are compared that are made of two columns: what stands between the two may be anything. */
export const joinedKey = (text: string): string => foldText(text.replace(/[\s,;/|–—-]+/gu, ' ').trim());

/**
 * Matches texts of a file to rows of another table by the text of one of its columns (or of two), case-blind and nothing else: a
 * text that differs by a space or a hyphen is unmatched, with the near spellings offered, because only a person can say that both
 * mean the same. A text that two rows have is unmatched too. `decided` are texts a person has spoken on: a row, or null for
 * "leave it empty". `keyOf` says which texts are the same. Cost: rows once, then a look-up a text.
 */
export class TextMatcher {
  private readonly byText = new Map<string, number | null>();
  private readonly known = new Map<string, number | null>();
  private readonly missing = new Map<string, { count: number; firstLine: number }>();

  constructor(
    private readonly rows: readonly Named[],
    private readonly decided: ReadonlyMap<string, number | null> = new Map(),
    private readonly keyOf: (text: string) => string = foldText,
  ) {
    for (const { id, text } of rows) {
      const key = keyOf(text);
      this.byText.set(key, this.byText.has(key) ? null : id);
    }
  }

  /** The row a text names, or null; what names none and was not decided is noted with its line. */
  match(text: string, line: number): number | null {
    const before = this.known.get(text);
    if (before !== undefined) return before;
    if (text.trim() === '') return null;
    const id = this.byText.get(this.keyOf(text)) ?? this.decided.get(text) ?? null;
    if (id === null && !this.decided.has(text)) {
      const noted = this.missing.get(text);
      if (noted) noted.count++;
      else if (this.missing.size < MOST_UNMATCHED) this.missing.set(apart(text), { count: 1, firstLine: line });
    } else if (this.known.size < MOST_KNOWN) this.known.set(apart(text), id);
    return id;
  }

  /** What named no row so far, in the order it was met, with near spellings. */
  unmatched(): Unmatched[] {
    return [...this.missing].map(([value, noted], i) => {
      const near = i < MOST_NEAR ? nearRows(value, this.rows) : [];
      return { value, ...noted, near: near.map(shownNear), sure: isSure(value, near) };
    });
  }
}
const shownNear = ({ id, text, known }: Named): { id: number; text: string } => ({ id, text: known && known !== text ? `${text} · ${known}` : text }); // prettier-ignore

/** Rows known by nearly this text: the same but for case, accents, hyphens and spaces first. */
function nearRows(value: string, rows: readonly Named[]): Named[] {
  const loose = looseKey(value);
  const same = rows.filter((r) => looseKey(r.text) === loose);
  const texts = nearest(value, new Set(rows.map((r) => r.text)), 4);
  const near = texts.flatMap((t) => rows.filter((r) => r.text === t));
  return [...new Set([...same, ...near])].slice(0, 4);
}

/** A text shorter than this is a code or a sign: one letter more or less is another one. */
const LONG_ENOUGH = 5;
/**
 * Whether the nearest row may be taken without a look: it differs in case, accents, hyphens and spaces alone; or it is spelled
 * nearly so, is long enough to be no code, has the same figures in it, and no other comes near.
 */
function isSure(value: string, near: readonly Named[]): boolean {
  const [first, second] = near;
  if (!first) return false;
  const loose = looseKey(value);
  const same = near.filter((n) => looseKey(n.text) === loose);
  if (same.length) return same.length === 1;
  const figures = (text: string): string => text.replace(/\D/g, '');
  return second === undefined && loose.length >= LONG_ENOUGH && figures(value) === figures(first.text);
}

/** A way to match: the columns of the target whose text is compared, and the share of a file's texts that name a row by it. */
export interface MatchWay {
  readonly by: readonly string[];
  readonly share: number;
}
/** A column can tell rows apart when at most a tenth of them share their text with another. */
const APART = 0.9;
/** Two columns together are looked at in tables of at most so many rows, and of so many columns. */
const MOST_JOINED_ROWS = 5000;
const MOST_JOINED_COLUMNS = 8;
const MOST_WAYS = 6;

/**
 * The ways in which texts of a file name rows of a table, the best first: by one column, or by two together where no single one
 * names nearly all. `columns` holds the texts of each column, row by row (null where it is empty); `shown` wins over others that
 * are as good. Columns that do not tell rows apart are no way. Cost: columns × rows, for small tables columns² × rows.
 */
export function matchWays(
  texts: readonly string[],
  columns: ReadonlyMap<string, readonly (string | null)[]>,
  shown: string | null,
): MatchWay[] {
  const filled = texts.filter((t) => t.trim() !== '');
  const ways: MatchWay[] = [];
  const look = (by: readonly string[], rows: readonly string[], keyOf: (text: string) => string): void => {
    const known = new Set(rows.map(keyOf));
    if (!known.size || known.size < rows.length * APART) return;
    const share = filled.length ? filled.filter((t) => known.has(keyOf(t))).length / filled.length : 0;
    if (share > 0) ways.push({ by, share });
  };
  for (const [key, values] of columns) look([key], values.filter((v) => v !== null), looseKey); // prettier-ignore
  const best = Math.max(0, ...ways.map((w) => w.share));
  const rows = [...columns.values()][0]?.length ?? 0;
  if (best < APART && rows <= MOST_JOINED_ROWS) {
    const joined = [...columns].slice(0, MOST_JOINED_COLUMNS);
    for (const [a, first] of joined)
      for (const [b, second] of joined) {
        if (a === b) continue;
        const both = first.flatMap((x, i) => (x !== null && second[i] !== null && second[i] !== undefined ? [`${x} ${second[i]}`] : []));
        look([a, b], both, (t) => looseKey(joinedKey(t)));
      }
  }
  const rank = (w: MatchWay): number => (w.by.length === 1 && w.by[0] === shown ? 0 : w.by.length);
  return ways.sort((a, b) => b.share - a.share || rank(a) - rank(b)).slice(0, MOST_WAYS);
}

/**
 * How good a column of texts is as what people know the rows by, from 0: names before codes. Called by its header first, then by
 * what it holds: words with letters and spaces are names, short texts of capitals and figures are codes.
 */
export function nameLikeness(header: string, texts: readonly string[]): number {
  const called = /\b(name|title|label|called|species|subject)\b/i.test(header.replaceAll('_', ' ')) ? 2 : /\b(code|id|no|nr|number|ref|reference|key|e-?mail)\b/i.test(header.replaceAll('_', ' ')) ? -1 : 0; // prettier-ignore
  const filled = texts.filter((t) => t.trim() !== '').slice(0, 500);
  const words = filled.filter((t) => /\p{Ll}/u.test(t) && /\p{L}{3}/u.test(t) && !/[@_]|\d{2}/.test(t)).length;
  return 1 + called + (filled.length ? words / filled.length : 0);
}
