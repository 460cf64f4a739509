import { describe, expect, test } from 'vitest';
import { parseForm } from '../form/schemas.ts';
import { isFormulaError } from '../formula/errors.ts';
import { CONTEXT, LOT_FIELDS, SEEDBANK, SEEDBANK_TABLES, lotForm, lotPlan, openSettled, settleAll } from '../testing/seedbank.ts';
import { DataCache } from './cache.ts';
import { compileForm } from './compile.ts';
import { openEntry } from './entry.ts';
import type { Edit } from './state.ts';
import { verify } from './verify.ts';

const set = (field: string, value: unknown): Edit => ({ kind: 'set', field, value }) as Edit;
const field = (type: string, more: object = {}): object => ({ label: type, type, ...more });

describe('what cannot be read', () => {
  test('stands in the way of saving until it is read or emptied, and a field that is hidden is not judged', () => {
    const entry = openSettled(lotPlan({ ...LOT_FIELDS, note: field('text', { column: 'note', shown: 'quantity_g > 1' }) }));
    entry.apply([set('species', 101), set('quantity_g', 5)]);
    expect(verify(entry)).toEqual([]);
    entry.noteUnreadable('collected_on', null, { text: '31.2.2026', message: 'There is no 31 February.' });
    expect(verify(entry)).toEqual([{ field: 'collected_on', line: null, code: 'unreadable', message: 'There is no 31 February.' }]);
    entry.noteUnreadable('collected_on', null, null);
    entry.noteUnreadable('note', null, { text: 'x', message: 'no' });
    expect(verify(entry)).toHaveLength(1);
    entry.apply([set('quantity_g', 1)]);
    expect(verify(entry)).toEqual([]);
  });
});

describe('what is not shown to somebody', () => {
  const fields = {
    ...LOT_FIELDS,
    note: field('text', { column: 'note', shown: 'me.name = "Tom Reed"' }),
    kind: field('text', { shown: 'quantity_g > 1' }),
  };
  test('is not taken from them; what a condition over data hides is', () => {
    const ida = openSettled(lotPlan(fields));
    expect(ida.isWithheld('note')).toBe(true);
    expect(ida.apply([set('note', 'mine')]).refused).toMatchObject([{ field: 'note', message: expect.stringMatching(/not shown to you/) }]);
    expect(ida.isWithheld('kind')).toBe(false);
    expect(ida.apply([set('kind', 'typed before')]).refused).toEqual([]);
    const tom = openSettled(lotPlan(fields), { me: 2 });
    expect(tom.apply([set('note', 'mine')]).refused).toEqual([]);
  });
});

describe('a default from the last record', () => {
  const fields = { ...LOT_FIELDS, note: field('text', { column: 'note', value: { kind: 'default', formula: 'last(genus).note' } }) };
  test('waits for what it asks by, and is given once', () => {
    const plan = compileForm(lotForm(fields), SEEDBANK_TABLES);
    expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
    const entry = openEntry(plan, CONTEXT, new DataCache());
    const settle = (note: string): void => {
      for (let i = 0; entry.wants.length && i < 20; i++)
        entry.supply(
          entry.wants.map((want) => {
            if (want.kind === 'last')
              return { want, answer: { kind: 'last' as const, row: { id: 7, note: `${note} ${String(want.value)}` } } };
            return {
              want,
              answer: { kind: 'table' as const, rows: SEEDBANK.find((t) => want.kind === 'table' && t.key === want.table)?.data ?? [] },
            };
          }),
        );
    };
    settle('before');
    // no genus: nothing was asked for, nothing given
    expect(entry.value('note')).toBeNull();
    entry.apply([set('genus', 11)]);
    settle('of genus');
    expect(entry.value('note')).toBe('of genus 11');
    entry.apply([set('genus', 12)]);
    settle('another');
    expect(entry.value('note')).toBe('of genus 11');
  });
});

describe('after a refusal', () => {
  test('the list is asked anew, and the row that went away is said to be no longer offered', () => {
    const entry = openSettled(lotPlan());
    entry.apply([set('species', 211)]);
    expect(entry.state('species').gone).toBe(false);
    entry.reread([{ field: 'species' }]);
    const left = SEEDBANK.find((t) => t.key === 'species')?.data.filter((r) => r.id !== 211) ?? [];
    expect(entry.wants).toEqual([{ kind: 'table', table: 'species' }]);
    entry.supply([{ want: { kind: 'table', table: 'species' }, answer: { kind: 'table', rows: left } }]);
    settleAll(entry);
    expect(entry.state('species')).toMatchObject({ gone: true });
    expect(verify(entry).find((i) => i.field === 'species')?.message).toMatch(/no longer offered|not offered/);
  });
});

test('a calculation that is hidden until it is known who asks wants nothing any more once it is shown', () => {
  const number = (value: object | null): object => field('number', { value, hiddenValue: 'clear' });
  const fields = {
    ...LOT_FIELDS,
    one: number({ kind: 'prefill', formula: 'IF(1 > 0, 1, 0)', typedOver: 'keep' }),
    more: number({ kind: 'calculation', formula: '0 + one' }),
  };
  const access = [{ place: '@s1', seen: [{ who: { roles: [], teams: ['Field'] }, steps: [] }], filled: [] }];
  const plan = compileForm(parseForm({ ...lotForm(fields), access }), SEEDBANK_TABLES);
  expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
  const entry = openSettled(plan);
  expect(entry.wants).toEqual([]);
  expect(entry.isShown('more')).toBe(true);
  expect(entry.value('more')).toBe(1);
});

describe('a mistake of ours in one cell', () => {
  test('is an error at that cell; the others are computed', () => {
    const plan = lotPlan();
    const seeds = plan.fields[plan.slots.get('seeds') ?? -1];
    const broken = { ...plan, fields: plan.fields.map((f) => (f === seeds && f.value ? { ...f, isPlain: false, value: { ...f.value, fitted: () => { throw new TypeError('a mistake'); } } } : f)) }; // prettier-ignore
    const entry = openSettled(broken);
    entry.apply([set('quantity_g', 5), set('tsw_g', 2), set('species', 101)]);
    const value = entry.value('seeds');
    expect(isFormulaError(value) && [value.code, value.message]).toEqual(['broken', 'This could not be computed (a mistake).']);
    expect(entry.value('storage_c')).toBe(2);
    expect(verify(entry).map((i) => i.field)).toEqual(['seeds']);
  });
});
