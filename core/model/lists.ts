import type { z } from 'zod';
import type { Row } from '../values/types.ts';
import { foldText, hasWords, soughtWords, textProblem } from '../values/text.ts';
import type { optionItemSchema, optionListSchema } from './schemas.ts';

/*
 * Option lists: choices kept by hand, flat or nested. A list is an outline: items in order, each with its depth, so
 * that what one sees in the editor is what is stored.
 */

/** Colours an option may have; each has a letter or sign beside it wherever it is shown. */
export const OPTION_COLOURS = ['moss', 'ochre', 'brick', 'slate', 'plum', 'teal', 'sand', 'ink'] as const;

/** What a list can hold: choices, characters of each, levels below the top. */
export const MOST_OPTIONS = 20_000;
export const LONGEST_OPTION = 200;
export const DEEPEST_OPTION = 20;
export type OptionItem = z.infer<typeof optionItemSchema>;
export type OptionList = z.infer<typeof optionListSchema>;
export type OptionLists = ReadonlyMap<string, OptionList>;

/** What is wrong with a list, one sentence each: values used twice, steps in the outline that leave out a level. */
export function listProblems(items: readonly OptionItem[]): string[] {
  const problems: string[] = [];
  const seen = new Map<string, string>();
  items.forEach((item, i) => {
    const key = foldText(item.value);
    const other = seen.get(key);
    if (other !== undefined)
      problems.push(`“${item.label}” and “${other}” store the same value “${item.value}”. Each choice needs a value of its own.`);
    seen.set(key, item.label);
    const above = i === 0 ? -1 : (items[i - 1]?.depth ?? -1);
    if (item.depth > above + 1) problems.push(`“${item.label}” is indented by more than one step under what stands above it.`);
  });
  return problems;
}

/** Makes an outline sound: no item deeper than one step below the one above it. */
export function settleDepths(items: readonly OptionItem[]): OptionItem[] {
  let above = -1;
  return items.map((item) => {
    const depth = Math.min(item.depth, above + 1);
    above = depth;
    return depth === item.depth ? item : { ...item, depth };
  });
}

/** An item as it stands in an outline some of whose branches are shut. */
export interface OutlineLine {
  readonly item: OptionItem;
  /** which of the list's items it is, from 0 */
  readonly place: number;
  readonly hasBelow: boolean;
  readonly isShut: boolean;
}

/**
 * The lines of an outline that are seen: all but what is below an item whose value is in `shut`. A line of `before` that is as it was
 * stays the same object.
 */
export function outlineLines(
  items: readonly OptionItem[],
  shut: ReadonlySet<string> = new Set(),
  before: readonly OutlineLine[] = [],
): OutlineLine[] {
  const lines: OutlineLine[] = [];
  for (let place = 0; place < items.length;) {
    const item = items[place]!;
    const hasBelow = (items[place + 1]?.depth ?? 0) > item.depth;
    const isShut = hasBelow && shut.has(item.value);
    const was = before[lines.length];
    const isSame = was?.item === item && was.place === place && was.hasBelow === hasBelow && was.isShut === isShut;
    lines.push(isSame ? was : { item, place, hasBelow, isShut });
    place = isShut ? branchEnd(items, place) : place + 1;
  }
  return lines;
}

const folded = new WeakMap<OptionItem, string>();
/** An item's label and stored value as they are searched; kept with the item, which never changes. */
function searchedText(item: OptionItem): string {
  const known = folded.get(item) ?? foldText(`${item.label}\n${item.value}`);
  folded.set(item, known);
  return known;
}
/** The places of the items that have all words of a text in their label or stored value, in order; none for a text without words. */
export function findOptions(items: readonly OptionItem[], text: string): number[] {
  const words = soughtWords(text);
  return words.length ? items.flatMap((item, place) => (hasWords(searchedText(item), words) ? [place] : [])) : [];
}

/** An item with everything below it: the places from `index` to before the end. */
export function branchEnd(items: readonly OptionItem[], index: number): number {
  const depth = items[index]?.depth ?? 0;
  let end = index + 1;
  while (end < items.length && (items[end]?.depth ?? 0) > depth) end++;
  return end;
}

/** Indents or outdents an item with everything below it; gives the list unchanged where that cannot be. */
export function indentBranch(items: readonly OptionItem[], index: number, by: 1 | -1): readonly OptionItem[] {
  const item = items[index];
  if (!item || item.depth + by < 0) return items;
  if (by > 0 && item.depth + 1 > (items[index - 1]?.depth ?? -1) + 1) return items;
  const end = branchEnd(items, index);
  return settleDepths(items.map((x, i) => (i >= index && i < end ? { ...x, depth: x.depth + by } : x)));
}

/** Moves an item with everything below it past its neighbour of the same depth. Gives the list and its new place. */
export function moveBranch(items: readonly OptionItem[], index: number, by: 1 | -1): { items: readonly OptionItem[]; index: number } {
  const item = items[index];
  if (!item) return { items, index };
  const end = branchEnd(items, index);
  const branch = items.slice(index, end);
  if (by > 0) {
    const next = items[end];
    if (!next || next.depth !== item.depth) return { items, index };
    const nextEnd = branchEnd(items, end);
    return {
      items: [...items.slice(0, index), ...items.slice(end, nextEnd), ...branch, ...items.slice(nextEnd)],
      index: index + nextEnd - end,
    };
  }
  let before = index - 1;
  while (before >= 0 && (items[before]?.depth ?? 0) > item.depth) before--;
  if (before < 0 || items[before]?.depth !== item.depth) return { items, index };
  return { items: [...items.slice(0, before), ...branch, ...items.slice(before, index), ...items.slice(end)], index: before };
}

