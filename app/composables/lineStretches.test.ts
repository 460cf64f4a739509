import fc from 'fast-check';
import { expect, test } from 'vitest';
import { STRETCH, type Stretch, stretchesOf } from './lineStretches';

const upTo = (n: number): number[] => Array.from({ length: n }, (_, i) => i + 1);
const all = (stretches: readonly Stretch[]): number[] => stretches.flatMap((s) => s.lines);
const ownerOf = (stretches: readonly Stretch[]): Map<number, number> =>
  new Map(stretches.flatMap((s) => s.lines.map((l) => [l, s.key] as const)));

test('many lines begin in stretches of one length', () => {
  const found = stretchesOf(upTo(100));
  expect(found.map((s) => [s.first, s.lines.length])).toEqual([[0, 32], [32, 32], [64, 32], [96, 4]]); // prettier-ignore
});

test('a line that comes in above leaves every other in its stretch', () => {
  const before = stretchesOf(upTo(200));
  const after = stretchesOf([900, ...upTo(200)], before);
  expect(all(after)).toEqual([900, ...upTo(200)]);
  const [was, now] = [ownerOf(before), ownerOf(after)];
  for (const line of upTo(200)) expect(now.get(line)).toBe(was.get(line));
  expect(after[1]!.lines).toBe(before[1]!.lines);
});

test('a line added at the end changes the last stretch alone', () => {
  const before = stretchesOf(upTo(200));
  const after = stretchesOf([...upTo(200), 201], before);
  expect(after.slice(0, -1).every((s, i) => s === before[i])).toBe(true);
});

test('of a line that was moved, only it goes over to another stretch', () => {
  const before = stretchesOf(upTo(200));
  const lines = upTo(200).filter((l) => l !== 10);
  lines.splice(150, 0, 10);
  const [was, now] = [ownerOf(before), ownerOf(stretchesOf(lines, before))];
  for (const line of lines) if (line !== 10) expect(now.get(line)).toBe(was.get(line));
  expect(now.get(10)).toBe(was.get(lines[149]!));
});

test('whatever is done to lines, they stand in their order, each once, in stretches of bounded length', () => {
  const act = fc.record({ kind: fc.constantFrom('add', 'remove', 'move', 'paste'), from: fc.nat(400), to: fc.nat(400) });
  fc.assert(
    fc.property(fc.nat(150), fc.array(act, { maxLength: 40 }), (n, acts) => {
      let lines = upTo(n);
      let next = n + 1;
      let stretches = stretchesOf(lines);
      for (const { kind, from, to } of acts) {
        lines = [...lines];
        if (kind === 'add') lines.splice(to % (lines.length + 1), 0, next++);
        else if (kind === 'paste') lines.push(...Array.from({ length: from }, () => next++));
        else if (lines.length) {
          const [line] = lines.splice(from % lines.length, 1);
          if (kind === 'move') lines.splice(to % (lines.length + 1), 0, line!);
        }
        stretches = stretchesOf(lines, stretches);
        expect(all(stretches)).toEqual(lines);
        expect(new Set(stretches.map((s) => s.key)).size).toBe(stretches.length);
        let first = 0;
        for (const s of stretches) {
          expect(s.first).toBe(first);
          expect(s.lines.length).toBeGreaterThan(0);
          expect(s.lines.length).toBeLessThan(2 * STRETCH + 1);
          first += s.lines.length;
        }
      }
      // what nothing was done to is what it was
      const again = stretchesOf([...lines], stretches);
      expect(again.every((s, i) => s === stretches[i])).toBe(true);
    }),
    { numRuns: 200 },
  );
});
