import { describe, expect, test } from 'vitest';
import { CONTEXT, LARGE_TABLES, LOT_FIELDS, SEEDBANK, answer, lotPlan, openSettled } from '../testing/seedbank.ts';
import type { Row } from '../values/types.ts';
import type { Answered, Want } from './wants.ts';
import { compileForm } from './compile.ts';
import { DataCache } from './cache.ts';
import { parseOutline } from '../model/lists.ts';
import { openEntry } from './entry.ts';
import { verify } from './verify.ts';
import { why } from './why.ts';
import { lotForm, SEEDBANK_TABLES } from '../testing/seedbank.ts';

const set = (field: string, value: unknown) => ({ kind: 'set', field, value }) as { kind: 'set'; field: string; value: number };
const names = (entry: ReturnType<typeof openSettled>, field: string) => entry.offer(field)?.rows?.map((r) => r.name);

describe('a new entry', () => {
  test('asks for each small table once, and settles when it has them', () => {
    const entry = openEntry(lotPlan(), CONTEXT, new DataCache());
    expect(entry.wants.map((w) => (w.kind === 'table' ? w.table : w.kind))).toEqual(['families', 'genera', 'species', 'people']);
    expect(entry.offer('genus')?.status).toBe('loading');
    entry.supply(answer(entry.wants));
    expect(entry.wants).toEqual([]);
    expect(entry.offer('genus')?.total).toBe(5);
  });

  test('defaults are given with their origin', () => {
    const entry = openSettled(lotPlan());
    expect(entry.value('collected_on')).toBe('2026-03-10');
    expect(entry.state('collector')).toMatchObject({ value: 1, origin: { kind: 'default' } });
  });

  test('choosing narrows what is below, and only what reads it is computed', () => {
    const entry = openSettled(lotPlan());
    const change = entry.apply([set('family', 1)]);
    expect(names(entry, 'genus')).toEqual(['Fagus', 'Quercus']);
    expect(change.changes.map((c) => `${c.field} ${c.cell}`)).toEqual(['family value', 'genus choices', 'species choices']);
    expect(change.computed).toBeLessThanOrEqual(5);
  });

  test('choosing the child first fills the parents above it', () => {
    const entry = openSettled(lotPlan());
    entry.apply([set('species', 211)]);
    expect(entry.value('genus')).toBe(22);
    expect(entry.value('family')).toBe(2);
    expect(entry.state('genus').origin).toEqual({ kind: 'filledUp', from: 'species' });
    expect(entry.state('species')).toMatchObject({ value: 211, gone: false, origin: { kind: 'chosen' } });
    expect(entry.value('storage_c')).toBe(-20);
  });

  test('a stale child is cleared when its parent changes, and says by what', () => {
    const entry = openSettled(lotPlan());
    entry.apply([set('species', 101), set('family', 2)]);
    expect(entry.value('genus')).toBe(null);
    expect(entry.value('species')).toBe(null);
    expect(entry.state('genus').origin).toEqual({ kind: 'cleared', by: ['family'] });
    expect(entry.value('storage_c')).toBe(null);
  });

  test('a list that waits says what for; the only one left is taken', () => {
    const entry = openSettled(
      lotPlan({
        ...LOT_FIELDS,
        genus: { ...LOT_FIELDS.genus, source: { kind: 'rows', table: 'genera', show: 'name', where: 'choice.family = family' } },
      }),
    );
    expect(entry.offer('genus')).toMatchObject({ status: 'waiting', waitsFor: ['family'] });
    entry.apply([set('family', 3), set('genus', 31)]);
    expect(entry.state('species')).toMatchObject({ value: 301, origin: { kind: 'onlyOne' } });
  });

  test('a default of a field that hiding clears is given when it is first shown', () => {
    const note = {
      label: 'Note',
      type: 'text',
      column: 'note',
      shown: 'quantity_g > 5',
      hiddenValue: 'clear',
      value: { kind: 'default', formula: '"large"' },
    };
    const entry = openSettled(lotPlan({ ...LOT_FIELDS, note }));
    expect(entry.value('note')).toBe(null);
    entry.apply([set('quantity_g', 6)]);
    expect(entry.state('note')).toMatchObject({ value: 'large', origin: { kind: 'default' } });
    entry.apply([set('quantity_g', 1)]);
    expect(entry.state('note')).toMatchObject({ value: null, origin: { kind: 'hidden' } });
  });

  test('option lists: a level under the level above, filled up from below, retired ones kept but not offered', () => {
    const items = parseOutline('research = Research\n  genetics = Genetics\n  trial = Trial\nteaching = Teaching\n  class = In class');
    const lists = new Map([
      ['purposes', { key: 'purposes', label: 'Purposes', items: items.map((i) => (i.value === 'trial' ? { ...i, retired: true } : i)) }],
    ]);
    const source = (level: number, where: string | null) => ({
      kind: 'list',
      list: 'purposes',
      level,
      where,
      waiting: 'all',
      single: 'take',
    });
    const fields = {
      purpose: { label: 'Purpose', type: 'choice', source: source(1, null) },
      detail: { label: 'Detail', type: 'choice', column: 'kind', source: source(2, 'choice.parent = purpose') },
    };
    const plan = compileForm(lotForm(fields), SEEDBANK_TABLES, lists);
    expect(plan.problems).toEqual([]);
    const entry = openSettled(plan);
    expect(entry.offer('detail')?.rows?.map((r) => r.value)).toEqual(['genetics', 'class']);
    entry.apply([{ kind: 'set', field: 'detail', value: 'class' }]);
    expect(entry.value('purpose')).toBe('teaching');
    entry.apply([{ kind: 'set', field: 'purpose', value: 'research' }]);
    expect(entry.state('detail')).toMatchObject({ value: 'genetics', origin: { kind: 'onlyOne' } });
    const old = openSettled(plan, { mode: 'edit' }, { values: { kind: 'trial' }, origins: {} });
    expect(old.state('detail')).toMatchObject({ value: 'trial', gone: true });
    expect(verify(old)).toEqual([]);
  });

  test('the values of a column: each once, narrowed by the rows they come from', () => {
    const source = { kind: 'distinct', table: 'species', values: 'name', where: 'choice.genus = genus', waiting: 'all' };
    const entry = openSettled(lotPlan({ ...LOT_FIELDS, note: { label: 'Name', type: 'choice', column: 'kind', source } }));
    expect(entry.offer('note')?.total).toBe(8);
    entry.apply([set('genus', 21)]);
    expect(entry.offer('note')?.rows?.map((r) => r.value)).toEqual(['Rosa arvensis', 'Rosa canina']);
    entry.apply([{ kind: 'set', field: 'note', value: 'Quercus robur' }]);
    expect(verify(entry)).toContainEqual(expect.objectContaining({ field: 'note', code: 'notOffered' }));
  });

  test('emptying a choice that was taken leaves it empty until a driver changes', () => {
    const entry = openSettled(lotPlan());
    entry.apply([set('genus', 31)]);
    expect(entry.value('species')).toBe(301);
    entry.apply([{ kind: 'clear', field: 'species' }]);
    expect(entry.value('species')).toBe(null);
    entry.apply([set('genus', 12)]);
    expect(entry.value('species')).toBe(111);
  });

  test('a prefill follows its driver until typed over, and can be taken back', () => {
    const entry = openSettled(lotPlan());
    entry.apply([set('species', 101)]);
    expect(entry.state('storage_c')).toMatchObject({ value: 2, origin: { kind: 'prefill' } });
    entry.apply([set('storage_c', -18), set('genus', 12)]);
    expect(entry.state('storage_c')).toMatchObject({ value: -18, suggestion: -5, origin: { kind: 'typed' } });
    expect(entry.differs('storage_c')).toBe(true);
    entry.apply([{ kind: 'takeSuggestion', field: 'storage_c' }]);
    expect(entry.state('storage_c')).toMatchObject({ value: -5, origin: { kind: 'prefill' } });
    entry.apply([set('genus', 11)]);
    expect(entry.value('storage_c')).toBe(null);
  });

  test('a calculation is empty while an input is, shows an error as one, and cannot be typed', () => {
    const entry = openSettled(lotPlan());
    entry.apply([set('quantity_g', 412.5)]);
    expect(entry.value('seeds')).toBe(null);
    entry.apply([set('tsw_g', 0)]);
    expect(entry.value('seeds')).toMatchObject({ code: 'divideByZero' });
    expect(verify(entry).map((i) => i.field)).toContain('seeds');
    entry.apply([set('tsw_g', 3.2)]);
    expect(entry.value('seeds')).toBe(128906);
    const change = entry.apply([set('seeds', 5)]);
    expect(change.refused[0]?.message).toMatch(/calculated/);
    expect(entry.value('seeds')).toBe(128906);
  });

  test('a forged choice is flagged and refused, a wrong type is not taken', () => {
    const entry = openSettled(lotPlan());
    entry.apply([set('genus', 11), set('species', 211)]);
    expect(entry.state('species')).toMatchObject({ value: 211, gone: true });
    expect(verify(entry)).toContainEqual(expect.objectContaining({ field: 'species', code: 'notOffered' }));
    const change = entry.apply([set('quantity_g', 'many'), set('nosuch', 1)]);
    expect(change.refused.map((r) => r.field)).toEqual(['quantity_g', 'nosuch']);
    expect(entry.value('quantity_g')).toBe(null);
  });

  test('required and checks are judged; white space is empty', () => {
    const entry = openSettled(lotPlan());
    entry.apply([set('collected_on', '2026-04-01')]);
    expect(verify(entry).map((i) => [i.field, i.code])).toEqual([
      ['species', 'required'],
      ['collected_on', 'check'],
    ]);
  });
});

