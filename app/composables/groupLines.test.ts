import fc from 'fast-check';
import { expect, test } from 'vitest';
import { GroupLines } from './groupLines';

test('the lines are the heads of the groups, with the rows of those that are open, in order; any stretch of them needs just its rows', () => {
  fc.assert(
    fc.property(
      fc.array(fc.nat(6), { minLength: 1, maxLength: 8 }),
      fc.array(fc.nat(8)),
      fc.nat(60),
      fc.nat(20),
      (counts, shutGroups, from, span) => {
        const shut = new Set(shutGroups);
        const expected: (string | number)[] = [];
        let row = 0;
        counts.forEach((count, g) => {
          expected.push(`group ${g}`);
          for (let i = 0; i < count; i++, row++) if (!shut.has(g)) expected.push(row);
        });
        const lines = new GroupLines(counts, shut);
        const shown = Array.from({ length: lines.length }, (_, i) => lines.at(i)).map((l) => (l.row === null ? `group ${l.group}` : l.row));
        expect(shown).toEqual(expected);
        const needed = lines.rowsIn(from, from + span).flatMap(([a, b]) => Array.from({ length: b - a + 1 }, (_, i) => a + i));
        expect(needed).toEqual(expected.slice(from, from + span + 1).filter((x) => typeof x === 'number'));
      },
    ),
  );
});
