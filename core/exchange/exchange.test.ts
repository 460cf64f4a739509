import { parse } from 'csv-parse/sync';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { guessType, readCell } from './columns.ts';
import { csvCell, csvText, uncell } from './csv.ts';
import { TextMatcher, matchWays, nameLikeness } from './match.ts';

describe('the type of a column is guessed', () => {
  test.each([
    ['number', ['1', '2.5', '', '−3']],
    ['number', ['0', '1', '1']],
    ['text', ['007', '012']],
    ['date', ['2026-03-01', '1.4.2026']],
    ['datetime', ['2026-03-01 10:00', '2026-03-02']],
    ['time', ['9:30', '10:15']],
    ['number', ['930', '1015']],
    ['yesno', ['yes', 'No', '']],
    ['text', ['12', 'twelve']],
    ['text', ['', '']],
    ['longtext', ['first line\nsecond']],
  ])('%s from %j', (type, texts) => {
    expect(guessType(texts)).toBe(type);
  });

  test('white space alone is empty in every type', () => {
    for (const type of ['text', 'number', 'date', 'time', 'datetime', 'yesno'] as const)
      expect(readCell(type, '  ')).toEqual({ ok: true, value: null });
  });
});

describe('texts are matched to rows', () => {
  const rows = [
    { id: 1, text: 'Kelter Bog' },
    { id: 2, text: 'Adder Carr' },
    { id: 3, text: 'Twin' },
    { id: 4, text: 'twin' },
  ];
  test('case-blind and nothing else; what is nearly the same is offered, not taken', () => {
    const matcher = new TextMatcher(rows, new Map([['Adder C.', 2], ['nobody', null]])); // prettier-ignore
    const texts = ['kelter bog', 'Kelter  Bog', 'Adder-Carr', '', 'Old Decoy', 'Old Decoy', 'Adder C.', 'nobody'];
    expect(texts.map((t, i) => matcher.match(t, i + 1))).toEqual([1, null, null, null, null, null, 2, null]);
    expect(matcher.unmatched().map((u) => [u.value, u.count, u.firstLine, u.near[0]?.id])).toEqual([
      ['Kelter  Bog', 1, 2, 1],
      ['Adder-Carr', 1, 3, 2],
      ['Old Decoy', 2, 5, undefined],
    ]);
  });

  test('a text that two rows are known by matches neither', () => {
    const matcher = new TextMatcher(rows);
    expect(matcher.match('Twin', 1)).toBe(null);
    expect(matcher.unmatched()[0]?.near.map((n) => n.id)).toEqual([3, 4]);
  });

  test('only what is beyond doubt may be taken unseen: no codes, no other figures, nothing with a second near it', () => {
    const matcher = new TextMatcher([...rows, { id: 5, text: 'Plot 12' }, { id: 6, text: 'QR' }, { id: 7, text: 'Wending Valley' }]);
    for (const text of ['kelter-bog', 'Kelter Bok', 'Plot 13', 'QB', 'Wendig Valley', 'Twin']) matcher.match(text, 1);
    expect(matcher.unmatched().map((u) => [u.value, u.sure])).toEqual([
      ['kelter-bog', true],
      ['Kelter Bok', true],
      ['Plot 13', false],
      ['QB', false],
      ['Wendig Valley', true],
      ['Twin', false],
    ]);
  });
});

describe('by which column rows are named', () => {
  const columns = new Map<string, readonly (string | null)[]>([
    ['name', ['Ida Fenn', 'Tom Reed', 'Nell Carr']],
    ['email', ['ida@a.example', 'tom@a.example', null]],
    ['team', ['Field', 'Field', 'Lab']],
    ['first', ['Ida', 'Tom', 'Nell']],
    ['last', ['Fenn', 'Reed', 'Carr']],
  ]);
  test('the one that names most; the shown one wins over others as good; one that tells no rows apart is no way', () => {
    expect(matchWays(['ida@a.example', 'TOM@a.example', 'x'], columns, 'name')[0]).toEqual({ by: ['email'], share: 2 / 3 });
    expect(matchWays(['Ida Fenn'], columns, 'name')[0]).toEqual({ by: ['name'], share: 1 });
    expect(matchWays(['Field', 'Lab'], columns, 'name')).toEqual([]);
    expect(matchWays([], columns, 'name')).toEqual([]);
  });
  test('two together, whatever stands between them', () => {
    expect(matchWays(['Fenn, Ida', 'Carr/Nell'], columns, 'name')[0]).toEqual({ by: ['last', 'first'], share: 1 });
  });
  test('names are preferred over codes as what rows are known by', () => {
    const score = (header: string, texts: string[]): number => nameLikeness(header, texts);
    expect(score('title', ['A1'])).toBeGreaterThan(score('code', ['A1']));
    expect(score('b', ['Kelter Bog', 'Adder Carr'])).toBeGreaterThan(score('a', ['KB-1', 'AC-2']));
    expect(score('mail', ['ida@a.example'])).toBeLessThan(score('who', ['Ida Fenn']));
  });
});

describe('CSV cells', () => {
  test('formulas are disarmed, numbers are not, and what is written reads back', () => {
    expect(csvCell('=SUM(A1)', true)).toBe("'=SUM(A1)");
    expect(csvCell('-20', false)).toBe('-20');
    expect(csvCell('a,"b"', true)).toBe('"a,""b"""');
    expect(csvCell(' heath ', true)).toBe('" heath "');
    fc.assert(
      fc.property(fc.array(fc.string({ unit: 'grapheme', minLength: 1 }), { minLength: 1, maxLength: 5 }), (texts) => {
        const line = texts.map((t) => csvCell(t, true)).join(',');
        const [read] = parse(line, { relax_column_count: true }) as string[][];
        expect(read?.map(uncell)).toEqual(texts);
      }),
    );
    // texts made to be run: behind what other languages put between cells, and behind quotes
    const sly = fc.string({ unit: fc.constantFrom(';', '\t', '\n', '\r', "'", '"', ' ', '=', '+', '-', '@', 'a', ','), maxLength: 14 });
    fc.assert(
      fc.property(fc.array(sly, { minLength: 1, maxLength: 4 }), (texts) => {
        const line = texts.map((t) => csvCell(t, true)).join(',');
        const [read] = parse(line === '' ? '""' : line, { relax_column_count: true }) as string[][];
        expect(read?.map(uncell)).toEqual(texts);
        for (const part of `x,${line}`.split(/[;\t]/)) expect(part, line).not.toMatch(/^[" ]*[=+\-@]/);
      }),
      { numRuns: 1000 },
    );
    expect(csvText({ type: 'datetime' }, '2026-03-01T10:00:00')).toBe('2026-03-01 10:00:00');
    expect(csvText({ type: 'number' }, 1e21)).toBe('1000000000000000000000');
  });
});
