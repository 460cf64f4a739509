import { describe, expect, test } from 'vitest';
import { LOT_FIELDS, SEEDBANK_TABLES, lotPlan, openSettled, packingForm } from '../testing/seedbank.ts';
import { compileForm } from './compile.ts';
import { momentAt, nextStop } from './moment.ts';
import type { CellChange } from './state.ts';

const allOf = (entry: { trace: readonly { changes: readonly CellChange[] }[] }): CellChange[] => entry.trace.flatMap((c) => c.changes);

describe('a moment of the past', () => {
  test('goes through a settle cell by cell: what has not happened yet stands as it was', () => {
    const entry = openSettled(lotPlan());
    const opened = allOf(entry).length;
    entry.apply([{ kind: 'set', field: 'species', value: 101 }]);
    const changes = allOf(entry);
    const storage = changes.findIndex((c, i) => i >= opened && c.field === 'storage_c' && c.cell === 'value');
    expect(storage).toBeGreaterThan(opened);
    expect(momentAt(changes, storage).values.get('storage_c')).toEqual({ value: null, origin: null });
    // it has happened: as it is now
    expect(momentAt(changes, storage + 1).values.has('storage_c')).toBe(false);
    expect(momentAt(changes, opened).values.get('species')?.value).toBe(null);
    expect(momentAt(changes, changes.length).values.size).toBe(0);
  });
  test('tells where a value of then came from', () => {
    const entry = openSettled(lotPlan());
    entry.apply([{ kind: 'set', field: 'species', value: 101 }]);
    const then = allOf(entry).length;
    entry.apply([{ kind: 'set', field: 'storage_c', value: 7 }]);
    expect(momentAt(allOf(entry), then).values.get('storage_c')?.origin?.kind).toBe('prefill');
  });
  test('lines added since are not there yet; those taken out since are counted', () => {
    const plan = compileForm(
      packingForm({ tsw_g: LOT_FIELDS.tsw_g! }, { grams: { label: 'Grams', type: 'number', column: 'grams' } }),
      SEEDBANK_TABLES,
    );
    const entry = openSettled(plan);
    const [first] = entry.lines('packings');
    const then = allOf(entry).length;
    entry.apply([{ kind: 'addLine', field: 'packings', line: -9 }]);
    entry.apply([{ kind: 'removeLine', field: 'packings', line: first! }]);
    const moment = momentAt(allOf(entry), then);
    expect([...moment.later]).toEqual(['packings#-9']);
    expect(moment.gone).toBe(1);
  });
});

describe('a stop', () => {
  const change = (field: string, cell: CellChange['cell'] = 'value', to: unknown = 1): CellChange => ({
    field, line: null, cell, cause: { kind: 'open' }, from: null, to: to as number, origin: null,
  }); // prettier-ignore
  const changes = [change('a'), change('r1', 'rule', false), change('b', 'choices', 3), change('r1', 'rule', true), change('a')];
  test('stands after the change it waits for, of whatever part of the field', () => {
    expect(nextStop(changes, 0, new Set(['a']))).toBe(1);
    expect(nextStop(changes, 1, new Set(['a']))).toBe(5);
    expect(nextStop(changes, 0, new Set(['b']))).toBe(3);
    expect(nextStop(changes, 5, new Set(['a']))).toBe(null);
    expect(nextStop(changes, 0, new Set())).toBe(null);
  });
  test('at a rule only where it acts', () => expect(nextStop(changes, 0, new Set(['r1']))).toBe(4));
});

describe('time', () => {
  test('is told per part, only where there is a clock', () => {
    let now = 0;
    const entry = openSettled(lotPlan(), { clock: () => now++ });
    const { times = [], computed } = entry.apply([{ kind: 'set', field: 'species', value: 101 }]);
    expect(times.find((t) => t.field === 'storage_c' && t.cell === 'value')).toMatchObject({ computed: 1, milliseconds: 1 });
    expect(times.reduce((n, t) => n + t.computed, 0)).toBe(computed);
    expect(openSettled(lotPlan()).apply([{ kind: 'set', field: 'species', value: 101 }])).toHaveProperty('times', undefined);
  });
});
