import { expect, test } from 'vitest';
import { testScope } from '../testing/scope.ts';
import { completionsAt, signatureAt } from './complete.ts';

const at = (text: string) => completionsAt(text, text.length, testScope());
const names = (text: string) => at(text)?.options.map((o) => o.text) ?? [];

test('after a dot the columns of the row before it, through any number of links', () => {
  expect(names('species.')).toEqual(['name', 'genus', 'storage_c', 'active']);
  expect(names('1 + species.genus.fam')).toEqual(['name', 'family']);
  expect(at('species.genus.fam')?.from).toBe('species.genus.'.length);
  expect(names('a.')).toEqual([]);
});

test('what is asked of each of a list: its columns, through links, and “each” itself; nowhere else', () => {
  const found = 'GATHER(species, choice.active)';
  expect(names(`ANYOF(${found}, each.`)).toEqual(['name', 'genus', 'storage_c', 'active']);
  expect(names(`a > 1 AND countof(${found}, each.genus.family.`)).toEqual(['name']);
  expect(names(`NONEOF(${found}, each.active AND (each.sto`)).toContain('storage_c');
  expect(names(`ALLOF(${found}, ea`)).toContain('each');
  expect(names(`ANYOF(${found}, each.name = ")", each.`)).toContain('name');
  for (const outside of [`ANYOF(${found}.`, 'ea', `ANYOF(${found}, each.active) AND ea`, `ANYOF(${found}, each.active) AND each.`])
    expect(names(outside)).not.toContain('each');
  expect(names(`ANYOF(${found}, each.active) AND each.`)).toEqual([]);
  expect(names('ANYOF(((, each.')).toEqual([]);
});

test('elsewhere names and functions, with their types; none inside a text or a number', () => {
  expect(names('sp')).toContain('species');
  expect(names('sp')).toContain('SUM');
  expect(at('sp')?.options.find((o) => o.text === 'species')?.detail).toBe('a row of Species');
  expect(at('sp')?.options.find((o) => o.text === 'TODAY')?.insert).toBe('TODAY()');
  expect(at('"sp')).toBe(null);
  expect(at('12')).toBe(null);
  expect(at('')?.typing).toBe(false);
});

test('inside brackets: the signature of the function with the parameter being written', () => {
  const help = (text: string): string | null => {
    const found = signatureAt(text, text.length);
    return found && `${found.signature.slice(0, 6)} ${found.active ? found.signature.slice(found.active.from, found.active.to) : '-'}`;
  };
  expect(help('ROUND(')).toBe('ROUND( number');
  expect(help('1 + ROUND(a * 2, ')).toBe('ROUND( [digits]');
  expect(help('IF(a > 1, ROUND(b, 1), ')).toBe('IF(con [otherwise]');
  expect(help('TEXTJOIN(",", TRUE, a, b, c')).toBe('TEXTJO text …');
  expect(help('IF("a, (b", ')).toBe('IF(con then');
  expect(help('ROUND(a)')).toBe(null);
  expect(help('NOSUCH(a')).toBe(null);
  expect(help('ROUND(a, 1, 2')).toBe('ROUND( -');
});
