import { describe, expect, test } from 'vitest';
import { compileForm } from '../engine/compile.ts';
import { SEEDBANK_TABLES, table } from '../testing/seedbank.ts';
import { formOfTable } from './fromTable.ts';

describe('a form over a table that is there', () => {
  test('has a field for each column, in their order, and links choose rows by what they are known by', () => {
    // a table that has no column to be known by cannot be chosen from
    const isNamed = (key: string | null): boolean => key === null || SEEDBANK_TABLES.get(key)!.columns.some((c) => c.key === SEEDBANK_TABLES.get(key)!.shown); // prettier-ignore
    const all = [...SEEDBANK_TABLES.values()].filter((t) => t.columns.every((c) => isNamed(c.target)));
    expect(all.length).toBeGreaterThanOrEqual(5);
    for (const { key, columns } of all) {
      const form = formOfTable('entry', 'Entry', key, SEEDBANK_TABLES);
      expect(form.pages[0]!.sections[0]!.fields).toEqual(columns.map((c) => c.key));
      expect(Object.values(form.fields).map((f) => [f.column, f.type, f.label])).toEqual(columns.map((c) => [c.key, c.type, c.label]));
      // as it is, it could be published
      const { problems } = compileForm(form, SEEDBANK_TABLES);
      expect(problems.filter((p) => p.severity === 'error'), key).toEqual([]); // prettier-ignore
    }
  });
  test('of a table without columns, or one that is not there, it has none', () => {
    expect(formOfTable('entry', 'Entry', 'gone', SEEDBANK_TABLES).fields).toEqual({});
    expect(formOfTable('entry', 'Entry', 'bare', new Map([['bare', table('bare', {})]])).pages[0]!.sections[0]!.fields).toEqual([]);
  });
});