describe('large sources', () => {
  /** Answers as a server would that narrows by SQL: one question at a time. */
  const narrowed = (entry: ReturnType<typeof openSettled>, want: Extract<Want, { open: unknown }>): Row[] => {
    const part = (row: Row): boolean => want.field !== 'genus' || want.open.length > 0 || row.family === want.params[0];
    const below = (row: Row): boolean => want.field !== 'species' || want.open.includes(0) || row.genus === want.params[0];
    const table = entry.plan.fields[entry.slot(want.field)]?.choices?.table ?? '';
    return (SEEDBANK.find((t) => t.key === table)?.data ?? []).filter((r) => part(r) && below(r));
  };
  const reply = (entry: ReturnType<typeof openSettled>): number => {
    let rounds = 0;
    for (; entry.wants.length; rounds++) {
      if (rounds > 20) throw new Error('keeps wanting');
      entry.supply(
        entry.wants.map((want): Answered => {
          if (!('open' in want)) return answer([want])[0]!;
          const rows = narrowed(entry, want);
          if (want.kind === 'count')
            return { want, answer: { kind: 'count', total: rows.length, capped: false, only: rows.length === 1 ? rows[0]!.id : null } };
          if (want.kind === 'offered') return { want, answer: { kind: 'offered', offered: rows.some((r) => r.id === want.value) } };
          return { want, answer: { kind: 'failed', reason: 'not asked here' } };
        }),
      );
    }
    return rounds;
  };
  const open = (waiting: string) => {
    const genus = LOT_FIELDS.genus as { source: object };
    const fields = { ...LOT_FIELDS, genus: { ...genus, source: { ...genus.source, waiting } } };
    const entry = openEntry(compileForm(lotForm(fields), LARGE_TABLES), CONTEXT, new DataCache());
    reply(entry);
    return entry;
  };

  test('are counted and asked about, never fetched whole', () => {
    const entry = openEntry(lotPlan(), CONTEXT, new DataCache());
    expect(entry.wants.every((w) => w.kind === 'table')).toBe(true);
    const large = openEntry(compileForm(lotForm(), LARGE_TABLES), CONTEXT, new DataCache());
    // the row of the default collector, to show its name
    expect(new Set(large.wants.map((w) => w.kind))).toEqual(new Set(['count', 'row']));
  });

  test.each(['all', 'none'])('filling up goes through levels whose rows must be fetched first (waiting: %s)', (waiting) => {
    const entry = open(waiting);
    entry.apply([set('species', 211)]);
    expect(entry.wants.map((w) => w.kind)).toContain('row');
    reply(entry);
    expect([entry.value('species'), entry.value('genus'), entry.value('family')]).toEqual([211, 22, 2]);
    expect(entry.state('genus')).toMatchObject({ gone: false, origin: { kind: 'filledUp', from: 'species' } });
    expect(entry.value('storage_c')).toBe(-20);
    expect(verify(entry)).toEqual([]);
  });

  test('a forged row is asked about and refused; a stale one is cleared', () => {
    const entry = open('all');
    entry.apply([set('genus', 11), set('species', 211)]);
    reply(entry);
    expect(entry.state('species')).toMatchObject({ value: 211, gone: true });
    entry.apply([set('species', 101)]);
    reply(entry);
    expect(entry.state('species').gone).toBe(false);
    entry.apply([set('genus', 21)]);
    reply(entry);
    expect(entry.value('species')).toBe(null);
  });

  test('an answer to an outdated question changes nothing', () => {
    const entry = open('all');
    entry.apply([set('genus', 11)]);
    const old = entry.wants;
    entry.apply([set('genus', 21)]);
    const change = entry.supply(old.map((want) => ({ want, answer: { kind: 'count', total: 77, capped: false, only: null } })));
    expect(change.changes.filter((c) => c.field === 'species')).toEqual([]);
    expect(entry.offer('species')?.status).toBe('loading');
    reply(entry);
    expect(entry.offer('species')?.total).toBe(2);
  });

  test('a question that failed says so at the field and can be asked again', () => {
    const entry = openEntry(compileForm(lotForm(), LARGE_TABLES), CONTEXT, new DataCache());
    entry.supply(entry.wants.map((want) => ({ want, answer: { kind: 'failed', reason: 'The database is away.' } })));
    expect(entry.offer('genus')).toMatchObject({ status: 'failed', reason: 'The database is away.' });
    expect(verify(entry).some((i) => i.code === 'unknown' || i.code === 'required')).toBe(true);
    entry.retry();
    reply(entry);
    expect(entry.offer('genus')).toMatchObject({ status: 'ready', total: 5 });
  });
});

