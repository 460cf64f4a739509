import { describe, expect, test } from 'vitest';
import { isFormulaError, isWaiting } from '../formula/errors.ts';
import { parseForm } from '../form/schemas.ts';
import { SEEDBANK, SEEDBANK_TABLES, answer, lotForm, openSettled, settleAll } from '../testing/seedbank.ts';
import { DataCache } from './cache.ts';
import { compileForm } from './compile.ts';
import { type Entry, openEntry } from './entry.ts';
import { narrowingOfPick } from './picks.ts';
import { narrowRows } from '../choices/narrowing.ts';
import { verify } from './verify.ts';
import type { Answered, Want } from './wants.ts';
import { feedSchema } from '../model/schemas.ts';

const CONTEXT = { mode: 'new' as const, today: '2026-03-10', now: '2026-03-10T09:00:00', me: 1 };
const field = (type: string, more: object = {}): object => ({ label: type, type, ...more });
const computed = (type: string, formula: string): object => field(type, { value: { kind: 'calculation', formula } });
const link = (table: string): object => field('link', { source: { kind: 'rows', table, show: 'name' } });
const maps = {
  fees: { label: 'Fees', lines: [{ keys: ['post', 'Second class'], value: 3.5 }, { keys: ['courier'], value: 14 }] },
}; // prettier-ignore
const FEEDS = new Map([
  [
    'weather',
    feedSchema.parse({
      key: 'weather', label: 'Weather', url: '/stand-in/weather?site={site}', params: [{ key: 'site', label: 'Site' }],
      attributes: [{ key: 'temperature', label: 'Temperature', type: 'number', path: 't' }, { key: 'rain', label: 'Rain', type: 'number', path: 'r' }],
    }),
  ],
]); // prettier-ignore
const planOf = (fields: Record<string, object>, tables = SEEDBANK_TABLES) =>
  compileForm(parseForm({ ...lotForm(fields), maps }), tables, new Map(), FEEDS);
const set = (entry: Entry, key: string, value: number | string): void => {
  entry.apply([{ kind: 'set', field: key, value }]);
  settleAll(entry);
};
const problemsOf = (fields: Record<string, object>): string[] => planOf(fields).problems.map((p) => p.message);

