import { expect, test, vi } from 'vitest';
import { compileForm } from '../../core/engine/compile.ts';
import { type Answered, MAX_WANTS, type Want } from '../../core/engine/wants.ts';
import { CONTEXT, LARGE_TABLES, answer, packingForm } from '../../core/testing/seedbank.ts';
import { useEntryHost } from './useEntryHost';

/** A form whose lines each narrow a large list by a number of their own. */
const plan = compileForm(
  packingForm({}, {
    grams: { label: 'Grams', type: 'number' },
    species: { label: 'Species', type: 'link', source: { kind: 'rows', table: 'species', show: 'name', sort: ['name'], where: 'choice.storage_c < grams' } },
  }, 0),
  LARGE_TABLES,
); // prettier-ignore
const counted = (wants: readonly Want[]): Answered[] =>
  wants.map((want) => (want.kind === 'count' ? { want, answer: { kind: 'count', total: 3, capped: false, only: null } } : answer([want])[0]!)); // prettier-ignore

test('what is done in one go is asked in one, and in several requests where it is more than one may ask', async () => {
  expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
  const asked = vi.fn((wants: readonly Want[]) => Promise.resolve(counted(wants)));
  const host = useEntryHost(asked);
  host.open(plan, CONTEXT, null);
  await host.settled();
  asked.mockClear();
  const lines = 2 * MAX_WANTS + 50;
  for (let line = 1; line <= lines; line++) {
    host.apply([{ kind: 'addLine', field: 'packings', line: -line }]);
    host.set(`packings.grams#-${line}`, line / 4);
  }
  expect(asked).not.toHaveBeenCalled();
  await host.settled();
  expect(asked.mock.calls.map(([wants]) => wants.filter((w) => w.kind === 'count').length)).toEqual([MAX_WANTS, MAX_WANTS, 50]);
  // how many requests a step took is told at it
  expect(host.steps.value.reduce((all, step) => all + step.requests, 0)).toBe(3);
  for (let line = 1; line <= lines; line++)
    expect(host.view(`packings.species#-${line}`).offer).toMatchObject({ status: 'ready', total: 3 });
});

test('a request that fails is told at its fields; the others of the same go are answered', async () => {
  const asked = vi.fn((wants: readonly Want[]) => Promise.resolve(counted(wants)));
  const host = useEntryHost(asked);
  host.open(plan, CONTEXT, null);
  await host.settled();
  for (let line = 1; line <= MAX_WANTS + 10; line++) {
    host.apply([{ kind: 'addLine', field: 'packings', line: -line }]);
    host.set(`packings.grams#-${line}`, line / 4);
  }
  asked.mockImplementation((wants) => (wants.length < MAX_WANTS ? Promise.reject(new Error('away')) : Promise.resolve(counted(wants))));
  await host.settled();
  const status = (line: number) => host.view(`packings.species#-${line}`).offer?.status;
  expect([status(1), status(MAX_WANTS), status(MAX_WANTS + 1)]).toEqual(['ready', 'ready', 'failed']);
  asked.mockImplementation((wants) => Promise.resolve(counted(wants)));
  host.retry();
  await host.settled();
  expect(status(MAX_WANTS + 1)).toBe('ready');
});