describe('an existing record', () => {
  const stored = {
    values: {
      family: 1,
      genus: 11,
      species: 103,
      storage_c: 5,
      quantity_g: 10,
      tsw_g: 2,
      seeds: 4000,
      collected_on: null,
      collector: null,
      note: null,
      kind: null,
    },
    origins: { storage_c: { kind: 'prefill' } as const, seeds: { kind: 'calculation' } as const },
  };

  test('defaults do not run again, calculations and prefills keep what was saved', () => {
    const entry = openSettled(lotPlan(), { mode: 'edit' }, stored);
    expect(entry.value('collected_on')).toBe(null);
    expect(entry.value('collector')).toBe(null);
    expect(entry.state('seeds')).toMatchObject({ value: 4000, suggestion: 5000 });
    expect(entry.state('storage_c')).toMatchObject({ value: 5, suggestion: 2, origin: { kind: 'stored', was: { kind: 'prefill' } } });
    expect(verify(entry)).toEqual([]);
  });

  test('a stored choice no longer offered stays, flagged; choosing it anew is refused', () => {
    const entry = openSettled(lotPlan(), { mode: 'edit' }, stored);
    expect(entry.state('species')).toMatchObject({ value: 103, gone: true });
    entry.apply([set('species', 103)]);
    expect(verify(entry)).toContainEqual(expect.objectContaining({ field: 'species', code: 'notOffered' }));
  });

  test('what reads a changed field is computed again', () => {
    const entry = openSettled(lotPlan(), { mode: 'edit' }, stored);
    entry.apply([set('tsw_g', 4)]);
    expect(entry.value('seeds')).toBe(2500);
    entry.apply([set('species', 111)]);
    expect(entry.value('storage_c')).toBe(-5);
  });

  test('a stored calculation can be taken as it would be today', () => {
    const entry = openSettled(lotPlan(), { mode: 'edit' }, stored);
    entry.apply([{ kind: 'takeSuggestion', field: 'seeds' }]);
    expect(entry.value('seeds')).toBe(5000);
  });
});

