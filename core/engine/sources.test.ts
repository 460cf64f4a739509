import { describe, expect, test } from 'vitest';
import { type Feed, feedProblems } from '../model/feeds.ts';
import { feedSchema } from '../model/schemas.ts';
import { CONTEXT, LOT_FIELDS, SEEDBANK_TABLES, answer, lotForm, openSettled, settleAll } from '../testing/seedbank.ts';
import { candidatesOf, atPath, keysOfJson } from '../choices/json.ts';
import { compileForm } from './compile.ts';
import { type Entry, openEntry } from './entry.ts';
import { verify } from './verify.ts';
import type { Answer, Want } from './wants.ts';

const NAMES: Feed = feedSchema.parse({
  key: 'names',
  label: 'Name check',
  url: 'https://names.example/{genus}',
  params: [{ key: 'genus', label: 'Genus' }],
  attributes: [
    { key: 'author', label: 'Author', path: 'author' },
    { key: 'year', label: 'Year', type: 'number', path: 'year' },
  ],
});
const feeds = new Map([[NAMES.key, NAMES]]);
const text = (formula: string): object => ({ label: 't', type: 'text', value: { kind: 'prefill', formula } });
const compile = (fields: Record<string, object>, parent: string | null = null) =>
  compileForm({ ...lotForm(fields), parent }, SEEDBANK_TABLES, new Map(), feeds);

function supply(entry: Entry, feed: (want: Extract<Want, { kind: 'feed' }>) => Answer): void {
  for (let i = 0; entry.wants.length && i < 10; i++)
    entry.supply(entry.wants.map((want) => (want.kind === 'feed' ? { want, answer: feed(want) } : answer([want])[0]!)));
}

describe('choices from a feed', () => {
  const fields = {
    word: { label: 'Word', type: 'text' },
    name: {
      label: 'Name',
      type: 'choice',
      source: { kind: 'feed', feed: 'names', params: { genus: 'word' }, where: 'choice.year > 1800' },
    },
    author: text('name.author & " " & name.year'),
  };
  const items = (genus: string): Answer => ({
    kind: 'items',
    items: [
      { id: 1, value: `${genus} alba`, label: `${genus} alba`, author: 'L.', year: 1753 },
      { id: 2, value: `${genus} nigra`, label: `${genus} nigra`, author: 'Mill.', year: 1805 },
    ],
  });
  const open = (): Entry => openEntry(compile(fields), CONTEXT);

  test('waits for its parameter, asks once, narrows, and passes on attributes', () => {
    const entry = open();
    expect(entry.plan.problems).toEqual([]);
    expect(entry.offer('name')).toMatchObject({ status: 'waiting', waitsFor: ['word'] });
    entry.apply([{ kind: 'set', field: 'word', value: 'Rosa' }]);
    expect(entry.wants).toEqual([{ kind: 'feed', feed: 'names', params: { genus: 'Rosa' } }]);
    supply(entry, (w) => items(String(w.params.genus)));
    expect(entry.offer('name')?.rows?.map((r) => r.label)).toEqual(['Rosa nigra']);
    entry.apply([{ kind: 'set', field: 'name', value: 'Rosa nigra' }]);
    expect(entry.value('author')).toBe('Mill. 1805');
    expect(verify(entry)).toEqual([]);
  });

  test('a late answer to an old question is never shown; a forged choice is not offered', () => {
    const entry = open();
    entry.apply([{ kind: 'set', field: 'word', value: 'Rosa' }]);
    const [old] = entry.wants;
    entry.apply([{ kind: 'set', field: 'word', value: 'Salix' }]);
    entry.supply([{ want: old!, answer: items('Rosa') }]);
    expect(entry.offer('name')?.status).toBe('loading');
    supply(entry, (w) => items(String(w.params.genus)));
    entry.supply([{ want: old!, answer: items('Rosa') }]);
    expect(entry.offer('name')?.rows?.map((r) => r.label)).toEqual(['Salix nigra']);
    entry.apply([{ kind: 'set', field: 'name', value: 'Rosa nigra' }]);
    expect(verify(entry).map((i) => i.code)).toEqual(['notOffered']);
  });

  test('a failed feed says so, keeps what was chosen, and can be asked again', () => {
    const entry = open();
    entry.apply([{ kind: 'set', field: 'word', value: 'Rosa' }]);
    supply(entry, () => ({ kind: 'failed', reason: 'The service did not answer in 5 seconds.' }));
    expect(entry.offer('name')).toMatchObject({ status: 'failed', reason: 'The service did not answer in 5 seconds.' });
    entry.apply([{ kind: 'set', field: 'name', value: 'Rosa nigra' }]);
    expect(entry.value('name')).toBe('Rosa nigra');
    expect(verify(entry).map((i) => i.code)).toEqual(['unknown']);
    entry.retry();
    supply(entry, (w) => items(String(w.params.genus)));
    expect([entry.value('name'), verify(entry)]).toEqual(['Rosa nigra', []]);
  });

  test('what is missing is said', () => {
    const broken = (source: object): string =>
      compile({ name: { label: 'Name', type: 'choice', source: { kind: 'feed', ...source } } })
        .problems.map((p) => p.message)
        .join(' ');
    expect(broken({ feed: 'none' })).toMatch(/no feed “none”/);
    expect(broken({ feed: 'names' })).toMatch(/needs Genus/);
    expect(broken({ feed: 'names', params: { genus: 'wrong' } })).toMatch(/no field or name “wrong”/);
    expect(feedProblems({ ...NAMES, url: 'https://x.example/{other}' })).toHaveLength(2);
  });
});

