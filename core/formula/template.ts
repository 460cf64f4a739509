import { type MessageFormatElement, TYPE, parse } from '@formatjs/icu-messageformat-parser';
import { IntlMessageFormat } from 'intl-messageformat';
import { checkLength } from './functions/define.ts';
import { formatMoment } from './functions/format.ts';
import type { Datum } from '../values/types.ts';

/*
 * Running text with holes: ICU MessageFormat (unicode.org, "Message Format"), with one thing more: a hole may be a path
 * (`{site.name}`), which ICU's argument names do not allow. Points inside words are exchanged for a letter of the private
 * use area while a text is parsed, and back in what is plain text.
 */
const POINT = '\u{E000}';
const hide = (text: string): string => text.replace(/(?<=[\p{L}\p{N}_])\.(?=[\p{L}_])/gu, POINT);
const show = (text: string): string => text.replaceAll(POINT, '.');

export type HoleUse = 'plain' | 'number' | 'date' | 'time' | 'select' | 'plural';
export interface Hole {
  /** the name or path as it is written */
  readonly path: string;
  readonly uses: ReadonlySet<HoleUse>;
  /** where the path stands in the template's text, each time; each may be written out */
  readonly places: readonly number[];
}
export interface Template {
  readonly elements: readonly MessageFormatElement[];
  readonly holes: readonly Hole[];
  /** characters of the template itself */
  readonly length: number;
}

/** Reads a template; or says what is wrong with it, as a sentence. */
export function readTemplate(text: string): { ok: true; template: Template } | { ok: false; message: string } {
  const hidden = hide(text);
  let elements: MessageFormatElement[];
  try {
    elements = parse(hidden, { shouldParseSkeletons: true, ignoreTag: true, requiresOtherClause: true, captureLocation: true });
  } catch (e) {
    const code = e instanceof Error ? e.message : '';
    return { ok: false, message: `The text cannot be read: ${SENTENCES[code] ?? code.toLowerCase().replaceAll('_', ' ')}.` };
  }
  const uses = new Map<string, Set<HoleUse>>();
  const places = new Map<string, number[]>();
  const walk = (list: readonly MessageFormatElement[]): void => {
    for (const e of list) {
      if (e.type === TYPE.literal || e.type === TYPE.pound) continue;
      if (e.type === TYPE.tag) {
        walk(e.children);
        continue;
      }
      const found = uses.get(e.value) ?? new Set<HoleUse>();
      found.add(USES[e.type]);
      uses.set(e.value, found);
      places.set(e.value, [...(places.get(e.value) ?? []), hidden.indexOf(e.value, e.location?.start.offset ?? 0)]);
      if (e.type === TYPE.select || e.type === TYPE.plural) for (const option of Object.values(e.options)) walk(option.value);
    }
  };
  walk(elements);
  const holes = [...uses].map(([name, used]): Hole => ({ path: show(name), uses: used, places: places.get(name) ?? [] }));
  return { ok: true, template: { elements, holes, length: text.length } };
}
const USES = {
  [TYPE.argument]: 'plain',
  [TYPE.number]: 'number',
  [TYPE.date]: 'date',
  [TYPE.time]: 'time',
  [TYPE.select]: 'select',
  [TYPE.plural]: 'plural',
} as const;
const SENTENCES: Readonly<Record<string, string>> = {
  EXPECT_ARGUMENT_CLOSING_BRACE: 'a hole is not closed with }',
  EMPTY_ARGUMENT: 'a hole {} names nothing',
  MALFORMED_ARGUMENT: 'a hole does not hold a name, or a name, a kind and a style',
  INVALID_ARGUMENT_TYPE: 'after the name of a hole, only number, date, time, plural and select can stand',
  MISSING_OTHER_CLAUSE: 'plural and select need a branch called other',
};

/**
 * How dates and times are written, as format codes of TEXT. Intl would write them as the version of its data has it, and the
 * server and the browser must write the same.
 */
const STYLES: Readonly<Record<'date' | 'time', Readonly<Record<string, string>>>> = {
  date: { short: 'dd/mm/yyyy', medium: 'd mmm yyyy', long: 'd mmmm yyyy', full: 'dddd d mmmm yyyy' },
  time: { short: 'hh:mm', medium: 'hh:mm:ss', long: 'hh:mm:ss', full: 'hh:mm:ss' },
};
const USED = '\u{E001}';