const item = (label: string, value: string, depth: number): OptionItem => ({
  value,
  label,
  depth,
  colour: null,
  mark: null,
  retired: false,
});

/** `value = label`, with white space around the sign; a label alone has none. */
function valueAndLabel(written: string): { value: string; label: string | null } {
  for (let at = written.indexOf('='); at > 0; at = written.indexOf('=', at + 1)) {
    if (!/\s/.test(written[at - 1] ?? '') || !/\s/.test(written[at + 1] ?? '')) continue;
    const [value, label] = [written.slice(0, at).trim(), written.slice(at + 1).trim()];
    if (value !== '') return { value, label: label || value };
  }
  return { value: written, label: null };
}

/** Reads pasted text as the items of a list, or says why a list cannot be made of it, one sentence each. */
export function readOutline(text: string, taken: Iterable<string> = []): { items: OptionItem[]; problems: string[] } {
  let count = 0;
  for (let at = 0; at >= 0 && count <= MOST_OPTIONS; at = text.indexOf('\n', at + 1)) count++;
  if (count > MOST_OPTIONS && text.split(/\r?\n/).filter((l) => l.trim() !== '').length > MOST_OPTIONS)
    return { items: [], problems: [`A list holds at most ${MOST_OPTIONS.toLocaleString('en')} choices.`] };
  const items = parseOutline(text, taken);
  const problems: string[] = [];
  for (const { value, label, depth } of items) {
    const name = label.length > 60 ? `${label.slice(0, 60)}…` : label;
    if (value.length > LONGEST_OPTION || label.length > LONGEST_OPTION)
      problems.push(`“${name}” is longer than ${LONGEST_OPTION} characters.`);
    if (depth > DEEPEST_OPTION) problems.push(`“${name}” stands on level ${depth + 1}; a list has at most ${DEEPEST_OPTION + 1} levels.`);
    const odd = textProblem(value) ?? textProblem(label);
    if (odd !== null) problems.push(`“${name}” ${odd}`);
    if (problems.length >= 20) break;
  }
  return { items, problems: [...problems, ...listProblems(items)] };
}

/**
 * Reads pasted text as an outline. Indentation (tabs, or spaces in any even step) makes depth; `value = label` where
 * the two differ. Where lines have tabs *between* words, each column is a level and repeated parents count once.
 * Labels used before get a number behind as their value; values that are written out stay (see `readOutline`).
 */
export function parseOutline(text: string, taken: Iterable<string> = []): OptionItem[] {
  const lines = text.split(/\r?\n/).filter((l) => l.trim() !== '');
  const used = new Set([...taken].map(foldText));
  // where counting goes on for a text that was met before, so that a thousand alike are not counted from the start each time
  const next = new Map<string, number>();
  const unique = (value: string): string => {
    let candidate = value;
    for (let n = next.get(foldText(value)) ?? 2; used.has(foldText(candidate)); n++) {
      candidate = `${value} ${n}`;
      next.set(foldText(value), n + 1);
    }
    used.add(foldText(candidate));
    return candidate;
  };
  const make = (written: string, depth: number): OptionItem => {
    const { value, label } = valueAndLabel(written.trim());
    // a value that somebody wrote is theirs: one written twice is a mistake to be told, not to be mended here
    return label === null ? item(value, unique(value), depth) : item(label, value, depth);
  };
  if (lines.some((l) => /\S\t+\S/.test(l))) {
    const found: OptionItem[] = [];
    let path: string[] = [];
    for (const line of lines) {
      // more cells than there can be levels are not read; the first of them is told as too deep
      const cells = line.split('\t', DEEPEST_OPTION + 2).map((c) => c.trim());
      cells.forEach((cell, depth) => {
        if (cell === '' || (path[depth] === cell && cells.slice(0, depth).every((c, i) => c === '' || c === path[i]))) return;
        path = [...path.slice(0, depth), cell];
        found.push(make(cell, depth));
      });
    }
    return settleDepths(found);
  }
  const indents = lines.map((l) => /^[\t ]*/.exec(l)?.[0].replaceAll('\t', '    ').length ?? 0);
  const steps = new Map([...new Set(indents)].sort((a, b) => a - b).map((indent, depth) => [indent, depth]));
  return settleDepths(lines.map((l, i) => make(l, steps.get(indents[i] ?? 0) ?? 0)));
}

/** Names of the columns that a narrowing may ask of an option. */
export const OPTION_COLUMNS = ['value', 'label', 'parent', 'level', 'retired'] as const;

/**
 * A list as candidate rows, in order: value, label, the value of the parent, level (1 is the top), the labels above
 * (`path`), whether it is retired. `level` null takes all levels.
 */
export function optionRowsOf(list: OptionList, level: number | null): Row[] {
  const above: OptionItem[] = [];
  const rows: Row[] = [];
  list.items.forEach((option, i) => {
    above.length = option.depth;
    if (level === null || option.depth === level - 1) {
      const parent = above.at(-1);
      rows.push({
        id: i + 1,
        value: option.value,
        label: option.label,
        parent: parent?.value ?? null,
        level: option.depth + 1,
        path: above.map((a) => a.label).join(' › '),
        retired: option.retired || above.some((a) => a.retired),
        colour: option.colour,
        mark: option.mark,
      });
    }
    above.push(option);
  });
  return rows;
}

/** How many levels a list has. */
export const levelsOf = (list: OptionList): number => list.items.reduce((most, i) => Math.max(most, i.depth + 1), 0);
