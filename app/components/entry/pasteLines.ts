import { choiceNamed } from '~~/core/engine/named.ts';
import { type Edit, addressOf, parseAddress } from '~~/core/engine/state.ts';
import { readCell } from '~~/core/exchange/columns.ts';
import type { Datum } from '~~/core/values/types.ts';
import type { PlanField } from '~~/core/engine/plan.ts';

type Read = { readonly value: Datum } | { readonly wrong: true };
const WRONG: Read = { wrong: true };

/** What can be searched for, in characters. */
const LONGEST_SEARCH = 200;
/** How many candidates of a large list are looked at for the one that is meant. */
const LOOKED_AT = 20;

/** What a pasted text means for a field now: a value of its type, or the candidate that is shown by it. What it has to wait for is yielded. */
function* readText(host: EntryHost, address: string, field: PlanField, text: string): Generator<Promise<unknown>, Read> {
  if (text.trim() === '') return { value: null };
  if (!field.choices) {
    const read = readCell(field.definition.type, text);
    return read.ok ? { value: read.value } : WRONG;
  }
  const entry = host.entry.value!;
  const { field: path, line } = parseAddress(address);
  if (entry.offer(path, line)?.status === 'loading') yield host.settled();
  let rows = entry.offer(path, line)?.rows;
  if (!rows) {
    const asked = [address, text.trim().slice(0, LONGEST_SEARCH), 0, LOOKED_AT] as const;
    if (!host.pageKnown(...asked)) yield host.page(...asked);
    rows = host.pageKnown(...asked)?.rows ?? [];
  }
  const value = choiceNamed(entry.plan, field, rows, text, host.cache(), LOCALE);
  return value === undefined ? WRONG : { value };
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
        const read = yield* readText(host, addressOf(path, line), field, cell);
        if ('wrong' in read) wrong.push(`“${cell.trim()}” for ${field.definition.label} in line ${row + r + 1}`);
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
