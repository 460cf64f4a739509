import * as T from '../../values/typing.ts';
import { type FunctionDeclaration, any, define, fail, list, optional, p, repeats, text, writable, yesno } from './define.ts';

/*
 * Functions that read more than their arguments. Their checks are in checkData.ts and their running in compileData.ts;
 * here they have their names, signatures and help.
 */
const elsewhere: FunctionDeclaration['evaluate'] = (_: never, c: Parameters<FunctionDeclaration['evaluate']>[1]) =>
  fail('notAvailable', 'This cannot be looked up here.', c);
const name = { ...any, word: 'name' };
const condition = { ...yesno, word: 'condition' };

export const DATA = [
  define({
    name: 'PICK', group: 'data', parameters: [p('table', name), p('condition', condition), p('order', { ...any, word: 'column' }, optional)],
    summary: 'The first row of a table that meets a condition; choice is the row looked at.',
    detail: 'The order is a column of the row (choice.name), with a minus before it for the highest first; without one, the oldest row comes first. Empty when no row meets the condition.',
    examples: [['PICK(species, choice.storage_c = 2).name', 'Quercus robur'], ['PICK(genera, choice.name = "Rosa")', 'empty']],
    returns: T.UNKNOWN, evaluate: elsewhere as never,
  }),
  define({
    name: 'GATHER', group: 'data', parameters: [p('table', name), p('condition', condition), p('order', { ...any, word: 'column' }, optional)],
    summary: 'All rows of a table that meet a condition, as a list; after a point, a column of each.',
    examples: [['COUNT(GATHER(species, choice.active).storage_c)', '1']],
    returns: T.listOf(T.UNKNOWN), evaluate: elsewhere as never,
  }),
  define({
    name: 'ANYOF', group: 'data', parameters: [p('list', list), p('condition', condition)], returns: T.YESNO,
    summary: 'Whether a condition holds for one of a list at least: lines, files, rows; each is the one looked at.',
    detail: 'The list is a group of lines, files, several links or choices, or what GATHER finds: ANYOF(packets, each.grams > 5). Of an empty list it does not hold.',
    examples: [['ANYOF(JOIN(3, 7), each > 5)', 'TRUE'], ['ANYOF(GATHER(species, choice.active), each.storage_c = 2)', 'TRUE']],
    evaluate: elsewhere as never,
  }),
  define({
    name: 'ALLOF', group: 'data', parameters: [p('list', list), p('condition', condition)], returns: T.YESNO,
    summary: 'Whether a condition holds for every one of a list; each is the one looked at.',
    detail: 'Of an empty list it holds: there is none that it does not hold for.',
    examples: [['ALLOF(JOIN(3, 7), each > 5)', 'FALSE'], ['ALLOF(JOIN(3, 7), each < 9)', 'TRUE']],
    evaluate: elsewhere as never,
  }),
  define({
    name: 'NONEOF', group: 'data', parameters: [p('list', list), p('condition', condition)], returns: T.YESNO,
    summary: 'Whether a condition holds for none of a list; each is the one looked at.',
    examples: [['NONEOF(JOIN(3, 7), each > 8)', 'TRUE']],
    evaluate: elsewhere as never,
  }),
  define({
    name: 'COUNTOF', group: 'data', parameters: [p('list', list), p('condition', condition)], returns: T.NUMBER,
    summary: 'For how many of a list a condition holds; each is the one looked at.',
    examples: [['COUNTOF(JOIN(3, 7, 9), each > 5)', '2']],
    evaluate: elsewhere as never,
  }),
  define({
    name: 'VALUEMAP', group: 'data', parameters: [p('map', name), p('key', writable)],
    summary: 'The value that one of the form’s value maps gives for a key, without regard to case; empty for a key it has not.',
    examples: [['VALUEMAP(fees, "courier")', '14'], ['VALUEMAP(fees, "by hand")', 'empty']],
    returns: T.UNKNOWN, evaluate: elsewhere as never,
  }),
  define({
    name: 'NEXTNUMBER', group: 'data', parameters: [p('series', text)],
    summary: 'The next number of a series. It is taken when the record is saved, so that none is left out or given twice.',
    detail: 'Before, the number shown is provisional. A series begins at 1; give it a name that holds the year to begin anew each year: NEXTNUMBER("lots " & YEAR(TODAY())). It belongs in a default.',
    examples: [['NEXTNUMBER("lots")', '1']],
    returns: T.NUMBER, evaluate: elsewhere as never,
  }),
  define({
    name: 'FEED', group: 'data', parameters: [p('feed', name), p('parameter: value', any, repeats)],
    summary: 'The first item that a feed answers; after a point, one of its attributes.',
    detail: 'Each value is written with the name of the parameter it is for: FEED(weather, site: site.name, day: day).temperature. One call serves all fields that ask the same.',
    examples: [['FEED(weather, day: DATE(2026, 3, 1)).temperature', '6']],
    returns: T.UNKNOWN, evaluate: elsewhere as never,
  }),
  define({
    name: 'LAST', group: 'data', parameters: [p('field', any)],
    summary: 'My record of this form saved last, of those in which a field holds the same as here.',
    detail: 'Without brackets, last is my last record of this form whatever it holds.',
    examples: [['ISBLANK(LAST(word))', 'TRUE']],
    returns: T.UNKNOWN, evaluate: elsewhere as never,
  }),
  define({
    name: 'ATTRIBUTE', group: 'data', parameters: [p('of', any), p('name', text)],
    summary: 'What a row, or JSON, has under a name that is chosen at run time, as a text.',
    examples: [['ATTRIBUTE(species, "name")', 'empty']],
    returns: T.TEXT, evaluate: elsewhere as never,
  }),
  define({
    name: 'TEMPLATE', group: 'data', parameters: [p('text', text)],
    summary: 'Running text with holes: {name}, {day, date, long}, {n, plural, one {# seed} other {# seeds}}.',
    detail: 'The text is an ICU message. A hole holds a name or a path, and may say a format: number, date or time with short, medium, long or full, or a skeleton (::.00). Empty when a hole is empty, but for those that plural and select ask.',
    examples: [['TEMPLATE("{word} on {day, date, long}")', 'empty'], ['TEMPLATE("mode {kind, select, dry {D} other {none}}")', 'mode none']],
    returns: T.TEXT, evaluate: elsewhere as never,
  }),
  define({
    name: 'SAY', group: 'data', parameters: [p('text', text)],
    summary: 'What is said with values in it, as TEMPLATE; an empty hole is left out.',
    examples: [['SAY("mode {word}!")', 'mode !']],
    returns: T.TEXT, evaluate: elsewhere as never,
  }),
  define({
    name: 'FIRST', group: 'list', parameters: [p('list', list)],
    summary: 'The first item of a list.', examples: [['FIRST(JOIN(3, 4))', '3'], ['FIRST(GATHER(species, choice.active)).name', 'Quercus robur']],
    returns: ([of]) => (of?.kind === 'list' ? of.of : T.UNKNOWN), empties: 'given',
    evaluate: ([items]) => (Array.isArray(items) ? ((items as never[])[0] ?? null) : null),
  }),
]; // prettier-ignore
