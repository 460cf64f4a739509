import { choiceMeant, wantsBeside } from '~~/core/engine/meant.ts';
import { textsOf } from '~~/core/engine/named.ts';
import type { Edit } from '~~/core/engine/state.ts';
import { MAX_WANTS } from '~~/core/engine/wants.ts';
import { readCell } from '~~/core/exchange/columns.ts';
import { isSeveral } from '~~/core/model/tables.ts';
import { inQuotes } from '~~/core/values/text.ts';
import type { Datum } from '~~/core/values/types.ts';
import type { PlanField } from '~~/core/engine/plan.ts';

/** A value, or why there is none: '' where the text itself says it. */
type Read = { readonly value: Datum } | { readonly wrong: string };

/**
 * What a pasted text means for a field now: a value of its type, or the candidate that is shown by it. What it has to wait for is yielded;
 * `below` are the texts for the same field in the lines below: what has to be asked of them is asked with it.
 */
function* readText(
  host: EntryHost,
  field: PlanField,
  line: number | null,
  text: string,
  below: Iterable<string>,
): Generator<Promise<unknown>, Read> {
  if (text.trim() === '') return { value: null };
  if (!field.choices) {
    const read = readCell(field.definition.type, text);
    return read.ok ? { value: read.value } : { wrong: '' };
  }
  const entry = host.entry.value!;
  if (entry.offer(field.key, line)?.status === 'loading') yield host.settled();
  const found: Datum[] = [];
  for (const one of textsOf(field, text)) {
    let meant = choiceMeant(entry, field.key, line, one, LOCALE);
    while ('want' in meant) {
      const { want } = meant;
      let failed = '';
      yield host.pages([want, ...wantsBeside(entry, field, want, below, MAX_WANTS - 1)]).then((why) => (failed = why));
      if (!entry.cache.answer(want)) return { wrong: failed };
      meant = choiceMeant(entry, field.key, line, one, LOCALE);
    }
    if (meant.value === undefined) return { wrong: '' };
    found.push(meant.value);
  }
  return { value: isSeveral(field.definition.type) ? (found as Datum) : (found[0] ?? null) };
}
/** The texts of a column of a block from a line on, each choice by itself. */
function* textsBelow(block: readonly (readonly string[])[], field: PlanField, row: number, column: number): Generator<string> {
  for (let r = row; r < block.length; r++) yield* textsOf(field, block[r]?.[column] ?? '');
}

/**
 * Fills lines from a block of cells, left to right and top to bottom from the cell pasted into, adding lines as needed.
 * Cells are taken one after the other, since what one holds decides what the next offers; the screen gets its turn between them, and
 * `turned` is called with how many lines are done. Gives what happened in a sentence.
 */
export async function fieldsOfPaste(
  host: EntryHost,
  key: string,
  paths: readonly string[],
  column: number,
  row: number,
  text: string,
  turned: (done: number, of: number) => void = () => undefined,
): Promise<string> {
  const entry = host.entry.value;
  if (!entry) return '';
  const block = text.replace(/\r?\n$/, '').split(/\r?\n/).map((l) => l.split('\t')); // prettier-ignore
  const first = entry.lines(key)[row];
  let [done, taken] = [0, 0];
  const wrong: string[] = [];
  const edits = function* (): Generator<Edit | Promise<unknown>> {
    // as they stand when its turn comes: lines may be moved or taken out before, and while it goes on
    const all = entry.lines(key);
    const from = first === undefined ? -1 : all.indexOf(first);
    const into = all.slice(from < 0 ? row : from);
    for (const [r, cells] of block.entries()) {
      const line = into[r] ?? entry.freeLine(key);
      if (into[r] === undefined) yield { kind: 'addLine', field: key, line };
      for (const [c, cell] of cells.entries()) {
        const path = paths[column + c];
        // computed columns of the block are skipped: here they compute themselves
        if (path === undefined || !entry.hasLine(key, line) || entry.isLocked(path, line)) continue;
        const field = entry.field(path);
        const read = yield* readText(host, field, line, cell, textsBelow(block, field, r + 1, c));
        if ('wrong' in read)
          wrong.push(`${inQuotes(cell.trim())} for ${field.definition.label} in line ${row + r + 1}${read.wrong && ` (${read.wrong})`}`);
        else if (read.value !== null) {
          yield { kind: 'set', field: path, line, value: read.value };
          taken++;
        }
      }
      done++;
    }
  };
  await host.applyInTurns(edits(), () => turned(done, block.length));
  const counted = (n: number, what: string): string => `${n.toLocaleString(LOCALE)} ${what}${n === 1 ? '' : 's'}`;
  const lines = `${counted(block.length, 'line')}, ${counted(taken, 'value')} pasted.`;
  return wrong.length
    ? `${lines} Not taken: ${wrong.slice(0, 3).join('; ')}${wrong.length > 3 ? ` and ${wrong.length - 3} more` : ''}.`
    : lines;
}
