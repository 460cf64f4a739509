import { add, canonical, plainNumber, roundTo } from '../../values/decimal.ts';
import { isNumeral } from '../../values/read.ts';
import { composed, foldText, foldWord, inQuotes } from '../../values/text.ts';
import type { Result } from '../errors.ts';
import * as T from '../../values/typing.ts';
import {
  type CallContext,
  type FunctionDeclaration,
  any,
  checkLength,
  define,
  fail,
  items,
  joined,
  number,
  optional,
  p,
  repeats,
  text,
  texts,
  writable,
  yesno,
} from './define.ts';
import { wildcardSearch } from './wildcard.ts';
import { writeOut } from '../write.ts';

/** Texts are counted in characters as people see code points, so that one letter beyond the basic plane is one. */
const chars = (s: string): string[] => Array.from(s);
type Examples = [string, string][];
const onText = (name: string, summary: string, examples: Examples, f: (s: string) => string): FunctionDeclaration =>
  define({ name, group: 'text', parameters: [p('text', text)], summary, examples, returns: T.TEXT, evaluate: ([s]) => f(s as string) });
const negative = (what: string, c: CallContext): Result => fail('badArgument', `${what} must not be negative.`, c);

/** The place of the first match at or after a place, both counted in characters from 1. `seek` finds it in code units. */
function find(needle: string, hay: string, start: number, c: CallContext): Result {
  if (start < 1) return fail('badArgument', 'The start must be 1 or more.', c);
  let from = 0;
  for (let n = 1; n < start && from < hay.length; n++) from += (hay.codePointAt(from) as number) > 0xffff ? 2 : 1;
  const at = start > hay.length + 1 ? -1 : hay.indexOf(needle, from);
  if (at < 0) return notFound(needle, hay, c);
  let place = 1;
  for (let i = 0; i < at; i += (hay.codePointAt(i) as number) > 0xffff ? 2 : 1) place++;
  return place;
}
const notFound = (needle: string, hay: string, c: CallContext): Result =>
  fail('notFound', `${inQuotes(needle)} was not found in ${inQuotes(hay)}.`, c);

