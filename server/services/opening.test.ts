import { beforeAll, describe, expect, test, vi } from 'vitest';
import type { AnswerOf } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { DataCache } from '../../core/engine/cache.ts';
import { compileForm } from '../../core/engine/compile.ts';
import * as engine from '../../core/engine/entry.ts';
import type { Edit } from '../../core/engine/state.ts';
import { recordOfTold } from '../../core/engine/told.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { loadScale } from '../demo/scale';
import { createTable } from '../database/model';
import { type TestWorkspace, demoWorkspace } from '../testing/workspace';
import { saveEntry } from './entries';
import { addForm } from './forms';
import { openForEntry } from './opening';
import { publish } from './publishing';

/* Records with many lines, as they are opened: the answer has all that their entry wants, whichever of their lines were asked for it. */

let t: TestWorkspace;
const LINES = 120;
const field = (label: string, type: string, more: object = {}) => ({ label, type, column: label.toLowerCase(), ...more });
const row = (label: string, table: string): object => field(label, 'link', { source: { kind: 'rows', table, show: 'name' } });
/** A form over trays with pots, whose fields of lines are given; its pots stand in a table of their own. */
async function trayForm(
  key: string,
  linked: string,
  of: Record<string, object>,
  own: Record<string, object> = {},
  rules: readonly object[] = [],
): Promise<void> {
  const [trays, pots] = [`${key}_trays`, `${key}_pots`];
  await createTable(t.ws.db, {
    key: trays,
    label: key,
    shown: null,
    columns: [columnSchema.parse({ key: 'sheet', label: 'Sheet', type: 'link', target: 'herbarium_sheets' })],
  });
  const columns = [
    columnSchema.parse({ key: 'tray', label: 'Tray', type: 'link', target: trays }),
    columnSchema.parse({ key: 'place', label: 'Place', type: 'number' }),
    columnSchema.parse({ key: 'of', label: 'Of', type: 'link', target: linked }),
    columnSchema.parse({ key: 'seen', label: 'Seen', type: 'text' }),
  ];
  await createTable(t.ws.db, { key: pots, label: `${key} pots`, shown: null, columns });
  t.ws.modelChanged();
  const fields = { name: field('Name', 'text'), ...own };
  const form = parseForm({
    key, label: key, table: trays, fields, rules,
    pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: [...Object.keys(fields), 'pots'] }] }],
    lines: { pots: { label: 'Pots', table: pots, link: 'tray', order: 'place', start: 0, columns: Object.keys(of), fields: of } },
  }); // prettier-ignore
  await addForm(t.ws, t.maud, form);
  await publish(t.ws, t.maud, key, null);
}
async function saved(key: string, rows: readonly number[], more: readonly Edit[] = []): Promise<number> {
  const edits: Edit[] = [{ kind: 'set', field: 'name', value: 'East bench' }, ...more];
  rows.forEach((id, i) =>
    edits.push({ kind: 'addLine', field: 'pots', line: -1 - i }, { kind: 'set', field: 'pots.of', line: -1 - i, value: id }),
  );
  return (await saveEntry(t.ws, t.maud, key, null, { version: 1, edits, revision: null, request: `${key} ${rows.length} ${more.length}` }))
    .id;
}
/** The entry as a browser has it, and how many lines were worked out on the server to open it. */
async function opened(key: string, id: number, who = t.maud): Promise<{ entry: engine.Entry; told: string; worked: number }> {
  const opening = vi.spyOn(engine, 'openEntryInSteps');
  const answer = JSON.parse(JSON.stringify(await openForEntry(t.ws, who, key, id))) as AnswerOf<typeof contract.entries.open>;
  const worked = opening.mock.calls.reduce((n, [, , , record]) => n + (record?.lines?.pots?.length ?? 0), 0);
  opening.mockRestore();
  const named = <T extends { readonly key: string }>(all: readonly T[]): Map<string, T> => new Map(all.map((x) => [x.key, x]));
  const plan = compileForm(answer.form, named(answer.tables), named(answer.lists), named(answer.feeds));
  const cache = new DataCache();
  cache.supply(answer.answered, () => null);
  const entry = engine.openEntry(plan, { ...answer.context, mode: 'edit' }, cache, answer.record && recordOfTold(answer.record));
  return { entry, told: JSON.stringify(answer), worked };
}

