import { beforeAll, expect, test } from 'vitest';
import type { Row } from '../../core/values/types.ts';
import type { Edit } from '../../core/engine/state.ts';
import { nextNumber } from '../database/series';
import { allRows } from '../database/rows';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { saveEntry } from './entries';

let t: TestWorkspace;
let edits: Edit[];
beforeAll(async () => {
  t = await demoWorkspace();
  const rows = async (table: string): Promise<Row[]> => allRows(t.ws.db, await t.ws.modelTable(table));
  const plant = (await rows('species')).find((s) => s.active && !s.protected) as Row;
  const site = (await rows('sites')).find((s) => s.active) as Row;
  edits = [
    { kind: 'set', field: 'species', value: plant.id },
    { kind: 'set', field: 'region', value: site.region ?? null },
    { kind: 'set', field: 'site', value: site.id },
    { kind: 'set', field: 'quantity_g', value: 5 },
  ];
});
let unique = 0;
const save = (more: readonly Edit[] = [], key = `series ${++unique}`) =>
  saveEntry(t.ws, t.ida, 'lot_intake', null, { version: 1, edits: [...edits, ...more], revision: null, request: key });
const next = (): Promise<number> => nextNumber(t.ws.db, 'lots 2026');
const code = (n: number): string => `MF-2026-${String(n).padStart(4, '0')}`;

test('many who save at once get numbers without gaps and without doubles', async () => {
  const first = await next();
  const saved = await Promise.all(Array.from({ length: 24 }, () => save()));
  const codes = saved.map((s) => String(s.values.code)).sort();
  expect(codes).toEqual(Array.from({ length: 24 }, (_, i) => code(first + i)));
  expect(await next()).toBe(first + 24);
});

test('whatever comes to nothing among them', async () => {
  const first = await next();
  // every third lacks what is required, every fifth has a code of its own, some are sent twice
  const asked = Array.from({ length: 40 }, (_, i): [Edit[], string] => [
    [...(i % 3 === 0 ? [{ kind: 'clear', field: 'quantity_g' } as const] : []), ...(i % 5 === 0 ? [{ kind: 'set', field: 'code', value: `own ${i}` } as const] : [])],
    `among ${i % 7 === 0 && i > 0 ? i - 1 : i}`,
  ]); // prettier-ignore
  const answers = await Promise.allSettled(asked.map(([more, key]) => save(more, key)));
  const codes = new Set(answers.flatMap((a) => (a.status === 'fulfilled' ? [String(a.value.values.code)] : [])));
  const numbered = [...codes].filter((c) => !c.startsWith('own')).sort();
  expect(numbered).toEqual(Array.from({ length: numbered.length }, (_, i) => code(first + i)));
  expect(numbered.length).toBeGreaterThan(15);
  expect(await next()).toBe(first + numbered.length);
});

test('a save that is refused, is typed over, or was done already takes no number', async () => {
  const first = await next();
  expect(await refusal(save([{ kind: 'clear', field: 'quantity_g' }]))).toMatchObject({ status: 422 });
  expect((await save([{ kind: 'set', field: 'code', value: 'mine' }])).values.code).toBe('mine');
  expect(await next()).toBe(first);
  const once = await save([], 'the same');
  expect(await save([], 'the same')).toEqual(once);
  expect(once.values.code).toBe(code(first));
  expect(await next()).toBe(first + 1);
});
