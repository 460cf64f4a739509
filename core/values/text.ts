/**
 * The key under which two texts are equal in the language (`=` ignores case): composed (NFC) and upper-cased.
 * Upper case, because JavaScript's lower case depends on the place in a word (Greek final sigma) and a key must
 * not. The same key is stored beside every text column, so SQL and memory compare the same thing.
 */
export function foldText(text: string): string {
  // plain letters are composed already
  return isPlain(text) ? text.toUpperCase() : foldAny(text);
}
/** Words as they are folded, of those folded last: the words that formulas look for come again at every key. */
const words = new Map<string, string>();
const MOST_WORDS = 1000;
const LONGEST_WORD = 60;
/** The same, of a word that is folded time and again. */
export function foldWord(word: string): string {
  if (word.length > LONGEST_WORD) return foldText(word);
  let folded = words.get(word);
  if (folded === undefined) {
    if (words.size >= MOST_WORDS) words.clear();
    words.set(word, (folded = foldText(word)));
  }
  return folded;
}
/** A text composed (NFC), as texts are kept. */
export const composed = (text: string): string => (isPlain(text) ? text : text.normalize('NFC'));
function isPlain(text: string): boolean {
  for (let i = 0; i < text.length; i++) if (text.charCodeAt(i) > 0x7f) return false;
  return true;
}
function foldAny(text: string): string {
  return text.normalize('NFC').toUpperCase().normalize('NFC');
}

/** The words of what somebody looks for, folded: see `hasWords`. */
export const soughtWords = (sought: string): readonly string[] => foldText(sought).split(/\s+/).filter(Boolean);
/** Whether a folded text has all of these folded words, in whatever order. Of no words: yes. */
export const hasWords = (folded: string, words: readonly string[]): boolean => words.every((w) => folded.includes(w));

/** Compares by code point, as UTF-8 databases do; JavaScript's `<` compares UTF-16 units and differs for astral letters. */
export function compareCodePoints(a: string, b: string): number {
  if (a === b) return 0;
  const length = Math.min(a.length, b.length);
  for (let i = 0; i < length; i++) {
    const x = a.charCodeAt(i);
    const y = b.charCodeAt(i);
    if (x !== y) {
      const xSurrogate = x >= 0xd800 && x <= 0xdfff;
      const ySurrogate = y >= 0xd800 && y <= 0xdfff;
      if (xSurrogate !== ySurrogate) return xSurrogate ? 1 : -1;
      return x - y;
    }
  }
  return a.length - b.length;
}

/**
 * The same text, by itself. Engines may keep a text that was cut out of a longer one as a place in that, and with it all of the longer
 * one: for the few texts that are kept out of the many of a file.
 */
export const apart = (text: string): string => JSON.parse(JSON.stringify(text)) as string;

/** Order of two texts in lists and comparisons: case-blind. */
export const compareText = (a: string, b: string): number => compareCodePoints(foldText(a), foldText(b));

const HALF_A_PAIR = /\p{Surrogate}/u;
/**
 * Why a text cannot be kept unchanged, to be said after what it is of; null when it can: NUL, and halves of a surrogate pair
 * that stand alone, which are no characters.
 */
export function textProblem(text: string): string | null {
  if (text.includes('\0')) return 'has a character that cannot be kept (NUL).';
  return HALF_A_PAIR.test(text) ? 'has half a character that cannot be kept. Type it again.' : null;
}

/** Text of nothing but white space, which a person's typing never means (model.md, "Empty"). */
export const isBlankText = (text: string): boolean => text.trim() === '';

/** A key that hides what eyes overlook: case, accents, hyphens, runs of white space. Used for near misses only. */
export function looseKey(text: string): string {
  return text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toUpperCase()
    .replace(/[\s\p{P}_]+/gu, ' ')
    .trim();
}

/**
 * Edits (insert, delete, replace, swap of neighbours) between two texts, or `limit + 1` when there are more.
 * Optimal string alignment distance. Cost: length × length.
 */
export function editDistance(a: string, b: string, limit = 3): number {
  if (Math.abs(a.length - b.length) > limit) return limit + 1;
  let before: number[] = [];
  let previous = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const current = [i];
    for (let j = 1; j <= b.length; j++) {
      const cost = a[i - 1] === b[j - 1] ? 0 : 1;
      let best = Math.min((previous[j] ?? 0) + 1, (current[j - 1] ?? 0) + 1, (previous[j - 1] ?? 0) + cost);
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) best = Math.min(best, (before[j - 2] ?? 0) + 1);
      current.push(best);
    }
    before = previous;
    previous = current;
  }
  return Math.min(previous[b.length] ?? limit + 1, limit + 1);
}

/** How much of a text is said in a sentence, in characters: enough to know which is meant. */
const MOST_SAID = 60;
/** A text as a sentence says it: in quotation marks, and cut where it is long. */
export const inQuotes = (text: string): string =>
  // half of a character that takes two is none
  `“${text.length > MOST_SAID ? `${text.slice(0, MOST_SAID).replace(/[\uD800-\uDBFF]$/, '')}…` : text}”`;

/**
 * The candidates spelled most like `text`, nearest first: those equal but for case, accents, hyphens and spaces,
 * then those that begin with it or are within a third of its length in edits.
 */
export function nearest(text: string, candidates: Iterable<string>, most = 3): string[] {
  const key = looseKey(text);
  const limit = Math.max(1, Math.min(3, Math.floor(key.length / 3)));
  const found: { candidate: string; distance: number }[] = [];
  for (const candidate of candidates) {
    const other = looseKey(candidate);
    const begins = key.length > 1 && other.startsWith(key);
    const distance = begins ? Math.min(1, other.length - key.length) : editDistance(key, other, limit);
    if (distance <= limit) found.push({ candidate, distance });
  }
  found.sort((x, y) => x.distance - y.distance || compareText(x.candidate, y.candidate));
  return found.slice(0, most).map((x) => x.candidate);
}