export const TEXTS = [
  define({
    name: 'LEN', group: 'text', parameters: [p('text', text)], returns: T.NUMBER,
    summary: 'The number of characters.', examples: [['LEN("abc")', '3'], ['LEN(EMPTY())', 'empty']],
    evaluate: ([s]) => chars(s as string).length,
  }),
  onText('UPPER', 'The text in upper case.', [['UPPER("fen")', 'FEN']], (s) => s.toUpperCase()),
  onText('LOWER', 'The text in lower case.', [['LOWER("FEN")', 'fen']], (s) => s.toLowerCase()),
  onText('PROPER', 'Each word with a capital first letter.', [['PROPER("north marrow")', 'North Marrow'], ['PROPER("ÉTANG d’eau")', 'Étang D’Eau']], (s) =>
    s.normalize('NFC').toLowerCase().replace(/[\p{L}\p{M}]+/gu, (word) => { const [first = '', ...rest] = chars(word); return first.toUpperCase() + rest.join(''); })),
  onText('TRIM', 'Without spaces at the ends, and single spaces between words.', [['TRIM("  wet   heath ")', 'wet heath']], (s) =>
    s.replace(/ +/g, ' ').replace(/^ | $/g, '')),
  onText('CLEAN', 'Without characters that cannot be printed.', [['CLEAN("a" & UNICHAR(7) & "b")', 'ab']], (s) =>
    // eslint-disable-next-line no-control-regex -- control characters are what CLEAN removes
    s.replace(/[\u0000-\u001f\u007f-\u009f]/g, '')),
  define({
    name: 'LEFT', group: 'text', parameters: [p('text', text), p('count', number, optional)], returns: T.TEXT,
    summary: 'The first characters (1 when no count is given).', examples: [['LEFT("marrow", 3)', 'mar'], ['LEFT("ab", 9)', 'ab']],
    evaluate: ([s, n = 1], c) => ((n as number) < 0 ? negative('The count', c) : chars(s as string).slice(0, Math.trunc(n as number)).join('')),
  }),
  define({
    name: 'RIGHT', group: 'text', parameters: [p('text', text), p('count', number, optional)], returns: T.TEXT,
    summary: 'The last characters (1 when no count is given).', examples: [['RIGHT("marrow", 3)', 'row'], ['RIGHT("ab", 0)', '']],
    evaluate([s, n = 1], c) {
      const count = Math.trunc(n as number);
      if (count < 0) return negative('The count', c);
      return count === 0 ? '' : chars(s as string).slice(-count).join('');
    },
  }),
  define({
    name: 'MID', group: 'text', parameters: [p('text', text), p('start', number), p('count', number)], returns: T.TEXT,
    summary: 'Characters from a place on; the first is 1.', examples: [['MID("marrow", 2, 3)', 'arr'], ['MID("ab", 5, 1)', '']],
    evaluate([s, start, n], c) {
      if ((start as number) < 1) return fail('badArgument', 'The start must be 1 or more.', c);
      if ((n as number) < 0) return negative('The count', c);
      const from = Math.trunc(start as number) - 1;
      return chars(s as string).slice(from, from + Math.trunc(n as number)).join('');
    },
  }),
  define({
    name: 'FIND', group: 'text', parameters: [p('sought', text), p('text', text), p('start', number, optional)], returns: T.NUMBER,
    summary: 'The place of a text in another; case counts.', examples: [['FIND("r", "marrow")', '3'], ['ISERROR(FIND("R", "marrow"))', 'TRUE']],
    evaluate: ([needle, hay, start = 1], c) => find(needle as string, hay as string, Math.trunc(start as number), c),
  }),
  define({
    name: 'SEARCH', group: 'text', parameters: [p('sought', text), p('text', text), p('start', number, optional)], returns: T.NUMBER,
    summary: 'The place of a text in another; case does not count, * and ? stand for any characters.',
    examples: [['SEARCH("R", "marrow")', '3'], ['SEARCH("r?o", "marrow")', '3']],
    evaluate([needle, hay, start = 1], c) {
      const from = Math.trunc(start as number);
      if (from < 1) return fail('badArgument', 'The start must be 1 or more.', c);
      const at = wildcardSearch(needle as string, hay as string, from - 1);
      return at < 0 ? notFound(needle as string, hay as string, c) : at + 1;
    },
  }),
  define({
    name: 'SUBSTITUTE', group: 'text', parameters: [p('text', text), p('sought', text), p('instead', text), p('which', number, optional)], returns: T.TEXT,
    summary: 'Replaces every occurrence of a text, or only the one at a place.',
    examples: [['SUBSTITUTE("a-b-c", "-", "+")', 'a+b+c'], ['SUBSTITUTE("a-b-c", "-", "+", 2)', 'a-b+c']],
    evaluate([s, sought, instead, which], c) {
      if (sought === '') return s as string;
      const parts = (s as string).split(sought as string);
      if (which === undefined) return joined(parts, instead as string);
      const k = Math.trunc(which as number);
      if (k < 1) return fail('badArgument', 'The place must be 1 or more.', c);
      if (k >= parts.length) return s as string;
      return joined([parts.slice(0, k).join(sought as string), parts.slice(k).join(sought as string)], instead as string);
    },
  }),
  define({
    name: 'REPLACE', group: 'text', parameters: [p('text', text), p('start', number), p('count', number), p('instead', text)], returns: T.TEXT,
    summary: 'Replaces characters from a place on.', examples: [['REPLACE("marrow", 1, 1, "b")', 'barrow']],
    evaluate([s, start, count, instead], c) {
      if ((start as number) < 1) return fail('badArgument', 'The start must be 1 or more.', c);
      if ((count as number) < 0) return negative('The count', c);
      const all = chars(s as string);
      const from = Math.trunc(start as number) - 1;
      return joined([all.slice(0, from).join(''), all.slice(from + Math.trunc(count as number)).join('')], instead as string);
    },
  }),
  define({
    name: 'REPT', group: 'text', parameters: [p('text', text), p('times', number)], returns: T.TEXT,
    summary: 'The text several times over.', examples: [['REPT("ab", 3)', 'ababab']],
    evaluate([s, times], c) {
      const n = Math.trunc(times as number);
      if (n < 0) return negative('The number of times', c);
      checkLength((s as string).length * n);
      return s === '' ? '' : (s as string).repeat(n);
    },
  }),
  define({
    name: 'EXACT', group: 'text', parameters: [p('text', text), p('other', text)], returns: T.YESNO,
    summary: 'Whether two texts are the same, case included.', examples: [['EXACT("Fen", "fen")', 'FALSE'], ['EXACT("fen", "fen")', 'TRUE']],
    evaluate: ([a, b]) => composed(a as string) === composed(b as string),
  }),
  define({
    name: 'CONTAINSANY', group: 'text', parameters: [p('text', text), p('word', text), p('word', text, repeats)], returns: T.YESNO,
    summary: 'Whether the text contains at least one of the words, without regard to case.',
    examples: [['CONTAINSANY("Pot on and label", "sow", "pot on")', 'TRUE']],
    evaluate: (texts) => {
      const folded = foldText(texts[0] as string);
      for (let i = 1; i < texts.length; i++) if (folded.includes(foldWord(texts[i] as string))) return true;
      return false;
    },
  }),
  define({
    name: 'CONCATENATE', group: 'text', empties: 'given', parameters: [p('value', writable), p('value', writable, repeats)], returns: T.TEXT,
    summary: 'Joins values to one text; empties are left out. (& gives empty when one side is empty.)',
    examples: [['CONCATENATE("lot ", 12)', 'lot 12'], ['CONCATENATE("a", EMPTY())', 'a']],
    evaluate: (args, { types }) => joined(args.map((a, i) => writeOut(a, types[i] ?? T.TEXT))),
  }),
  define({
    name: 'CONCAT', group: 'text', empties: 'given', parameters: [p('value', texts), p('value', texts, repeats)], returns: T.TEXT,
    summary: 'Joins values and all items of lists to one text; empties are left out.',
    examples: [['CONCAT("lot ", 12)', 'lot 12'], ['CONCAT(JOIN("a", "b"), "c")', 'abc']],
    evaluate: (args, { types }) =>
      joined(args.flatMap((a, i) => {
        const type = types[i] ?? T.TEXT;
        return items([a]).map((item) => writeOut(item, type.kind === 'list' ? type.of : type));
      })),
  }),
  define({
    name: 'VALUE', group: 'text', parameters: [p('text', text)], returns: T.NUMBER,
    summary: 'The number that a text spells: a point for decimals, commas between thousands, perhaps % behind.',
    detail: 'Commas must stand before every three digits of the whole part. NUMBERVALUE reads other signs.',
    examples: [['VALUE("12.50")', '12.5'], ['VALUE("1,234.5")', '1234.5'], ['ISERROR(VALUE("1,23"))', 'TRUE'], ['ISERROR(VALUE("abc"))', 'TRUE']],
    evaluate([s], c) {
      const trimmed = (s as string).trim();
      const percent = trimmed.endsWith('%');
      const digits = percent ? trimmed.slice(0, -1) : trimmed;
      const plain = /^[+-]?\d{1,3}(,\d{3})+(\.\d*)?$/.test(digits) ? digits.replaceAll(',', '') : digits;
      const n = isNumeral(plain) ? canonical(Number(plain)) : NaN;
      if (!Number.isFinite(n)) return fail('badArgument', `${inQuotes(s as string)} is not a number.`, c);
      return percent ? canonical(n / 100) : n;
    },
  }),
  define({
    name: 'FIXED', group: 'text', parameters: [p('number', number), p('decimals', number, optional), p('without commas', yesno, optional)], returns: T.TEXT,
    summary: 'The number as text with a fixed count of decimals (2 when left out), thousands grouped by commas unless TRUE says without.', examples: [['FIXED(2.5)', '2.50'], ['FIXED(1234.567, 1)', '1,234.6'], ['FIXED(1234.567, 1, TRUE)', '1234.6']],
    evaluate([n, decimals = 2, plain = false], c) {
      const d = Math.trunc(decimals as number);
      if (d > 15) return fail('badArgument', 'At most 15 decimals can be shown.', c);
      const rounded = roundTo(n as number, d);
      const [digits = '0', fraction = ''] = plainNumber(add(rounded, 0)).split('.');
      const whole = plain === true ? digits : digits.replace(/\B(?=(\d{3})+(?!\d))/g, ',');
      return d > 0 ? `${whole}.${fraction.padEnd(d, '0')}` : whole;
    },
  }),
  define({
    name: 'UNICHAR', group: 'text', parameters: [p('code', number)], returns: T.TEXT,
    summary: 'The character with this Unicode number.', examples: [['UNICHAR(176)', '°']],
    evaluate([n], c) {
      const code = Math.trunc(n as number);
      return code >= 1 && code <= 0x10ffff && !(code >= 0xd800 && code <= 0xdfff)
        ? String.fromCodePoint(code)
        : fail('badArgument', 'There is no character with this number.', c);
    },
  }),
  define({
    name: 'UNICODE', group: 'text', parameters: [p('text', text)], returns: T.NUMBER,
    summary: 'The Unicode number of the first character.', examples: [['UNICODE("A")', '65']],
    evaluate: ([s], c) => (s as string).codePointAt(0) ?? fail('badArgument', 'The text has no characters.', c),
  }),
  define({
    name: 'T', group: 'text', empties: 'given', parameters: [p('value', any)], returns: T.TEXT,
    summary: 'The value when it is a text, else "".', examples: [['T("a")', 'a'], ['T(1)', ''], ['T(DATE(2026, 3, 1))', '']],
    evaluate: ([v], { types }) => (typeof v === 'string' && T.isTextual(types[0] ?? T.UNKNOWN) ? v : ''),
  }),
]; // prettier-ignore