describe('attributes of a record, and JSON', () => {
  test('the columns of a chosen row, with what they hold', () => {
    const { species } = LOT_FIELDS as { species: object };
    const entry = openSettled(
      compile({
        species: { ...species, source: { kind: 'rows', table: 'species', show: 'name' } },
        what: { label: 'What', type: 'choice', source: { kind: 'attributes', of: 'species', where: 'choice.value <> "active"' } },
        it: text('what.holds'),
      }),
    );
    expect(entry.offer('what')?.status).toBe('waiting');
    entry.apply([{ kind: 'set', field: 'species', value: 111 }]);
    settleAll(entry);
    expect(entry.offer('what')?.rows?.map((r) => [r.value, r.holds])).toEqual([
      ['name', 'Fagus sylvatica'],
      ['genus', 'Fagus'],
      ['storage_c', '-5'],
      ['germination_days', '60'],
    ]);
    entry.apply([{ kind: 'set', field: 'what', value: 'germination_days' }]);
    expect(entry.value('it')).toBe('60');
    entry.apply([{ kind: 'set', field: 'species', value: 211 }]);
    expect(entry.value('it')).toBe('45');
  });

  test('JSON typed by hand, and JSON held in a field', () => {
    const entry = openSettled(
      compile({
        by_hand: { label: 'H', type: 'choice', source: { kind: 'json', text: '[{"value":"a","label":"Alpha"},"b",7]' } },
        data: { label: 'D', type: 'json' },
        key: { label: 'K', type: 'choice', source: { kind: 'attributes', of: 'data' } },
        label: text('by_hand.label & key.holds'),
      }),
    );
    expect(entry.offer('by_hand')?.rows?.map((r) => r.label)).toEqual(['Alpha', 'b', '7']);
    entry.apply([
      { kind: 'set', field: 'by_hand', value: 'a' },
      { kind: 'set', field: 'data', value: '{"depth": 12, "soil": "peat"}' },
      { kind: 'set', field: 'key', value: 'soil' },
    ]);
    expect(entry.value('label')).toBe('Alphapeat');
    expect(entry.apply([{ kind: 'set', field: 'data', value: '{"depth": 12' }]).refused[0]?.message).toMatch(/not valid JSON/);
    expect(compile({ x: { label: 'X', type: 'choice', source: { kind: 'json', text: '[1,' } } }).problems[0]?.message).toMatch(
      /not valid JSON/,
    );
  });

  test('candidates of any JSON; paths', () => {
    expect(candidatesOf([{ id: 5, name: 'Five' }, null, {}, 'x', 'x']).map((r) => [r.value, r.label])).toEqual([
      ['5', 'Five'],
      ['x', 'x'],
    ]);
    expect(keysOfJson('')).toEqual({ ok: true, rows: [] });
    expect(atPath({ a: [{ b: 1 }] }, 'a.0.b')).toBe(1);
    expect(atPath({ a: 1 }, 'a.b.c')).toBe(undefined);
    expect(atPath({}, 'constructor')).toBe(undefined);
  });
});

