import { add, canonical, plainNumber, roundTo } from '../../values/decimal.ts';
import { foldText } from '../../values/text.ts';
import type { Result } from '../errors.ts';
import * as T from '../types.ts';
import {
  type CallContext,
  type FunctionDeclaration,
  any,
  define,
  fail,
  number,
  optional,
  p,
  repeats,
  text,
  writable,
  yesno,
} from './define.ts';
import { wildcardMatch } from './wildcard.ts';
import { writeOut } from '../write.ts';

/** Texts are counted in characters as people see code points, so that one letter beyond the basic plane is one. */
const chars = (s: string): string[] => Array.from(s);
type Examples = [string, string][];
const onText = (name: string, summary: string, examples: Examples, f: (s: string) => string): FunctionDeclaration =>
  define({ name, group: 'text', parameters: [p('text', text)], summary, examples, returns: T.TEXT, evaluate: ([s]) => f(s as string) });
const negative = (what: string, c: CallContext): Result => fail('badArgument', `${what} must not be negative.`, c);

function find(needle: string, hay: string, start: number, c: CallContext, matches: (rest: string) => boolean): Result {
  const all = chars(hay);
  if (start < 1) return fail('badArgument', 'The start must be 1 or more.', c);
  for (let i = start - 1; i <= all.length; i++) if (matches(all.slice(i).join(''))) return i + 1;
  return fail('notFound', `“${needle}” was not found in “${hay}”.`, c);
}

