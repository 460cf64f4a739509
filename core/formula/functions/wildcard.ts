import { foldText } from '../../values/text.ts';
import { TooMuch } from '../errors.ts';

/*
 * Patterns with `*` for any characters, `?` for one character, `~*` and `~?` for the signs themselves; case does not count.
 * A pattern is cut at its stars into pieces. The leftmost place of each piece after the one before is always the best, so
 * nothing is tried twice: a piece without `?` is found by the platform's linear search. Only pieces with `?` are tried place
 * by place, under a bound on the steps.
 */
const MOST_STEPS = 5_000_000;
/** a place of the folded text in which `?` stands: no text holds this */
const ANY = '\u{F0000}';

interface Piece {
  readonly chars: readonly string[];
  /** the piece as one text when it has no `?`, else null */
  readonly plain: string | null;
}

function piecesOf(pattern: string): Piece[] {
  const pieces: string[][] = [[]];
  const source = Array.from(foldText(pattern));
  for (let i = 0; i < source.length; i++) {
    const c = source[i] as string;
    const next = source[i + 1];
    if (c === '~' && (next === '*' || next === '?' || next === '~')) {
      pieces.at(-1)?.push(next);
      i++;
    } else if (c === '*') pieces.push([]);
    else pieces.at(-1)?.push(c === '?' ? ANY : c);
  }
  return pieces.map((chars) => ({ chars, plain: chars.includes(ANY) ? null : chars.join('') }));
}

/** A folded text that pieces are looked for in, by places of characters. */
class Folded {
  readonly chars: readonly string[];
  private readonly whole: string;
  /** whether each character is one code unit, so that places in the text are places of characters */
  private readonly even: boolean;
  private steps = 0;

  constructor(chars: readonly string[]) {
    this.chars = chars;
    this.whole = chars.join('');
    this.even = this.whole.length === chars.length;
  }

  standsAt(piece: Piece, at: number): boolean {
    const { chars } = piece;
    if (at < 0 || at + chars.length > this.chars.length) return false;
    for (let i = 0; i < chars.length; i++) {
      if (++this.steps > MOST_STEPS) throw new TooMuch('The pattern takes too long to be looked for in this text.');
      if (chars[i] !== ANY && chars[i] !== this.chars[at + i]) return false;
    }
    return true;
  }

  /** The first place from `from` on where a piece stands; -1 when there is none. */
  indexOf(piece: Piece, from: number): number {
    if (piece.plain !== null && this.even) return this.whole.indexOf(piece.plain, from);
    for (let at = from; at + piece.chars.length <= this.chars.length; at++) if (this.standsAt(piece, at)) return at;
    return -1;
  }
}

/** Whether the whole text fits the pattern. Cost: linear but for pieces with `?`; throws TooMuch where those take too long. */
export function wildcardMatch(pattern: string, text: string): boolean {
  const pieces = piecesOf(pattern);
  const folded = new Folded(Array.from(foldText(text)));
  const first = pieces[0] as Piece;
  if (pieces.length === 1) return first.chars.length === folded.chars.length && folded.standsAt(first, 0);
  const last = pieces.at(-1) as Piece;
  const end = folded.chars.length - last.chars.length;
  if (!folded.standsAt(first, 0) || end < first.chars.length) return false;
  let at = first.chars.length;
  for (const piece of pieces.slice(1, -1)) {
    const found = folded.indexOf(piece, at);
    if (found < 0 || found + piece.chars.length > end) return false;
    at = found + piece.chars.length;
  }
  return folded.standsAt(last, end);
}

/**
 * The place (from 0, in characters of the text as it is written) at or after `from` where the pattern begins to stand; -1
 * when it stands nowhere. Cost as `wildcardMatch`.
 */
export function wildcardSearch(pattern: string, text: string, from: number): number {
  const { chars, places, length } = foldedWithPlaces(text);
  if (from > length) return -1;
  const pieces = piecesOf(pattern);
  const folded = new Folded(chars);
  const start = places.findIndex((p) => p >= from);
  const first = pieces[0] as Piece;
  const begins = folded.indexOf(first, start < 0 ? chars.length : start);
  if (begins < 0) return -1;
  let at = begins + first.chars.length;
  for (const piece of pieces.slice(1)) {
    const found = folded.indexOf(piece, at);
    if (found < 0) return -1;
    at = found + piece.chars.length;
  }
  return places[begins] ?? length;
}

/** The folded characters of a text, each with the place of the letter it comes from: folding may make two of one (ß) or one of two (e and an accent). */
function foldedWithPlaces(text: string): { chars: string[]; places: number[]; length: number } {
  const chars: string[] = [];
  const places: number[] = [];
  let place = 0;
  for (const [letter] of text.matchAll(/[^\p{M}]\p{M}*|\p{M}+/gsu)) {
    for (const c of foldText(letter)) {
      chars.push(c);
      places.push(place);
    }
    place += Array.from(letter).length;
  }
  return { chars, places, length: place };
}