beforeAll(async () => {
  t = await demoWorkspace();
  await loadScale(t.ws, 4000);
});

describe('a record with many lines', () => {
  test('of whose tables all are small: the first lines say what all of them want', async () => {
    await trayForm('few', 'species', { of: row('Of', 'species'), seen: field('Seen', 'text', { value: { kind: 'calculation', formula: 'of.name' } }) }); // prettier-ignore
    const species = (await t.ws.db('data_species').where({ active: 1 }).orderBy('id')) as { id: number }[];
    const rows = Array.from({ length: LINES }, (_, i) => species[i % species.length]!.id);
    const { entry, told, worked } = await opened('few', await saved('few', rows));
    expect(entry.wants).toEqual([]);
    expect(entry.lines('pots').map((line) => entry.value('pots.of', line))).toEqual(rows);
    const came = entry.lines('pots').map((line) => [entry.state('pots.of', line).origin, entry.state('pots.seen', line).origin]);
    expect(came).toEqual(
      rows.map(() => [
        { kind: 'stored', was: { kind: 'chosen' } },
        { kind: 'stored', was: { kind: 'calculation' } },
      ]),
    );
    // which is said once for all of them
    expect(told.match(/"calculation"/g)?.length).toBeLessThan(5);
    expect(worked).toBeLessThan(LINES);
  });

  test('that read rows of a large table, each its own: all are asked', async () => {
    await trayForm('large', 'herbarium_sheets', { of: row('Of', 'herbarium_sheets'), seen: field('Seen', 'text', { value: { kind: 'calculation', formula: 'of.name' } }) }); // prettier-ignore
    const sheets = (await t.ws.db('data_herbarium_sheets').orderBy('id').limit(LINES)) as { id: number; name: string }[];
    const { entry, worked } = await opened('large', await saved('large', sheets.map((s) => s.id))); // prettier-ignore
    expect(entry.wants).toEqual([]);
    expect(entry.lines('pots').map((line) => entry.value('pots.seen', line))).toEqual(sheets.map((s) => s.name));
    expect(worked).toBeGreaterThanOrEqual(LINES);
  });

  test('whose form itself reads a large table: its lines are still not worked out for that', async () => {
    await trayForm('mixed', 'species', { of: row('Of', 'species') }, { sheet: row('Sheet', 'herbarium_sheets') }); // prettier-ignore
    const species = (await t.ws.db('data_species').where({ active: 1 }).orderBy('id')) as { id: number }[];
    const { entry, worked } = await opened('mixed', await saved('mixed', Array.from({ length: LINES }, (_, i) => species[i % species.length]!.id), [{ kind: 'set', field: 'sheet', value: 7 }])); // prettier-ignore
    expect(entry.wants).toEqual([]);
    expect(entry.value('sheet')).toBe(7);
    expect(worked).toBeLessThan(LINES);
  });

  test('of which something may be withheld from somebody: it is, of the last line too', async () => {
    const rule = { id: 'few', label: 'To few', when: '"designer" IN (me.roles)', then: [{ kind: 'show', field: 'pots.seen' }] };
    await trayForm('secret', 'species', { of: row('Of', 'species'), seen: field('Seen', 'text', { value: { kind: 'prefill', formula: '"told to few"' } }) }, {}, [rule]); // prettier-ignore
    const species = (await t.ws.db('data_species').where({ active: 1 }).orderBy('id')) as { id: number }[];
    const id = await saved('secret', Array.from({ length: LINES }, (_, i) => species[i % species.length]!.id)); // prettier-ignore
    expect((await opened('secret', id)).told.match(/told to few/g)?.length).toBeGreaterThanOrEqual(LINES);
    const { entry, told } = await opened('secret', id, t.ida);
    expect(entry.wants).toEqual([]);
    expect(entry.lines('pots')).toHaveLength(LINES);
    // the form itself says so once, the record nowhere; and where it came from is not told either
    expect(told.match(/told to few/g)).toHaveLength(1);
    const { lineOrigins } = (JSON.parse(told) as { record: { lineOrigins: unknown } }).record;
    expect(lineOrigins).toEqual([{ lines: expect.any(Array) as unknown, origins: { 'pots.of': { kind: 'chosen' } } }]);
  });
});
