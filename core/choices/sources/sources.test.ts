import { describe, expect, test } from 'vitest';
import { compileForm } from '../../engine/compile.ts';
import { formSchema, parseForm } from '../../form/schemas.ts';
import { feedSchema } from '../../model/schemas.ts';
import { optionListSchema } from '../../model/schemas.ts';
import { COLUMN_TYPES, KINDS } from '../../values/kinds/index.ts';
import { SEEDBANK_TABLES, lotForm } from '../../testing/seedbank.ts';
import { type FieldSource, type SourceKindName, sourceMembers, sourceNamed, sourceRows, sourceStores, sourceValues } from './index.ts';
import { sourceSchema } from './schemas.ts';

/* What every kind of source must be able to do, whichever it is. */

const LISTS = new Map([['storage', optionListSchema.parse({ key: 'storage', label: 'Storage', items: [{ value: 'dry', label: 'Dry', depth: 0 }, { value: 'cold', label: 'Cold', depth: 0, retired: true }] })]]); // prettier-ignore
const FEEDS = new Map([['names', feedSchema.parse({ key: 'names', label: 'Names', url: '/names?q={q}', params: [{ key: 'q', label: 'Text' }], attributes: [{ key: 'author', label: 'Author', path: 'author' }] })]]); // prettier-ignore
const WORLD = { tables: SEEDBANK_TABLES, lists: LISTS, feeds: FEEDS };

const WHOLE: Readonly<Record<SourceKindName, object>> = {
  rows: { table: 'species', show: 'name', shownAs: 'TEMPLATE("{choice.name}")', beside: ['storage_c'], search: ['name'], sort: ['name'], where: 'choice.active' },
  options: { options: [{ value: 'a', label: 'A' }], where: 'choice.value <> "b"' },
  list: { list: 'storage', level: 1, where: 'choice.level = 1' },
  distinct: { table: 'species', values: 'name', where: 'choice.active' },
  feed: { feed: 'names', params: { q: '"oak"' }, where: 'choice.author <> ""' },
  attributes: { of: 'family', where: 'choice.label <> "x"' },
  json: { text: '["a", "b"]', where: 'choice.value <> "c"' },
}; // prettier-ignore
const KIND_NAMES = Object.keys(WHOLE) as SourceKindName[];
const source = (kind: SourceKindName, more: object = {}): FieldSource => sourceSchema.parse({ ...WHOLE[kind], kind, ...more });
/** A form with one link to fall back on, and a field that chooses out of a source. */
const problems = (kind: SourceKindName, more: object = {}, type = sourceStores(kind) === 'row' ? 'link' : 'choice') => {
  const family = { label: 'Family', type: 'link', column: 'family', source: { kind: 'rows', table: 'families', show: 'name' } };
  const form = lotForm({ family, chosen: { label: 'Chosen', type, source: source(kind, more) } });
  return compileForm(form, SEEDBANK_TABLES, LISTS, FEEDS).problems.filter((p) => p.severity === 'error' && p.field === 'chosen');
};

describe.each(KIND_NAMES)('a source of kind %s', (kind) => {
  test('is read from a definition, and written as it was', () => {
    const read = source(kind);
    expect(sourceSchema.parse(JSON.parse(JSON.stringify(read)))).toEqual(read);
    const form = lotForm({ chosen: { label: 'Chosen', type: 'choice', source: read } });
    expect(formSchema.parse(JSON.parse(JSON.stringify(form)))).toEqual(parseForm(form));
  });
  test('compiles without a problem when all it names is there', () => expect(problems(kind)).toEqual([]));
  test('is refused, with a sentence, by a field that stores something else', () => {
    const other = COLUMN_TYPES.filter((t) => KINDS[t].chooses !== null && KINDS[t].chooses !== sourceStores(kind));
    for (const type of other)
      expect(
        problems(kind, {}, type).map((p) => p.code),
        type,
      ).toEqual(['noSource']);
  });
  test('its narrowing, and every formula it has, is passed through with its part', () => {
    const parts: string[] = [];
    const named = sourceNamed(source(kind), {
      table: (k) => k, column: (_, k) => k, subset: (_, k) => k, list: (k) => k, feed: (k) => k,
      formula: (part, text) => (parts.push(part), `${text} `),
    }); // prettier-ignore
    expect(parts).toContain('where');
    const formulas: Partial<Record<SourceKindName, string>> = { rows: 'shownAs', feed: 'params.q', attributes: 'of' };
    if (formulas[kind]) expect(parts).toContain(formulas[kind]);
    expect(named).not.toEqual(source(kind));
    expect(named.where).toBe(`${source(kind).where} `);
  });
  test('gives either rows of a table, or choices of which formulas know more than the value', () => {
    const of = source(kind);
    if (sourceStores(kind) === 'row') expect([sourceRows(of), sourceMembers(of, WORLD)]).toEqual(['species', null]);
    else expect(sourceRows(of)).toBe(null);
    const values = sourceValues(of, WORLD);
    if (values) expect(values.every((v) => typeof v === 'string')).toBe(true);
  });
});

test.each<[SourceKindName, object, string]>([
  ['rows', { table: 'nowhere' }, 'noTable'],
  ['rows', { show: null }, 'noShownColumn'],
  ['rows', { beside: ['nothing'] }, 'noColumn'],
  ['rows', { subset: 'nothing' }, 'noSubset'],
  ['distinct', { table: 'nowhere' }, 'noTable'],
  ['distinct', { values: 'storage_c' }, 'noColumn'],
  ['list', { list: 'nowhere' }, 'noTable'],
  ['list', { level: 3 }, 'noOptions'],
  ['options', { options: [] }, 'noOptions'],
  ['json', { text: '{' }, 'noOptions'],
  ['feed', { feed: 'nowhere' }, 'noFeed'],
  ['feed', { params: {} }, 'noFeed'],
  ['attributes', { of: '' }, 'noSource'],
  ['attributes', { of: '1 + 2' }, 'noSource'],
])('%s with %j is told as %s', (kind, more, code) => expect(problems(kind, more).map((p) => p.code)).toContain(code));
