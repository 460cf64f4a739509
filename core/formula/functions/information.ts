import { type Result, isFormulaError, isWaiting } from '../errors.ts';
import * as T from '../../values/typing.ts';
import { type FunctionDeclaration, any, define, p } from './define.ts';

type Examples = [string, string][];
/**
 * A question about a value that itself never fails: of an error it is answered FALSE, so that ISNUMBER(SEARCH(…)) asks
 * whether a text was found (OpenFormula 6.13). What is not known yet stays unknown.
 */
const question = (
  name: string,
  summary: string,
  examples: Examples,
  holds: (value: Exclude<Result, object> | readonly unknown[], type: T.Type) => boolean,
): FunctionDeclaration =>
  define({
    name,
    group: 'information',
    lazy: true,
    parameters: [p('value', any)],
    summary,
    detail: 'FALSE when computing the value fails.',
    examples,
    returns: T.YESNO,
    evaluate([value], { types }) {
      const result = value?.() ?? null;
      if (isWaiting(result)) return result;
      return isFormulaError(result) ? false : holds(result, types[0] ?? T.UNKNOWN);
    },
  });
const kindTest = (name: string, kinds: readonly T.Kind[], summary: string, examples: Examples): FunctionDeclaration =>
  question(name, summary, examples, (value, type) => value !== null && kinds.includes(type.kind));

export const INFORMATION = [
  question(
    'ISBLANK',
    'Whether the value is empty. Zero, "" and no are not empty; a list without items is.',
    [
      ['ISBLANK(EMPTY())', 'TRUE'],
      ['ISBLANK(0)', 'FALSE'],
      ['ISBLANK("")', 'FALSE'],
      ['ISBLANK(1 / 0)', 'FALSE'],
    ],
    (value) => value === null || (Array.isArray(value) && value.length === 0),
  ),
  kindTest('ISNUMBER', ['number'], 'Whether the value is a number (and not empty).', [
    ['ISNUMBER(1)', 'TRUE'],
    ['ISNUMBER("1")', 'FALSE'],
    ['ISNUMBER(SEARCH("x", "marrow"))', 'FALSE'],
  ]),
  kindTest('ISTEXT', ['text', 'choice'], 'Whether the value is a text (and not empty).', [
    ['ISTEXT("a")', 'TRUE'],
    ['ISTEXT(1)', 'FALSE'],
  ]),
  kindTest('ISLOGICAL', ['yesno'], 'Whether the value is yes or no (and not empty).', [
    ['ISLOGICAL(TRUE)', 'TRUE'],
    ['ISLOGICAL(1 / 0 = 1)', 'FALSE'],
  ]),
  question(
    'ISNONTEXT',
    'Whether the value is anything but a text; empty is no text, and neither is a date.',
    [
      ['ISNONTEXT(1)', 'TRUE'],
      ['ISNONTEXT("a")', 'FALSE'],
      ['ISNONTEXT(DATE(2026, 3, 1))', 'TRUE'],
      ['ISNONTEXT(1 / 0)', 'FALSE'],
    ],
    (value, type) => value === null || !T.isTextual(type),
  ),
  define({
    name: 'ISERROR',
    group: 'information',
    lazy: true,
    parameters: [p('value', any)],
    summary: 'Whether computing the value fails.',
    examples: [
      ['ISERROR(1 / 0)', 'TRUE'],
      ['ISERROR(1)', 'FALSE'],
    ],
    returns: T.YESNO,
    evaluate([value]) {
      const result = value?.() ?? null;
      return isWaiting(result) ? result : isFormulaError(result);
    },
  }),
];
