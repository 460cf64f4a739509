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

/** Words as they stand, or the hole (by its place among the holes) that a value is written into: as it is, or a moment by a format code. */
type Part = string | { readonly hole: number; readonly code: string | null };
interface Prepared {
  /** what is written one after the other, where that is all it takes: no numbers by format, no branches */
  readonly parts: readonly Part[] | null;
  /** what the parts come to, while it is written */
  readonly written: string[];
  /** else the message, its dates and times plain holes of their own which are written before it is */
  readonly message: {
    readonly format: IntlMessageFormat;
    readonly names: readonly string[];
    readonly moments: readonly { readonly name: string; readonly hole: number; readonly code: string }[];
  } | null;
}
const prepared = new WeakMap<Template, Prepared>();

type MomentElement = Extract<MessageFormatElement, { type: TYPE.date | TYPE.time }>;
const isMoment = (e: MessageFormatElement): e is MomentElement => e.type === TYPE.date || e.type === TYPE.time;
const styleOf = ({ style }: MomentElement): string => (typeof style === 'string' ? style.trim() : 'medium');
const codeOf = (e: MomentElement): string => STYLES[e.type === TYPE.date ? 'date' : 'time'][styleOf(e)] ?? styleOf(e);

function prepare({ elements, holes }: Template): Prepared {
  const holeOf = (name: string): number => holes.findIndex((h) => h.path === show(name));
  const parts = elements.flatMap((e): Part[] =>
    e.type === TYPE.literal ? [show(e.value)]
    : e.type === TYPE.argument ? [{ hole: holeOf(e.value), code: null }]
    : isMoment(e) ? [{ hole: holeOf(e.value), code: codeOf(e) }]
    : [],
  ); // prettier-ignore
  if (parts.length === elements.length) return { parts, written: new Array<string>(parts.length).fill(''), message: null };
  const moments: NonNullable<Prepared['message']>['moments'][number][] = [];
  const exchange = (list: readonly MessageFormatElement[]): MessageFormatElement[] =>
    list.map((e): MessageFormatElement => {
      if (isMoment(e)) {
        const name = `${e.value}${USED}${e.type}${USED}${styleOf(e)}`;
        moments.push({ name, hole: holeOf(e.value), code: codeOf(e) });
        return { type: TYPE.argument, value: name };
      }
      if (e.type !== TYPE.select && e.type !== TYPE.plural) return e;
      const options = Object.fromEntries(Object.entries(e.options).map(([k, o]) => [k, { ...o, value: exchange(o.value) }]));
      return { ...e, options };
    });
  const format = new IntlMessageFormat(exchange(elements), 'en-GB', undefined, { ignoreTag: true });
  return { parts: null, written: [], message: { format, names: holes.map((h) => hide(h.path)), moments } };
}

/** Writes the text out with values by hole. `plain` writes the value of a hole where it asks no format. */
export function writeTemplate(template: Template, values: readonly Datum[], plain: (hole: number, value: Datum) => string): string {
  let made = prepared.get(template);
  if (!made) prepared.set(template, (made = prepare(template)));
  let characters = template.length;
  if (made.parts) {
    // put together at once: joined one by one, each step would be a text of its own
    const { written: texts } = made;
    for (let i = 0; i < made.parts.length; i++) {
      const part = made.parts[i] as (typeof made.parts)[number];
      if (typeof part === 'string') {
        texts[i] = part;
        continue;
      }
      const value = values[part.hole] ?? null;
      const written = part.code === null ? plain(part.hole, value) : momentOf(value, part.code);
      characters += written.length;
      checkLength(characters);
      texts[i] = written;
    }
    return texts.join('');
  }
  const { format, names, moments } = made.message as NonNullable<Prepared['message']>;
  const put: Record<string, string | number> = {};
  template.holes.forEach(({ uses, places }, i) => {
    const value = values[i] ?? null;
    const counted = uses.has('number') || uses.has('plural');
    const text = typeof value === 'number' && counted ? value : plain(i, value);
    put[names[i] as string] = text;
    characters += places.length * String(text).length;
    checkLength(characters);
  });
  for (const { name, hole, code } of moments) put[name] = momentOf(values[hole] ?? null, code);
  return show(String(format.format(put)));
}

/** A moment by a format code; nothing where there is none. */
function momentOf(value: Datum, code: string): string {
  if (typeof value !== 'string') return '';
  const formatted = formattedLately(value, code);
  if (!formatted.ok) throw new RangeError(formatted.message);
  return formatted.text;
}
/** Moments as they were written lately: many texts say the same few days. */
const moments = new Map<string, Map<string, ReturnType<typeof formatMoment>>>();
const [MOST_CODES, MOST_MOMENTS] = [50, 100];
function formattedLately(value: string, code: string): ReturnType<typeof formatMoment> {
  const known = moments.get(code)?.get(value);
  if (known) return known;
  const ofCode = moments.get(code) ?? new Map<string, ReturnType<typeof formatMoment>>();
  if (!ofCode.size) keep(moments, code, ofCode, MOST_CODES);
  const made = formatMoment(value, code);
  keep(ofCode, value, made, MOST_MOMENTS);
  return made;
}
/** Keeps something; the oldest goes where there are so many. */
function keep<T>(map: Map<string, T>, key: string, value: T, most: number): void {
  if (map.size >= most) map.delete(map.keys().next().value as string);
  map.set(key, value);
}
