import { beforeAll, describe, expect, test } from 'vitest';
import type { Edit } from '../../core/engine/state.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { loadScale } from '../demo/scale';
import { allRows } from '../database/rows';
import { createTable } from '../database/model';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { saveEntry } from './entries';
import { addForm } from './forms';
import { publish } from './publishing';

/* A client that sends what no list offers is refused, whatever the list is made of; nothing is stored. */
let t: TestWorkspace;
const rows = async (table: string): Promise<Row[]> => allRows(t.ws.db, await t.ws.modelTable(table));
let site: Row;
let plant: Row;
beforeAll(async () => {
  t = await demoWorkspace();
  site = (await rows('sites')).find((s) => s.active) as Row;
  plant = (await rows('species')).find((s) => s.active && !s.protected) as Row;
  await loadScale(t.ws, 4000);
  await createTable(t.ws.db, { key: 'oddments', label: 'Oddments', shown: null, columns: [] });
  t.ws.modelChanged();
  const field = (type: string, source: object): object => ({ label: type, type, column: null, source });
  const fields = {
    site: { ...field('link', { kind: 'rows', table: 'sites', show: 'name' }), column: 'site' },
    trait: { ...field('choice', { kind: 'attributes', of: 'site' }), column: 'trait' },
    json: { ...field('choice', { kind: 'json', text: '["a", "b"]' }), column: 'json_choice' },
    regions: { ...field('links', { kind: 'rows', table: 'regions', show: 'name', where: 'choice.name <> "Outer Islands"' }), column: 'regions' },
    marks: { ...field('choices', { kind: 'options', options: [{ value: 'x', label: 'X' }, { value: 'y', label: 'Y' }] }), column: 'marks' },
  }; // prettier-ignore
  const pages = [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: Object.keys(fields) }] }];
  await addForm(t.ws, t.maud, parseForm({ key: 'oddment', label: 'Oddment', table: 'oddments', pages, fields }));
  await publish(t.ws, t.maud, 'oddment', null);
});
let unique = 0;
const save = (form: string, values: Record<string, Datum>, more: readonly Edit[] = []) =>
  saveEntry(t.ws, t.ida, form, null, {
    version: 1,
    edits: [...Object.entries(values).map(([field, value]): Edit => ({ kind: 'set', field, value })), ...more],
    revision: null,
    request: `forged ${++unique}`,
  });
const lot = (): Record<string, Datum> => ({ species: plant.id, region: site.region ?? null, site: site.id, quantity_g: 5 });
const issuesOf = async (work: Promise<unknown>): Promise<Record<string, string>> => (await refusal(work)).details.issues as Record<string, string>; // prettier-ignore
const countOf = async (table: string): Promise<number> => Number(((await t.ws.db(`data_${table}`).count({ n: '*' })) as { n: number }[])[0]?.n); // prettier-ignore

describe('forged choices', () => {
  test('what is offered is taken', async () => {
    await save('lot_intake', { ...lot(), purity: 'clean' });
    await save('oddment', { site: site.id, trait: 'name', json: 'a', regions: [site.region as number], marks: ['x', 'y'] });
  });

  test.each([
    ['a row narrowed away', 'lot_intake', 'site', async () => ({ ...lot(), site: (await rows('sites')).find((s) => s.region !== site.region)?.id ?? 0 })],
    ['a row of a subset that is not in it', 'bench_task', 'site', async () => ({ task: 'Turn the trays', site: (await rows('sites')).find((s) => !s.active)?.id ?? 0 })],
    ['a row that is not there', 'lot_intake', 'species', async () => ({ ...lot(), species: 999_999 })],
    ['a retired row', 'lot_intake', 'species', async () => ({ ...lot(), species: (await rows('species')).find((s) => !s.active)?.id ?? 0 })],
    ['a choice typed in place', 'lot_intake', 'purity', async () => ({ ...lot(), purity: 'golden' })],
    ['a value of a column', 'lot_intake', 'habitat', async () => ({ ...lot(), habitat: 'The moon' })],
    ['an item of a feed', 'lot_intake', 'accepted_name', async () => ({ ...lot(), accepted_name: 'Nomen inventum' })],
    ['a level of an option list', 'seed_request', 'detail', async () => ({ purpose: 'research', detail: 'nothing' })],
    ['a row of a large table', 'sheet_loan', 'sheet', async () => ({ cabinet: 1, sheet: 999_999 })],
    ['an attribute of a row', 'oddment', 'trait', async () => ({ site: site.id, trait: 'password' })],
    ['JSON typed in', 'oddment', 'json', async () => ({ json: 'c' })],
    ['one of several rows', 'oddment', 'regions', async () => ({ regions: [site.region as number, (await rows('regions')).find((r) => r.name === 'Outer Islands')?.id ?? 0] })],
    ['one of several choices', 'oddment', 'marks', async () => ({ marks: ['x', 'z'] })],
  ] as const)('%s', async (_, form, field, values) => {
    const table = { lot_intake: 'lots', bench_task: 'bench_tasks', seed_request: 'requests', sheet_loan: 'sheet_loans', oddment: 'oddments' }[form];
    const before = await countOf(table);
    const issues = await issuesOf(save(form, await values()));
    expect(Object.keys(issues)).toContain(field);
    expect(await countOf(table)).toBe(before);
  }); // prettier-ignore

  test('inside a line, with its place', async () => {
    const off = (await rows('species')).find((s) => !s.active)?.id ?? 0;
    const issues = await issuesOf(save('seed_request', {}, [{ kind: 'set', field: 'packets.species', line: -1, value: off }]));
    expect(Object.keys(issues)).toContain('packets.species#-1');
    const noLine = await issuesOf(save('seed_request', {}, [{ kind: 'set', field: 'packets.species', line: 77, value: plant.id }]));
    expect(noLine['packets.species#77']).toMatch(/no longer exists/);
  });

  test('a calculation, a locked value, a file that nobody sent', async () => {
    expect((await issuesOf(save('lot_intake', { ...lot(), seeds: 5 }))).seeds).toMatch(/is calculated/);
    const guarded = (await rows('species')).find((s) => s.active && s.protected) as Row;
    expect((await issuesOf(save('lot_intake', { ...lot(), species: guarded.id, permit: 424_242 }))).permit).toMatch(/no such file/);
  });
});