describe('rows looked up in a formula', () => {
  const fields = {
    genus: link('genera'),
    least: field('number'),
    first: computed(
      'number',
      'PICK(species, choice.genus = genus AND choice.storage_c >= least, choice.germination_days).germination_days',
    ),
    slowest: computed('text', 'PICK(species, choice.genus = genus, -choice.germination_days).name'),
    count: computed('number', 'COUNTA(GATHER(species, choice.genus = genus AND choice.active))'),
    days: computed('number', 'SUM(GATHER(species, choice.genus = genus).germination_days)'),
  };

  test('one row by condition and order, all rows, and what of them is empty', () => {
    const plan = planOf(fields);
    expect(plan.problems).toEqual([]);
    expect(plan.picks.map((p) => p.table)).toEqual(['species', 'species', 'species', 'species']);
    const entry = openSettled(plan);
    // nothing is known of the genus yet: no row has an empty genus
    expect(['first', 'slowest', 'count', 'days'].map((k) => entry.value(k))).toEqual([null, null, 0, 0]);
    set(entry, 'genus', 11);
    set(entry, 'least', 2);
    expect(['first', 'slowest', 'count', 'days'].map((k) => entry.value(k))).toEqual([28, 'Quercus antiqua', 2, 89]);
    // a row without a value comes last, whichever way it is ordered
    set(entry, 'genus', 21);
    expect(entry.value('slowest')).toBe('Rosa canina');
    expect(entry.recomputeAll().changes).toEqual([]);
  });

  test('in a large table the server is asked, by the number of the call, and a late answer to an old question is not shown', () => {
    const tables = new Map([...SEEDBANK_TABLES].map(([k, t]) => [k, k === 'species' ? { ...t, large: true } : t]));
    const plan = planOf(fields, tables);
    const entry = openEntry(plan, CONTEXT, new DataCache());
    const reply = (want: Want): Answered => {
      if (want.kind !== 'picked') return answer([want])[0]!;
      const part = plan.picks[want.pick]!;
      const env = { ...entry.environment, params: want.params };
      const { rows } = narrowRows(narrowingOfPick(part), SEEDBANK.find((t) => t.key === part.table)?.data ?? [], new Set(), env);
      return { want, answer: { kind: 'picked', rows: part.many ? rows : rows.slice(0, 1), more: false } };
    };
    const settle = (): void => {
      for (let i = 0; entry.wants.length && i < 20; i++) entry.supply(entry.wants.map(reply));
    };
    settle();
    entry.apply([{ kind: 'set', field: 'genus', value: 11 }]);
    const early = entry.wants.filter((w) => w.kind === 'picked');
    expect(early.every((w) => w.params.includes(11))).toBe(true);
    expect(isWaiting(entry.value('count'))).toBe(true);
    entry.apply([{ kind: 'set', field: 'genus', value: 12 }]);
    entry.supply(early.map(reply));
    settle();
    expect(entry.value('count')).toBe(1);
  });

  test.each([
    ['PICK(specie, TRUE).name', /no table “specie”. Did you mean species/],
    ['PICK(species, choice.nme = "x").name', /no column “nme”/],
    ['PICK(species, choice.name).name', /yes\/no is needed/],
    ['PICK(species, TRUE, name).name', /order is a column/],
    ['PICK(species)', /takes 2 to 3 values/],
    ['choice.name', /condition of PICK or GATHER/],
    ['VALUEMAP(fee, "post")', /no value map “fee”. Did you mean fees/],
    ['FEED(weathr, site: "a").rain', /no feed “weathr”/],
    ['FEED(weather, town: "a").rain', /takes no value “town”/],
    ['FEED(weather).rain', /needs Site/],
    ['FEED(weather, site: "a").wind', /no column “wind”/],
    ['TEMPLATE("{nobody}")', /no field or name “nobody”/],
    ['TEMPLATE("{note, date}")', /a date is needed/],
    ['TEMPLATE("{note")', /not closed/],
    ['TEMPLATE("{n, plural, one {#}}")', /other/],
    ['TEMPLATE(note)', /written here in quotation marks/],
    ['LAST(EMPTY()).note', /takes a field/],
    ['ATTRIBUTE(note, "x")', /attributes are those of a row/],
  ])('%s is refused with a sentence', (formula, message) => {
    expect(problemsOf({ note: field('text', { column: 'note' }), n: field('number'), out: computed('text', formula) }).join(' ')).toMatch(
      message,
    );
  });
});

describe('value maps', () => {
  test('several keys, without regard to case; a key it has not gives empty', () => {
    const entry = openSettled(planOf({ method: field('text'), fee: computed('number', 'VALUEMAP(fees, method)') }));
    const fee = (method: string): unknown => (set(entry, 'method', method), entry.value('fee'));
    expect(['POST', 'second class', 'Courier', 'by hand'].map(fee)).toEqual([3.5, 3.5, 14, null]);
  });
  test('two lines for one key, and numbers beside texts, are mistakes', () => {
    const lines = [{ keys: ['a'], value: 1 }, { keys: ['b', 'A'], value: 'two' }]; // prettier-ignore
    const plan = compileForm(parseForm({ ...lotForm({}), maps: { odd: { label: 'Odd', lines } } }), SEEDBANK_TABLES);
    expect(plan.problems.map((p) => p.message)).toEqual([
      'The value map Odd has two lines for “A”. Only one value can be given.',
      'The value map Odd has numbers and texts as values. They must all be numbers, or all be texts.',
    ]);
  });
});