describe('why', () => {
  test('a value names its formula with values, and the fields it came from', () => {
    const entry = openSettled(lotPlan());
    entry.apply([set('species', 211)]);
    const { value } = why(entry, 'storage_c');
    expect(value.formula?.text).toBe('species.storage_c');
    expect(value.formula?.names).toMatchObject([{ text: 'species.storage_c', value: -20 }]);
    expect(value.sources.map((s) => [s.field, s.origin.kind])).toEqual([['species', 'chosen']]);
    expect(why(entry, 'family').value.sources.map((s) => s.field)).toEqual(['genus']);
  });

  test('a list has its funnel, with the part that emptied it', () => {
    const fields = {
      ...LOT_FIELDS,
      species: {
        ...LOT_FIELDS.species,
        source: {
          kind: 'rows',
          table: 'species',
          show: 'name',
          where: 'choice.genus = genus AND choice.active AND choice.germination_days > 1000',
        },
      },
    };
    const entry = openSettled(lotPlan(fields));
    entry.apply([set('genus', 11)]);
    const list = why(entry, 'species').list;
    expect([list?.all, ...(list?.parts ?? []).map((p) => p.remaining)]).toEqual([8, 3, 2, 0]);
    expect(list?.parts.map((p) => p.emptied)).toEqual([false, false, true]);
  });

  test('a text equality that matches nothing offers near spellings', () => {
    const fields = {
      ...LOT_FIELDS,
      note: { label: 'Note', type: 'text', column: 'note' },
      genus: { ...LOT_FIELDS.genus, source: { kind: 'rows', table: 'genera', show: 'name', where: 'choice.name = note' } },
    };
    const fixed = {
      ...fields,
      genus: { ...LOT_FIELDS.genus, source: { kind: 'rows', table: 'genera', show: 'name', where: 'choice.family.name = "Rosacae"' } },
    };
    const instead = why(openSettled(lotPlan(fixed)), 'genus').list?.parts[0]?.instead;
    expect(instead).toMatchObject({ column: 'family.name', more: 0, nearMisses: ['Rosaceae'] });
    expect(instead?.exist.map((e) => [e.value, e.rows])).toEqual([['Fagaceae', 2], ['Rosaceae', 2], ['Betulaceae', 1]]); // prettier-ignore
    const entry = openSettled(lotPlan(fields));
    entry.apply([{ kind: 'set', field: 'note', value: 'Quercus ' }]);
    expect(why(entry, 'genus').list?.parts[0]).toMatchObject({
      remaining: 0,
      emptied: true,
      instead: { column: 'name', nearMisses: ['Quercus'] },
    });
  });
});