/** Words as they stand, or the hole that a value is written into. */
type Part = string | { readonly path: string };
interface Prepared {
  /** what is written one after the other, where that is all it takes: words, and paths of holes that ask no format */
  readonly parts: readonly Part[] | null;
  readonly format: IntlMessageFormat;
  /** what is put into the text: by its name there, the hole and how it is written */
  readonly moments: readonly { readonly name: string; readonly path: string; readonly code: string }[];
}
const prepared = new WeakMap<Template, Prepared>();

/** The message with its dates and times as plain holes of their own, written before it is. */
function prepare(template: Template): Prepared {
  const moments: Prepared['moments'][number][] = [];
  const exchange = (list: readonly MessageFormatElement[]): MessageFormatElement[] =>
    list.map((e): MessageFormatElement => {
      if (e.type === TYPE.date || e.type === TYPE.time) {
        const kind = e.type === TYPE.date ? 'date' : 'time';
        const style = typeof e.style === 'string' ? e.style.trim() : 'medium';
        const name = `${e.value}${USED}${kind}${USED}${style}`;
        moments.push({ name, path: show(e.value), code: STYLES[kind][style] ?? style });
        return { type: TYPE.argument, value: name };
      }
      if (e.type !== TYPE.select && e.type !== TYPE.plural) return e;
      const options = Object.fromEntries(Object.entries(e.options).map(([k, o]) => [k, { ...o, value: exchange(o.value) }]));
      return { ...e, options };
    });
  const elements = exchange(template.elements);
  const parts = elements.flatMap((e): Part[] =>
    e.type === TYPE.literal ? [show(e.value)] : e.type === TYPE.argument && !e.value.includes(USED) ? [{ path: show(e.value) }] : [],
  );
  return {
    parts: parts.length === elements.length ? parts : null,
    moments,
    format: new IntlMessageFormat(elements, 'en-GB', undefined, { ignoreTag: true }),
  };
}

function writeParts(
  parts: readonly Part[],
  length: number,
  values: ReadonlyMap<string, Datum>,
  plain: (path: string, value: Datum) => string,
): string {
  let text = '';
  let characters = length;
  for (const part of parts) {
    if (typeof part === 'string') {
      text += part;
      continue;
    }
    const written = plain(part.path, values.get(part.path) ?? null);
    characters += written.length;
    checkLength(characters);
    text += written;
  }
  return text;
}

/** Writes the text out. `plain` writes a value into a hole that asks no format. */
export function writeTemplate(
  template: Template,
  values: ReadonlyMap<string, Datum>,
  plain: (path: string, value: Datum) => string,
): string {
  let made = prepared.get(template);
  if (!made) prepared.set(template, (made = prepare(template)));
  if (made.parts) return writeParts(made.parts, template.length, values, plain);
  const put: Record<string, string | number> = {};
  let characters = template.length;
  for (const { path, uses, places } of template.holes) {
    const value = values.get(path) ?? null;
    const counted = uses.has('number') || uses.has('plural');
    const text = typeof value === 'number' && counted ? value : plain(path, value);
    put[hide(path)] = text;
    characters += places.length * String(text).length;
    checkLength(characters);
  }
  for (const { name, path, code } of made.moments) {
    const value = values.get(path) ?? null;
    const formatted = typeof value === 'string' ? momentOf(value, code) : null;
    if (formatted && !formatted.ok) throw new RangeError(formatted.message);
    put[name] = formatted?.text ?? '';
  }
  return show(String(made.format.format(put)));
}

/** Moments as they were written lately: many texts say the same few days. */
const moments = new Map<string, ReturnType<typeof formatMoment>>();
const MOST_MOMENTS = 500;
function momentOf(value: string, code: string): ReturnType<typeof formatMoment> {
  const key = `${value} ${code}`;
  let known = moments.get(key);
  if (!known) {
    if (moments.size >= MOST_MOMENTS) moments.delete(moments.keys().next().value as string);
    moments.set(key, (known = formatMoment(value, code)));
  }
  return known;
}
