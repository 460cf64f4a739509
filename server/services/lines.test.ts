import fc from 'fast-check';
import { beforeAll, expect, test } from 'vitest';
import { parseForm } from '../../core/form/schemas.ts';
import type { Edit } from '../../core/engine/state.ts';
import { createTable } from '../database/model';
import { historyOf } from '../database/history';
import { childRows } from '../database/rows';
import { columnSchema } from '../../core/model/schemas.ts';
import { type TestWorkspace, bareWorkspace } from '../testing/workspace';
import { type Saved, saveEntry } from './entries';
import { openForEntry } from './opening';
import { addForm } from './forms';
import { publish } from './publishing';

/* Lines as they are saved: many at once, new ones among those that were there. */
let t: TestWorkspace;
const field = (label: string, type: string, more: object = {}) => ({ label, type, column: label.toLowerCase(), ...more });
beforeAll(async () => {
  t = await bareWorkspace();
  await createTable(t.ws.db, { key: 'trays', label: 'Trays', shown: null, columns: [] });
  const columns = [
    columnSchema.parse({ key: 'tray', label: 'Tray', type: 'link', target: 'trays' }),
    columnSchema.parse({ key: 'place', label: 'Place', type: 'number' }),
  ];
  await createTable(t.ws.db, { key: 'pots', label: 'Pots', shown: null, columns });
  t.ws.modelChanged();
  const form = parseForm({
    key: 'tray', label: 'Tray', table: 'trays',
    pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: ['name', 'seeds', 'pots'] }] }],
    fields: { name: field('Name', 'text'), seeds: field('Seeds', 'number', { value: { kind: 'calculation', formula: 'SUM(pots.sown)' } }) },
    lines: { pots: { label: 'Pots', table: 'pots', link: 'tray', order: 'place', start: 0, columns: ['mark', 'sown'], fields: { mark: field('Mark', 'text'), sown: field('Sown', 'number') } } },
  }); // prettier-ignore
  await addForm(t.ws, t.maud, form);
  await publish(t.ws, t.maud, 'tray', null);
});
let saves = 0;
const save = (id: number | null, revision: number | null, edits: readonly Edit[]): Promise<Saved> =>
  saveEntry(t.ws, t.maud, 'tray', id, { version: 1, edits, revision, request: `lines ${++saves}` });
const pots = async (id: number) => childRows(t.ws.db, await t.ws.modelTable('pots'), 'tray', id, 'place');
const added = (line: number, mark: string, sown: number): Edit[] => [
  { kind: 'addLine', field: 'pots', line },
  { kind: 'set', field: 'pots.mark', line, value: mark },
  { kind: 'set', field: 'pots.sown', line, value: sown },
];
const named: Edit = { kind: 'set', field: 'name', value: 'East bench' };

test('many new lines stand in their order, each in the row that is said, each with its history', async () => {
  const edits = Array.from({ length: 60 }, (_, i) => added(-1 - i, `pot ${i}`, i)).flat();
  const saved = await save(null, null, [named, ...edits]);
  const rows = await pots(saved.id);
  expect(rows.map((r) => r.row.mark)).toEqual(Array.from({ length: 60 }, (_, i) => `pot ${i}`));
  expect(saved.values.seeds).toBe((59 * 60) / 2);
  const told = saved.lines.pots ?? [];
  expect(told.map((l) => l.line)).toEqual(Array.from({ length: 60 }, (_, i) => -1 - i));
  // what is told of a line is what stands in the row it names
  for (const { id, values } of told) expect(rows.find((r) => r.row.id === id)?.row).toMatchObject(values);
  for (const { row } of rows) {
    const [made, ...others] = await historyOf(t.ws.db, 'pots', row.id);
    expect(others).toEqual([]);
    expect(made).toMatchObject({ kind: 'created', changes: { mark: [null, row.mark], sown: [null, row.sown] }, origins: { mark: 'typed', sown: 'typed' } }); // prettier-ignore
  }
});

/** What is done to a record’s lines: in the form of somebody who sees how many there are. */
type Done = { readonly what: 'add' | 'addFirst' | 'remove' | 'move' | 'change'; readonly at: number };
const done = fc.array(fc.record({ what: fc.constantFrom<Done['what']>('add', 'add', 'addFirst', 'remove', 'move', 'change'), at: fc.nat() }), { minLength: 1, maxLength: 40 }); // prettier-ignore

test('lines that are added, taken out, moved and changed in one save stand as somebody left them', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(done, { minLength: 1, maxLength: 3 }), async (rounds) => {
      let saved = await save(null, null, [named, ...added(-1, 'first', 1)]);
      let marks = ['first'];
      for (const round of rounds) {
        const edits: Edit[] = [];
        const lines = (await pots(saved.id)).map((r) => r.row.id);
        let lowest = 0;
        const mark = (line: number, at: number, value: string): void => {
          edits.push({ kind: 'set', field: 'pots.mark', line, value });
          marks[at] = value;
        };
        for (const { what, at } of round) {
          const place = lines.length ? at % lines.length : 0;
          if (what === 'add' || what === 'addFirst') {
            const to = what === 'add' ? lines.length : 0;
            edits.push({ kind: 'addLine', field: 'pots', line: --lowest, ...(what === 'add' ? {} : { at: 0 }) });
            lines.splice(to, 0, lowest);
            marks.splice(to, 0, '');
            mark(lowest, to, `new ${saves} ${lowest}`);
          } else if (!lines.length) continue;
          else if (what === 'change') mark(lines[place] as number, place, `other ${at}`);
          else if (what === 'remove') {
            edits.push({ kind: 'removeLine', field: 'pots', line: lines[place] as number });
            lines.splice(place, 1);
            marks = marks.filter((_, i) => i !== place);
          } else {
            edits.push({ kind: 'moveLine', field: 'pots', line: lines[place] as number, to: 0 });
            lines.unshift(...lines.splice(place, 1));
            marks.unshift(...marks.splice(place, 1));
          }
        }
        saved = await save(saved.id, saved.revision, edits);
        const rows = await pots(saved.id);
        expect(rows.map((r) => r.row.mark)).toEqual(marks);
        expect((saved.lines.pots ?? []).map((l) => l.id)).toEqual(rows.map((r) => r.row.id));
        const opened = await openForEntry(t.ws, t.maud, 'tray', saved.id);
        expect(opened.record?.lines?.pots?.map((l) => l.values.mark)).toEqual(marks);
      }
    }),
    { numRuns: 100 },
  );
});
