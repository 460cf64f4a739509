import { z } from 'zod';
import type { Row } from '../values/types.ts';
import { foldText } from '../values/text.ts';
import { keySchema } from './tables.ts';

/*
 * Option lists: choices kept by hand, flat or nested. A list is an outline: items in order, each with its depth, so
 * that what one sees in the editor is what is stored.
 */

/** Colours an option may have; each has a letter or sign beside it wherever it is shown. */
export const OPTION_COLOURS = ['moss', 'ochre', 'brick', 'slate', 'plum', 'teal', 'sand', 'ink'] as const;

export const optionItemSchema = z.object({
  /** what is stored; unique in the list without regard to case */
  value: z.string().trim().min(1).max(200),
  label: z.string().trim().min(1).max(200),
  depth: z.number().int().min(0).max(20),
  colour: z.enum(OPTION_COLOURS).nullable().default(null),
  /** a letter or sign that stands with the colour */
  mark: z.string().max(2).nullable().default(null),
  /** not offered any more; records that have it keep it */
  retired: z.boolean().default(false),
});
export type OptionItem = z.infer<typeof optionItemSchema>;

export const optionListSchema = z.object({
  key: keySchema,
  label: z.string().trim().min(1).max(120),
  items: z.array(optionItemSchema).max(20_000),
});
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

/**
 * Reads pasted text as an outline. Indentation (tabs, or spaces in any even step) makes depth; `value = label` where
 * the two differ. Where lines have tabs *between* words, each column is a level and repeated parents count once.
 * Values used before get a number behind.
 */
export function parseOutline(text: string, taken: Iterable<string> = []): OptionItem[] {
  const lines = text.split(/\r?\n/).filter((l) => l.trim() !== '');
  const used = new Set([...taken].map(foldText));
  const unique = (value: string): string => {
    let candidate = value;
    for (let n = 2; used.has(foldText(candidate)); n++) candidate = `${value} ${n}`;
    used.add(foldText(candidate));
    return candidate;
  };
  const make = (written: string, depth: number): OptionItem => {
    const [value = '', label] = written.trim().split(/\s+=\s+(.*)/s);
    return item(label?.trim() || value, unique(value), depth);
  };
  if (lines.some((l) => /\S\t+\S/.test(l))) {
    const found: OptionItem[] = [];
    let path: string[] = [];
    for (const line of lines) {
      const cells = line.split('\t').map((c) => c.trim());
      cells.forEach((cell, depth) => {
        if (cell === '' || (path[depth] === cell && cells.slice(0, depth).every((c, i) => c === '' || c === path[i]))) return;
        path = [...path.slice(0, depth), cell];
        found.push(make(cell, depth));
      });
    }
    return settleDepths(found);
  }
  const indents = lines.map((l) => /^[\t ]*/.exec(l)?.[0].replaceAll('\t', '    ').length ?? 0);
  const steps = [...new Set(indents)].sort((a, b) => a - b);
  return settleDepths(lines.map((l, i) => make(l, steps.indexOf(indents[i] ?? 0))));
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
