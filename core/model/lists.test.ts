import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  type OptionItem,
  branchEnd,
  findOptions,
  indentBranch,
  levelsOf,
  listProblems,
  moveBranch,
  optionRowsOf,
  outlineLines,
  parseOutline,
  readOutline,
  settleDepths,
} from './lists.ts';
import { optionListSchema } from './schemas.ts';

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

  test('without what is below shut items: the others in order, and each of them says what it is', () => {
    const made = fc.array(fc.record({ depth: fc.nat(4), isShut: fc.boolean() }), { maxLength: 40 });
    fc.assert(
      fc.property(made, (of) => {
        const items = settleDepths(of.map(({ depth }, i) => ({ ...parseOutline(`v${i}`)[0]!, depth })));
        const shut = new Set(items.filter((_, i) => of[i]!.isShut).map((i) => i.value));
        // seen: whatever has no shut item above it
        const above = (i: number): number[] => items.flatMap((_, j) => (j < i && branchEnd(items, j) > i ? [j] : []));
        const seen = items.flatMap((_, i) => (above(i).some((j) => of[j]!.isShut) ? [] : [i]));
        const lines = outlineLines(items, shut);
        expect(lines.map((l) => l.place)).toEqual(seen);
        for (const l of lines) {
          const hasBelow = branchEnd(items, l.place) > l.place + 1;
          expect(l).toEqual({ item: items[l.place], place: l.place, hasBelow, isShut: hasBelow && of[l.place]!.isShut });
        }
        // one item is another, or the first is shut: all other lines stay what they are, where nothing moves
        expect(outlineLines([...items], shut, lines).every((l, i) => l === lines[i])).toBe(true);
        const changed = items.map((x, i) => (i === 1 ? { ...x, label: 'another' } : x));
        expect(outlineLines(changed, shut, lines)).toEqual(outlineLines(changed, shut));
        expect(outlineLines(changed, shut, lines).filter((l, i) => l !== lines[i]).length).toBe(seen.includes(1) ? 1 : 0);
        const shutMore = new Set([...shut, 'v0']);
        expect(outlineLines(items, shutMore, lines)).toEqual(outlineLines(items, shutMore));
        expect(outlineLines(items, new Set(), lines)).toEqual(outlineLines(items));
      }),
    );
  });

  test('is searched by all words of a text, in labels and stored values', () => {
    const items = parseOutline('h = Wet Heath\nf = Fen meadow\n  g = Wet fen\nfen dry');
    expect(findOptions(items, 'FEN')).toEqual([1, 2, 3]);
    expect(findOptions(items, ' fen  wet ')).toEqual([2]);
    expect(findOptions(items, 'g')).toEqual([2]);
    expect([findOptions(items, ' '), findOptions(items, 'oak')]).toEqual([[], []]);
    // an item that was changed is another
    expect(findOptions(items.map((i) => ({ ...i, label: 'oak' })), 'oak')).toEqual([0, 1, 2, 3]); // prettier-ignore
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

  test.each([
    ['a line that is too long', 'x'.repeat(201), /longer than 200 characters/],
    ['too many levels', Array.from({ length: 22 }, (_, i) => `${' '.repeat(i)}l${i}`).join('\n'), /level 22; a list has at most 21/],
    ['too many levels, as columns', Array.from({ length: 40 }, (_, i) => `l${i}`).join('\t'), /level 22/],
    ['too many lines', 'x\n'.repeat(20_001), /at most 20,000 choices/],
    ['a value given twice', 'v = One\nV = Two', /store the same value/],
    ['half a character', 'a\ud800', /./],
  ])('an outline with %s is told, not taken', (_, text, message) => {
    expect(readOutline(text).problems[0]).toMatch(message);
  });
  test('an outline at its limits is taken', () => {
    const text = [...Array.from({ length: 21 }, (_, i) => `${'\t'.repeat(i)}level ${i}`), ...Array.from({ length: 19_979 }, (_, i) => `c${i} ${'x'.repeat(150)}`)]; // prettier-ignore
    const { items, problems } = readOutline(text.join('\n'));
    expect(problems).toEqual([]);
    expect(items).toHaveLength(20_000);
    expect(optionListSchema.safeParse({ key: 'a', label: 'A', items }).success).toBe(true);
  });
  test('whatever text is read: what has no problem can be stored', () => {
    fc.assert(
      fc.property(fc.array(fc.stringMatching(/^[ \t]{0,4}[a-c=\t ]{0,12}$/), { maxLength: 30 }), (lines) => {
        const { items, problems } = readOutline(lines.join('\n'));
        if (!problems.length) expect(optionListSchema.safeParse({ key: 'a', label: 'A', items }).success).toBe(true);
      }),
    );
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