export const TEXTS = [
  define({
    name: 'LEN', group: 'text', parameters: [p('text', text)], returns: T.NUMBER,
    summary: 'The number of characters.', examples: [['LEN("abc")', '3'], ['LEN(EMPTY())', 'empty']],
    evaluate: ([s]) => chars(s as string).length,
  }),
  onText('UPPER', 'The text in upper case.', [['UPPER("fen")', 'FEN']], (s) => s.toUpperCase()),
  onText('LOWER', 'The text in lower case.', [['LOWER("FEN")', 'fen']], (s) => s.toLowerCase()),
  onText('PROPER', 'Each word with a capital first letter.', [['PROPER("north marrow")', 'North Marrow']], (s) =>
    s.toLowerCase().replace(/\p{L}+/gu, (word) => { const [first = '', ...rest] = chars(word); return first.toUpperCase() + rest.join(''); })),
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
    evaluate: ([needle, hay, start = 1], c) =>
      find(needle as string, hay as string, Math.trunc(start as number), c, (rest) => rest.startsWith(needle as string)),
  }),
  define({
    name: 'SEARCH', group: 'text', parameters: [p('sought', text), p('text', text), p('start', number, optional)], returns: T.NUMBER,
    summary: 'The place of a text in another; case does not count, * and ? stand for any characters.',
    examples: [['SEARCH("R", "marrow")', '3'], ['SEARCH("r?o", "marrow")', '3']],
    evaluate: ([needle, hay, start = 1], c) =>
      find(needle as string, hay as string, Math.trunc(start as number), c, (rest) => wildcardMatch(`${needle as string}*`, rest)),
  }),
  define({
    name: 'SUBSTITUTE', group: 'text', parameters: [p('text', text), p('sought', text), p('instead', text), p('which', number, optional)], returns: T.TEXT,
    summary: 'Replaces every occurrence of a text, or only the one at a place.',
    examples: [['SUBSTITUTE("a-b-c", "-", "+")', 'a+b+c'], ['SUBSTITUTE("a-b-c", "-", "+", 2)', 'a-b+c']],
    evaluate([s, sought, instead, which], c) {
      if (sought === '') return s as string;
      const parts = (s as string).split(sought as string);
      if (which === undefined) return parts.join(instead as string);
      const k = Math.trunc(which as number);
      if (k < 1) return fail('badArgument', 'The place must be 1 or more.', c);
      if (k >= parts.length) return s as string;
      return parts.slice(0, k).join(sought as string) + (instead as string) + parts.slice(k).join(sought as string);
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
      return all.slice(0, from).join('') + (instead as string) + all.slice(from + Math.trunc(count as number)).join('');
    },
  }),
  define({
    name: 'REPT', group: 'text', parameters: [p('text', text), p('times', number)], returns: T.TEXT,
    summary: 'The text several times over.', examples: [['REPT("ab", 3)', 'ababab']],
    evaluate([s, times], c) {
      const n = Math.trunc(times as number);
      if (n < 0) return negative('The number of times', c);
      if ((s as string).length * n > 100_000) return fail('tooMuch', 'The text would have more than 100,000 characters.', c);
      return (s as string).repeat(n);
    },
  }),
  define({
    name: 'EXACT', group: 'text', parameters: [p('text', text), p('other', text)], returns: T.YESNO,
    summary: 'Whether two texts are the same, case included.', examples: [['EXACT("Fen", "fen")', 'FALSE'], ['EXACT("fen", "fen")', 'TRUE']],
    evaluate: ([a, b]) => (a as string).normalize('NFC') === (b as string).normalize('NFC'),
  }),
  define({
    name: 'CONTAINSANY', group: 'text', parameters: [p('text', text), p('word', text), p('word', text, repeats)], returns: T.YESNO,
    summary: 'Whether the text contains at least one of the words, without regard to case.',
    examples: [['CONTAINSANY("Pot on and label", "sow", "pot on")', 'TRUE']],
    evaluate: ([s, ...words]) => words.some((w) => foldText(s as string).includes(foldText(w as string))),
  }),
  define({
    name: 'CONCATENATE', group: 'text', empties: 'given', parameters: [p('value', writable), p('value', writable, repeats)], returns: T.TEXT,
    summary: 'Joins values to one text; empties are left out. (& gives empty when one side is empty.)',
    examples: [['CONCATENATE("lot ", 12)', 'lot 12'], ['CONCATENATE("a", EMPTY())', 'a']],
    evaluate: (args, { types }) => args.map((a, i) => writeOut(a, types[i] ?? T.TEXT)).join(''),
  }),
  define({
    name: 'VALUE', group: 'text', parameters: [p('text', text)], returns: T.NUMBER,
    summary: 'The number that a text spells, with a point for decimals.', examples: [['VALUE("12.50")', '12.5'], ['ISERROR(VALUE("abc"))', 'TRUE']],
    evaluate([s], c) {
      const trimmed = (s as string).trim();
      if (/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?%?$/i.test(trimmed)) {
        const percent = trimmed.endsWith('%');
        const n = canonical(Number(percent ? trimmed.slice(0, -1) : trimmed));
        if (Number.isFinite(n)) return percent ? canonical(n / 100) : n;
      }
      return fail('badArgument', `“${s as string}” does not spell a number.`, c);
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
    evaluate: ([n], c) =>
      (n as number) >= 1 && (n as number) <= 0x10ffff && !((n as number) >= 0xd800 && (n as number) <= 0xdfff)
        ? String.fromCodePoint(Math.trunc(n as number))
        : fail('badArgument', 'There is no character with this number.', c),
  }),
  define({
    name: 'UNICODE', group: 'text', parameters: [p('text', text)], returns: T.NUMBER,
    summary: 'The Unicode number of the first character.', examples: [['UNICODE("A")', '65']],
    evaluate: ([s], c) => (s as string).codePointAt(0) ?? fail('badArgument', 'The text has no characters.', c),
  }),
  define({
    name: 'T', group: 'text', empties: 'given', parameters: [p('value', any)], returns: T.TEXT,
    summary: 'The value when it is a text, else "".', examples: [['T("a")', 'a'], ['T(1)', '']],
    evaluate: ([v]) => (typeof v === 'string' ? v : ''),
  }),
]; // prettier-ignore
