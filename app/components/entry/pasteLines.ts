import { choiceNamed } from '~~/core/engine/named.ts';
import { addressOf } from '~~/core/engine/state.ts';
import { readCell } from '~~/core/exchange/columns.ts';
import type { Datum } from '~~/core/values/types.ts';
import type { PlanField } from '~~/core/engine/plan.ts';

type Read = { readonly value: Datum } | { readonly wrong: true };

/** What a pasted text means for a field now: a value of its type, or the candidate that is shown by it. */
function readText(host: EntryHost, address: string, field: PlanField, text: string): Read {
  if (text.trim() === '') return { value: null };
  if (field.choices) {
    const offered = host.view(address).offer?.rows ?? [];
    const value = choiceNamed(host.entry.value!.plan, field, offered, text, host.cache(), LOCALE);
    return value === undefined ? { wrong: true } : { value };
  }
  const read = readCell(field.definition.type, text);
  return read.ok ? { value: read.value } : { wrong: true };
}

/**
 * Fills lines from a block of cells, left to right and top to bottom from the cell pasted into, adding lines as needed.
 * Cells are taken one after the other, since what one holds decides what the next offers. Gives what happened in a sentence.
 */
export function fieldsOfPaste(host: EntryHost, key: string, paths: readonly string[], column: number, row: number, text: string): string {
  const entry = host.entry.value;
  if (!entry) return '';
  const block = text.replace(/\r?\n$/, '').split(/\r?\n/).map((l) => l.split('\t')); // prettier-ignore
  let taken = 0;
  const wrong: string[] = [];
  for (const [r, cells] of block.entries()) {
    let line = entry.lines(key)[row + r];
    if (line === undefined) {
      line = entry.freeLine(key);
      host.apply([{ kind: 'addLine', field: key, line }]);
    }
    for (const [c, cell] of cells.entries()) {
      const path = paths[column + c];
      if (path === undefined) continue;
      const address = addressOf(path, line);
      const field = entry.field(path);
      // computed columns of the block are skipped: here they compute themselves
      if (host.view(address).locked) continue;
      const read = readText(host, address, field, cell);
      if ('wrong' in read) wrong.push(`“${cell.trim()}” for ${field.definition.label} in line ${row + r + 1}`);
      else if (read.value !== null) {
        host.set(address, read.value);
        taken++;
      }
    }
  }
  const lines = `${block.length} ${block.length === 1 ? 'line' : 'lines'}, ${taken} ${taken === 1 ? 'value' : 'values'} pasted.`;
  return wrong.length
    ? `${lines} Not taken: ${wrong.slice(0, 3).join('; ')}${wrong.length > 3 ? ` and ${wrong.length - 3} more` : ''}.`
    : lines;
}