describe('texts with holes', () => {
  const text = (template: string, values: Record<string, number | string> = {}): unknown => {
    const entry = openSettled(
      planOf({ species: link('species'), day: field('date'), n: field('number'), out: computed('text', `TEMPLATE("${template}")`) }),
    );
    for (const [k, v] of Object.entries(values)) set(entry, k, v);
    const value = entry.value('out');
    return isFormulaError(value) ? value.code : value;
  };
  test.each([
    ['{species.name} sown on {day, date, long}', { species: 101, day: '2026-03-01' }, 'Quercus robur sown on 1 March 2026'],
    ['{day, date, full}', { day: '2026-03-01' }, 'Sunday 1 March 2026'],
    ['{n, plural, =0 {no seeds} one {# seed} other {# seeds of {species.name}}}', { n: 1200, species: 201 }, '1,200 seeds of Rosa canina'],
    ['{n, plural, one {# seed} other {# seeds}}', { n: 1 }, '1 seed'],
    ['{n, number, ::.00}', { n: 2.5 }, '2.50'],
    ['{n}', { n: 0.1 }, '0.1'],
    ['site no. {n} e.g. a.b', { n: 3 }, 'site no. 3 e.g. a.b'],
    ['{species.genus.name, select, Rosa {a rose} other {no rose}}', { species: 201 }, 'a rose'],
    ['{species.genus.name, select, Rosa {a rose} other {no rose}}', {}, 'no rose'],
    ['{species.name} on {day, date, short}', { species: 101 }, null],
  ])('%s', (template, values, expected) => {
    expect(text(template, values)).toBe(expected);
  });
});

describe('numbers of a series, earlier entries, feeds', () => {
  const only = (entry: Entry, kind: Want['kind']): Want[] => entry.wants.filter((w) => w.kind === kind);

  test('a number is provisional, taken while its default stands, and no more when it is typed over', () => {
    const entry = openEntry(planOf({ code: field('text', { column: 'note', value: { kind: 'default', formula: '"L" & NEXTNUMBER("lots " & YEAR(TODAY()))' } }) }), CONTEXT); // prettier-ignore
    const [want] = only(entry, 'series');
    expect(want).toEqual({ kind: 'series', series: 'lots 2026' });
    entry.supply([{ want: want!, answer: { kind: 'number', next: 7 } }]);
    expect(entry.value('code')).toBe('L7');
    expect([...entry.seriesTaken]).toEqual([['lots 2026', 7]]);
    entry.apply([{ kind: 'set', field: 'code', value: 'mine' }]);
    expect([...entry.seriesTaken]).toEqual([]);
  });
  test('a number belongs in a default', () => {
    expect(problemsOf({ code: computed('number', 'NEXTNUMBER("a")') }).join()).toMatch(/make this a default/);
    expect(problemsOf({ code: field('number', { shown: 'NEXTNUMBER("a") > 1' }) }).join()).toMatch(/belongs in a default/);
  });

  test('my last record, and the last in which a field holds the same', () => {
    const entry = openEntry(
      planOf({
        collector: { ...link('people'), type: 'person', column: 'collector' },
        note: field('text', { column: 'note', value: { kind: 'default', formula: 'last.note' } }),
        grams: field('number', { column: 'quantity_g', value: { kind: 'prefill', formula: 'LAST(collector).quantity_g' } }),
      }),
      CONTEXT,
    );
    const row = (id: number, quantity_g: number): Answered['answer'] => ({ kind: 'last', row: { id, note: 'dry', quantity_g } });
    const reply = (): void =>
      void entry.supply(
        entry.wants.map((want): Answered => {
          if (want.kind === 'last') return { want, answer: want.column === null ? row(9, 1) : row(5, 40 + Number(want.value)) };
          if (want.kind === 'row') return { want, answer: { kind: 'row', row: null } };
          return answer([want])[0]!;
        }),
      );
    for (let i = 0; entry.wants.length && i < 10; i++) reply();
    expect(entry.value('grams')).toBe(null);
    entry.apply([{ kind: 'set', field: 'collector', value: 2 }]);
    expect(only(entry, 'last')).toEqual([{ kind: 'last', column: 'collector', value: 2 }]);
  });

  test('one call to a feed fills several fields; a failed one says so and can be asked again', () => {
    const feed = (member: string): object =>
      field('number', { value: { kind: 'prefill', formula: `FEED(weather, site: note).${member}` } });
    const entry = openEntry(planOf({ note: field('text', { column: 'note' }), t: feed('temperature'), rain: feed('rain') }), CONTEXT);
    expect(entry.wants).toEqual([]);
    entry.apply([{ kind: 'set', field: 'note', value: 'fen' }]);
    const [want, ...more] = only(entry, 'feed');
    expect(more).toEqual([]);
    expect([...entry.feedsAwaited]).toEqual(['weather']);
    entry.supply([{ want: want!, answer: { kind: 'failed', reason: 'The weather could not be asked.' } }]);
    expect(verify(entry).map((i) => i.message)).toEqual([
      'number cannot be computed: The weather could not be asked.',
      'number cannot be computed: The weather could not be asked.',
    ]);
    entry.retry();
    expect(only(entry, 'feed')).toEqual([want]);
    entry.supply([{ want: want!, answer: { kind: 'items', items: [{ id: 1, value: 'x', temperature: 6, rain: 2.5 }] } }]);
    expect([entry.value('t'), entry.value('rain')]).toEqual([6, 2.5]);
    expect(verify(entry)).toEqual([]);
  });

  test('an attribute chosen at run time: of a row, and of JSON', () => {
    const entry = openSettled(planOf({ species: link('species'), which: field('text'), json: field('json'), a: computed('text', 'ATTRIBUTE(species, which)'), b: computed('text', 'ATTRIBUTE(json, which)') })); // prettier-ignore
    set(entry, 'species', 101);
    set(entry, 'which', 'Storage_c');
    set(entry, 'json', '{"Storage_c": [1, 2], "n": 4}');
    expect([entry.value('a'), entry.value('b')]).toEqual(['2', '[1,2]']);
    set(entry, 'which', 'n');
    expect([entry.value('a'), entry.value('b')]).toEqual([null, '4']);
  });
});

