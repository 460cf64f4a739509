import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  type OptionItem,
  branchEnd,
  indentBranch,
  levelsOf,
  listProblems,
  moveBranch,
  optionRowsOf,
  parseOutline,
  settleDepths,
} from './lists.ts';

const outline = (items: readonly OptionItem[]): string[] => items.map((i) => `${'  '.repeat(i.depth)}${i.label}`);
const PURPOSES = ['Research', '  Germination', '  Genetics', 'Restoration', '  Wet heath', '    Peat restored', '  Dry heath', 'Teaching'];

describe('an outline', () => {
  test('is read from indented text, with values apart where they are given', () => {
    const items = parseOutline(PURPOSES.join('\n'));
    expect(outline(items)).toEqual(PURPOSES);
    expect(parseOutline('res = Research\n\tgen = Genetics').map((i) => [i.value, i.label, i.depth])).toEqual([
      ['res', 'Research', 0],
      ['gen', 'Genetics', 1],
    ]);
  });

  test('is read from columns, repeated parents once', () => {
    const text = 'Research\tGermination\nResearch\tGenetics\nRestoration\tWet heath\tPeat restored\nTeaching\t';
    expect(outline(parseOutline(text))).toEqual([
      'Research',
      '  Germination',
      '  Genetics',
      'Restoration',
      '  Wet heath',
      '    Peat restored',
      'Teaching',
    ]);
  });

  test('values used before get a number behind, so that none is stored twice', () => {
    expect(parseOutline('Other\nother', ['OTHER']).map((i) => i.value)).toEqual(['Other 2', 'other 3']);
  });

  test('a branch moves and indents as a whole', () => {
    const items = parseOutline(PURPOSES.join('\n'));
    const moved = moveBranch(items, 3, -1);
    expect(outline(moved.items).slice(0, 4)).toEqual(['Restoration', '  Wet heath', '    Peat restored', '  Dry heath']);
    expect(moved.index).toBe(0);
    expect(moveBranch(items, 0, -1).items).toBe(items);
    expect(moveBranch(moved.items, 0, 1).items).toEqual(items);
    expect(outline(indentBranch(items, 3, 1)).slice(3, 6)).toEqual(['  Restoration', '    Wet heath', '      Peat restored']);
    expect(indentBranch(items, 0, 1)).toBe(items);
    expect(branchEnd(items, 3)).toBe(7);
  });

  test('as candidates: parent, level, path; below a retired one all are retired', () => {
    const items = parseOutline(PURPOSES.join('\n')).map((i) => (i.label === 'Restoration' ? { ...i, retired: true } : i));
    const list = { key: 'purposes', label: 'Purposes', items };
    expect(levelsOf(list)).toBe(3);
    expect(optionRowsOf(list, 2).map((r) => [r.label, r.parent, r.retired])).toEqual([
      ['Germination', 'Research', false],
      ['Genetics', 'Research', false],
      ['Wet heath', 'Restoration', true],
      ['Dry heath', 'Restoration', true],
    ]);
    expect(optionRowsOf(list, null).find((r) => r.label === 'Peat restored')?.path).toBe('Restoration › Wet heath');
  });

  test('says what is wrong', () => {
    const [a, b] = parseOutline('A\nB') as [OptionItem, OptionItem];
    expect(listProblems([a, { ...b, value: 'a' }])[0]).toMatch(/store the same value/);
    expect(listProblems([a, { ...b, depth: 2 }])[0]).toMatch(/more than one step/);
  });

  test('whatever is done, no item is lost and the outline stays sound', () => {
    const step = fc.record({ at: fc.nat(9), by: fc.constantFrom<1 | -1>(1, -1), move: fc.boolean() });
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 4 }), { minLength: 1, maxLength: 10 }),
        fc.array(step, { maxLength: 12 }),
        (depths, steps) => {
          const start = settleDepths(
            depths.map((depth, i) => ({ value: `v${i}`, label: `l${i}`, depth, colour: null, mark: null, retired: false })),
          );
          const end = steps.reduce<readonly OptionItem[]>(
            (items, s) => (s.move ? moveBranch(items, s.at, s.by).items : indentBranch(items, s.at, s.by)),
            start,
          );
          expect(listProblems(end)).toEqual([]);
          expect(end.map((i) => i.value).sort()).toEqual(start.map((i) => i.value).sort());
        },
      ),
    );
  });
});
