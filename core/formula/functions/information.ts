import * as T from '../types.ts';
import { any, define, p } from './define.ts';

const kindTest = (name: string, kinds: readonly T.Kind[], summary: string, examples: [string, string][]) =>
  define({
    name, group: 'information', empties: 'given', parameters: [p('value', any)], summary, examples, returns: T.YESNO,
    evaluate: ([value], { types }) => value !== null && kinds.includes((types[0] ?? T.UNKNOWN).kind),
  }); // prettier-ignore

export const INFORMATION = [
  define({
    name: 'ISBLANK', group: 'information', empties: 'given', parameters: [p('value', any)],
    summary: 'Whether the value is empty. Zero, "" and no are not empty; a list without items is.',
    examples: [['ISBLANK(EMPTY())', 'TRUE'], ['ISBLANK(0)', 'FALSE'], ['ISBLANK("")', 'FALSE']],
    returns: T.YESNO,
    evaluate: ([value]) => value === null || (Array.isArray(value) && value.length === 0),
  }),
  kindTest('ISNUMBER', ['number'], 'Whether the value is a number (and not empty).', [['ISNUMBER(1)', 'TRUE'], ['ISNUMBER("1")', 'FALSE']]),
  kindTest('ISTEXT', ['text', 'choice'], 'Whether the value is a text (and not empty).', [['ISTEXT("a")', 'TRUE'], ['ISTEXT(1)', 'FALSE']]),
  kindTest('ISLOGICAL', ['yesno'], 'Whether the value is yes or no (and not empty).', [['ISLOGICAL(TRUE)', 'TRUE']]),
  define({
    name: 'ISERROR', group: 'information', lazy: true, parameters: [p('value', any)],
    summary: 'Whether computing the value fails.',
    examples: [['ISERROR(1 / 0)', 'TRUE'], ['ISERROR(1)', 'FALSE']], returns: T.YESNO,
    evaluate([value]) {
      const result = value?.() ?? null;
      if (typeof result !== 'object' || result === null || Array.isArray(result)) return false;
      return 'code' in result ? true : result;
    },
  }),
]; // prettier-ignore
