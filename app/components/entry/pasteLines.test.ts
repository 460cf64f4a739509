import { expect, test, vi } from 'vitest';
import { compileForm } from '../../../core/engine/compile.ts';
import type { Answered, Want } from '../../../core/engine/wants.ts';
import { CONTEXT, LARGE_TABLES, SEEDBANK, SEEDBANK_TABLES, answer, packingForm } from '../../../core/testing/seedbank.ts';
import { type EntryHost, useEntryHost } from '../../composables/useEntryHost';
import { fieldsOfPaste } from './pasteLines';

const LINES = {
  species: { label: 'Species', type: 'link', source: { kind: 'rows', table: 'species', show: 'name', sort: ['name'], where: 'choice.active' } },
  packets: { label: 'Packets', type: 'number' },
  total: { label: 'Total', type: 'number', value: { kind: 'calculation', formula: 'packets * 12.35' } },
}; // prettier-ignore
const PATHS = ['packings.species', 'packings.packets', 'packings.total'];
const species = SEEDBANK.find((t) => t.key === 'species')!.data;

async function opened(tables = SEEDBANK_TABLES, fetch = (w: readonly Want[]) => Promise.resolve(answer(w))): Promise<EntryHost> {
  const plan = compileForm(packingForm({}, LINES), tables);
  expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
  const host = useEntryHost(fetch);
  host.open(plan, CONTEXT, null);
  await host.settled();
  return host;
}
const stands = (host: EntryHost) =>
  host.lines('packings').ids.map((line) => PATHS.map((path) => host.view(`${path}#${line}`).value)) as unknown[][];

test('a block fills lines from where it is pasted, adds what is missing, and says what it could not take', async () => {
  const host = await opened();
  const said = await fieldsOfPaste(host, 'packings', PATHS, 0, 0, 'quercus robur\t3\t99\r\nRosa canina\t1.5\r\nRosa nova\tmany\r\n\t4\r\n');
  expect(stands(host)).toEqual([
    [101, 3, 37.05],
    [201, 1.5, 18.525],
    [null, null, null],
    [null, 4, 49.4],
  ]);
  expect(said).toBe('4 lines, 5 values pasted. Not taken: “Rosa nova” for Species in line 3; “many” for Packets in line 3.');
  // into the second column of the last line, and on
  expect(await fieldsOfPaste(host, 'packings', PATHS, 1, 3, '7\n8')).toBe('2 lines, 2 values pasted.');
  expect(stands(host).slice(3)).toEqual([[null, 7, 86.45], [null, 8, 98.8]]); // prettier-ignore
});

test('a large block leaves the screen its turns; what is typed beside it and lines taken out meanwhile stay so', async () => {
  const host = await opened();
  const text = Array.from({ length: 800 }, (_, i) => `${String(species[i % 2]!.name)}\t${i + 0.25}`).join('\n');
  const [first] = host.lines('packings').ids;
  host.apply([-2, -3].map((line) => ({ kind: 'addLine', field: 'packings', line }) as const));
  const turns: number[] = [];
  const clock = vi.spyOn(performance, 'now');
  // each look at the clock takes a millisecond: a turn is some edits
  let looked = 0;
  clock.mockImplementation(() => ++looked);
  const pasting = fieldsOfPaste(host, 'packings', PATHS, 0, 1, text, (done) => {
    turns.push(done);
    if (turns.length === 1) host.apply([{ kind: 'removeLine', field: 'packings', line: -3 }]);
    if (turns.length === 2) host.set(`packings.packets#${first}`, 5000);
  });
  await vi.waitFor(() => expect(turns.length).toBeGreaterThan(3));
  expect(turns[3]).toBeLessThan(200);
  // saving waits for it
  await host.beforeSaving();
  clock.mockRestore();
  expect(await pasting).toBe('800 lines, 1,600 values pasted.');
  const now = stands(host);
  expect(now[0]?.[1]).toBe(5000);
  // the line that was taken out stays out
  expect(now.length).toBe(1 + 800 - 1);
  expect(now.at(-1)).toEqual([102, 799.25, 9870.7375]);
  expect(turns).toEqual([...turns].sort((a, b) => a - b));
});

test('two blocks go one after the other; what is opened instead gets nothing of them', async () => {
  const host = await opened();
  const [one, two] = [fieldsOfPaste(host, 'packings', PATHS, 1, 0, '1\n2\n3'), fieldsOfPaste(host, 'packings', PATHS, 1, 0, '4\n5')];
  await Promise.all([one, two]);
  expect(stands(host).map(([, packets]) => packets)).toEqual([4, 5, 3]);
  const lost = fieldsOfPaste(host, 'packings', PATHS, 1, 0, Array.from({ length: 50 }, () => '9').join('\n'));
  host.open(host.entry.value!.plan, CONTEXT, null);
  await lost;
  await host.beforeSaving();
  expect(stands(host).map(([, packets]) => packets)).toEqual([null]);
});

/** A server on which species are too many to be sent; `lies` are searches it cannot answer. */
const largeServer = (lies: readonly string[] = []) =>
  vi.fn((wants: readonly Want[]) =>
    Promise.resolve(
      wants.map((want): Answered => {
        if (want.kind === 'page' && lies.includes(want.search)) return { want, answer: { kind: 'failed', reason: 'The disk is full.' } };
        if (want.kind === 'page') return { want, answer: { kind: 'page', rows: species.filter((s) => String(s.name).startsWith(want.search)), more: false } }; // prettier-ignore
        if (want.kind === 'count') return { want, answer: { kind: 'count', total: 5000, capped: false, only: null } };
        if (want.kind === 'offered') return { want, answer: { kind: 'offered', offered: true } };
        return answer([want])[0]!;
      }),
    ),
  );
const searches = (asked: ReturnType<typeof largeServer>): string[][] =>
  asked.mock.calls.map(([wants]) => wants.flatMap((w) => (w.kind === 'page' && w.search ? [w.search] : []))).filter((s) => s.length);

test('choices of a large list are looked for on the server, all of a block in one request, the same one once', async () => {
  const asked = largeServer();
  const host = await opened(LARGE_TABLES, asked);
  const said = await fieldsOfPaste(host, 'packings', PATHS, 0, 0, 'Rosa canina\nQuercus\nRosa canina\n\nFagus sylvatica');
  expect(stands(host).map(([s]) => s)).toEqual([201, null, 201, null, 111]);
  expect(said).toBe('5 lines, 3 values pasted. Not taken: “Quercus” for Species in line 2.');
  expect(searches(asked)).toEqual([['Rosa canina', 'Quercus', 'Fagus sylvatica']]);
});

test('what could not be looked for is said with why, and is looked for again when it is pasted again', async () => {
  const lies = ['Rosa canina'];
  const asked = largeServer(lies);
  const host = await opened(LARGE_TABLES, asked);
  const said = await fieldsOfPaste(host, 'packings', PATHS, 0, 0, 'Rosa canina\nFagus sylvatica');
  expect(said).toBe('2 lines, 1 value pasted. Not taken: “Rosa canina” for Species in line 1 (The disk is full.).');
  lies.pop();
  expect(await fieldsOfPaste(host, 'packings', PATHS, 0, 0, 'Rosa canina')).toBe('1 line, 1 value pasted.');
  expect(stands(host).map(([s]) => s)).toEqual([201, 111]);
  expect(searches(asked)).toEqual([['Rosa canina', 'Fagus sylvatica'], ['Rosa canina']]);
});