describe('a change by hand that sets and clears others', () => {
  const fields = {
    key: field('text', { column: 'note', spreads: [{ field: 'a', formula: null }, { field: 'b', formula: 'UPPER(key)', when: 'LEN(key) > 1' }] }),
    a: field('number'),
    b: field('text', { spreads: [{ field: 'c', formula: 'LEN(b)' }] }),
    c: field('number', { value: { kind: 'prefill', formula: '1' } }),
    d: field('number', { value: { kind: 'prefill', formula: 'a * 2' } }),
  }; // prettier-ignore
  test('in order, one after the other, with where it came from; what follows settles too', () => {
    const entry = openSettled(planOf(fields));
    set(entry, 'a', 5);
    expect(entry.value('d')).toBe(10);
    set(entry, 'key', 'fen');
    expect(['a', 'b', 'c', 'd'].map((k) => entry.value(k))).toEqual([null, 'FEN', 3, null]);
    expect(entry.state('b').origin).toEqual({ kind: 'spread', from: 'key' });
    expect(entry.state('c').origin).toEqual({ kind: 'spread', from: 'b' });
    // the prefill does not take back what was set, but can be taken
    expect(entry.differs('c')).toBe(true);
    set(entry, 'key', 'x');
    expect(entry.value('b')).toBe('FEN');
    expect(entry.recomputeAll().changes).toEqual([]);
  });
  test('not by opening a record, nor by what computes itself', () => {
    const entry = openSettled(planOf({ ...fields, key: { ...fields.key, value: { kind: 'prefill', formula: '"w" & d' } } }));
    set(entry, 'a', 5);
    expect([entry.value('key'), entry.value('a')]).toEqual(['w10', 5]);
  });
  test('a circle is told with its path; so is setting a calculation, itself, or nobody', () => {
    const circle = problemsOf({ a: field('number', { spreads: [{ field: 'b', formula: 'a' }] }), b: field('number', { label: 'B', spreads: [{ field: 'a', formula: 'b' }] }) }); // prettier-ignore
    expect(circle.join()).toMatch(/sets the next, and so on in a circle: .*→.*→/);
    const spread = (target: string): string => problemsOf({ a: field('number', { spreads: [{ field: target, formula: '1' }] }), sum: computed('number', '1') }).join(); // prettier-ignore
    expect(spread('sum')).toMatch(/which is calculated/);
    expect(spread('a')).toMatch(/cannot set itself/);
    expect(spread('zz')).toMatch(/no such field/);
  });
});
