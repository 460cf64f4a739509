import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Heap, order } from './graph.ts';

const graph = fc
  .integer({ min: 1, max: 12 })
  .chain((n) => fc.array(fc.uniqueArray(fc.nat(n - 1), { maxLength: 4 }), { minLength: n, maxLength: n }));

test('every node comes after what it reads, unless both are in one circle', () => {
  fc.assert(
    fc.property(graph, (reads) => {
      const { order: sorted, cycles } = order(reads);
      expect([...sorted].sort((a, b) => a - b)).toEqual(reads.map((_, i) => i));
      const place = new Map(sorted.map((node, i) => [node, i]));
      const reaches = (from: number, to: number, seen = new Set<number>()): boolean =>
        from === to || (!seen.has(from) && (seen.add(from), (reads[from] ?? []).some((s) => reaches(s, to, seen))));
      reads.forEach((sources, node) => {
        for (const s of sources) {
          const circular = reaches(s, node);
          if (!circular) expect(place.get(s)!).toBeLessThan(place.get(node)!);
          if (circular && s !== node) expect(cycles.length).toBeGreaterThan(0);
        }
      });
      for (const cycle of cycles) {
        // each in turn is read by the next, and the last by the first
        for (const [i, node] of cycle.entries())
          expect(reads[cycle[(i + 1) % cycle.length]!]!.includes(node) || reads[node]!.includes(cycle[(i + 1) % cycle.length]!)).toBe(true);
      }
    }),
    { numRuns: 2000 },
  );
});

test('a heap gives its numbers in order', () => {
  fc.assert(
    fc.property(fc.array(fc.nat()), (xs) => {
      const heap = new Heap();
      xs.forEach((x) => heap.push(x));
      const out: number[] = [];
      for (let x = heap.pop(); x !== undefined; x = heap.pop()) out.push(x);
      expect(out).toEqual([...xs].sort((a, b) => a - b));
      expect(heap.size).toBe(0);
    }),
  );
});