describe('subsets, parents, the address, the stored record', () => {
  const tables = new Map(SEEDBANK_TABLES);
  tables.set('species', {
    ...tables.get('species')!,
    subsets: [
      { key: 'in_use', label: 'In use', condition: 'choice.active' },
      { key: 'bad', label: 'Bad', condition: 'choice.nope' },
    ],
  });
  const species = (more: object): object => ({
    label: 'S',
    type: 'link',
    column: 'species',
    source: { kind: 'rows', table: 'species', show: 'name', ...more },
  });

  test('a subset narrows before the field does, and stands in the funnel', () => {
    const entry = openSettled(
      compileForm(lotForm({ genus: LOT_FIELDS.genus!, species: species({ subset: 'in_use', where: 'choice.genus = genus' }) }), tables),
    );
    entry.apply([{ kind: 'set', field: 'genus', value: 11 }]);
    expect(entry.offer('species')?.funnel?.map((f) => [f.text, f.remaining])).toEqual([
      ['choice.active', 7],
      ['choice.genus = genus', 2],
    ]);
    const problems = (subset: string): string[] =>
      compileForm(lotForm({ species: species({ subset }) }), tables).problems.map((p) => p.message);
    expect(problems('gone')[0]).toMatch(/no subset “gone”/);
    expect(problems('bad')[0]).toMatch(/The subset Bad of Species has a mistake/);
  });

  test('the parent record, values of the address, and what was stored before', () => {
    const plan = compile(
      {
        genus: {
          label: 'G',
          type: 'link',
          column: 'genus',
          source: { kind: 'rows', table: 'genera', show: 'name', where: 'choice.family = parent' },
        },
        note: { label: 'N', type: 'text', column: 'note', value: { kind: 'default', formula: 'parent.name & "/" & entry.url.bench' } },
        grown: { label: 'Grown', type: 'number', value: { kind: 'calculation', formula: 'quantity_g - before.quantity_g' } },
        quantity_g: LOT_FIELDS.quantity_g!,
      },
      'families',
    );
    expect(plan.problems).toEqual([]);
    const entry = openSettled(plan, { parent: 2, url: { bench: 'B4' } });
    expect(entry.value('note')).toBe('Rosaceae/B4');
    expect(entry.offer('genus')?.rows?.map((r) => r.id)).toEqual([22, 21]);
    const stored = openSettled(plan, { mode: 'edit', parent: 2 }, { values: { quantity_g: 5 }, origins: {} });
    stored.apply([{ kind: 'set', field: 'quantity_g', value: 8 }]);
    expect(stored.value('grown')).toBe(3);
  });

  test('a value from the address that is not offered goes; one chosen by hand stays, flagged', () => {
    const open = (): Entry => openSettled(compileForm(lotForm({ species: species({ where: 'choice.active' }) }), tables));
    const fromUrl = open();
    fromUrl.apply([{ kind: 'set', field: 'species', value: 103, by: 'url' }]);
    expect(fromUrl.value('species')).toBe(null);
    const byHand = open();
    byHand.apply([{ kind: 'set', field: 'species', value: 103 }]);
    expect([byHand.value('species'), byHand.state('species').gone]).toEqual([103, true]);
  });

  test('several links at once: each must be offered, those lost go alone', () => {
    const several = {
      label: 'Several',
      type: 'links',
      source: { kind: 'rows', table: 'species', show: 'name', where: 'choice.genus = genus' },
    };
    const fields = {
      genus: { ...LOT_FIELDS.genus, source: { kind: 'rows', table: 'genera', show: 'name' } },
      several,
      n: { label: 'n', type: 'number', value: { kind: 'calculation', formula: 'SUM(several.storage_c)' } },
    };
    const entry = openSettled(compileForm(lotForm(fields), tables));
    entry.apply([
      { kind: 'set', field: 'genus', value: 11 },
      { kind: 'set', field: 'several', value: [101, 102] },
    ]);
    expect(entry.value('n')).toBe(4);
    entry.apply([{ kind: 'set', field: 'several', value: [101, 201] }]);
    expect(verify(entry).map((i) => i.code)).toEqual(['notOffered']);
    entry.apply([{ kind: 'set', field: 'genus', value: 21 }]);
    expect(entry.value('several')).toEqual([201]);
  });
});