describe('compile', () => {
  test('a cycle is named with its whole path and the rest still runs', () => {
    const fields = {
      ...LOT_FIELDS,
      quantity_g: { label: 'Quantity', type: 'number', value: { kind: 'calculation', formula: 'tsw_g + 1' } },
      tsw_g: { label: 'Weight', type: 'number', value: { kind: 'calculation', formula: 'seeds * 2' } },
      seeds: { label: 'Seeds', type: 'number', value: { kind: 'calculation', formula: 'quantity_g * 2' } },
    };
    const plan = compileForm(lotForm(fields), SEEDBANK_TABLES);
    const cycle = plan.problems.find((p) => p.code === 'cycle');
    expect(cycle?.path).toHaveLength(4);
    expect(cycle?.path[0]).toBe(cycle?.path[3]);
    expect(cycle?.message).toContain(' → ');
    const entry = openSettled(plan);
    entry.apply([set('family', 1)]);
    expect(names(entry, 'genus')).toEqual(['Fagus', 'Quercus']);
  });

  test.each([
    [
      'an unknown name',
      { quantity_g: { label: 'Q', type: 'number', value: { kind: 'calculation', formula: 'tsw * 2' } } },
      'unknownName',
      'Did you mean tsw_g',
    ],
    ['a type that does not fit', { note: { label: 'N', type: 'text', value: { kind: 'default', formula: '1 + 1' } } }, 'type', 'a text'],
    [
      'a list without a shown column',
      { genus: { label: 'G', type: 'link', source: { kind: 'rows', table: 'genera' } } },
      'noShownColumn',
      'shown',
    ],
    ['a choice without a source', { kind: { label: 'K', type: 'choice' } }, 'noSource', 'where the choices come from'],
    ['two fields on one column', { a: { label: 'A', type: 'number', column: 'tsw_g' } }, 'columnTwice', 'already used'],
  ])('%s is a problem', (_, fields, code, text) => {
    const { problems } = compileForm(lotForm({ ...LOT_FIELDS, ...fields }), SEEDBANK_TABLES);
    expect(problems).toContainEqual(expect.objectContaining({ code, message: expect.stringContaining(text) }));
  });

  test('the seed bank form has no problems', () => {
    expect(lotPlan().problems).toEqual([]);
  });
});
