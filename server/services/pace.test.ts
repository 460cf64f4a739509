import { expect, test } from 'vitest';
import { Pace, othersFirst } from './pace';

/** Computes for so many ms, with nobody else having a turn. */
function compute(ms: number): void {
  for (const began = performance.now(); performance.now() - began < ms;);
}

test('however many long works there are, what comes in has its turn between any two of them', async () => {
  const log: string[] = [];
  let isOver = false;
  const outside = (): void => {
    log.push('in');
    if (!isOver) setImmediate(outside);
  };
  const long = async (name: string): Promise<void> => {
    const pace = new Pace();
    for (let i = 0; i < 4; i++) {
      compute(12);
      log.push(name);
      await pace.rest();
    }
  };
  const all = ['a', 'b', 'c', 'd'].map(long);
  setImmediate(outside);
  await Promise.all(all);
  isOver = true;
  // the first parts are done as the works begin, one behind the other
  const later = log.slice(4);
  const works = later.filter((l) => l !== 'in');
  expect(works).toHaveLength(12);
  for (let i = 1; i < later.length; i++)
    expect([later[i - 1], later[i]].filter((l) => l === 'in').length, later.join(' ')).toBeGreaterThan(0);
  // each in its order, none before another had its turn
  expect(works.join('')).toBe('abcdabcdabcd');
});

test('short ones that wait go on together, in one turn', async () => {
  let turns = 0;
  let isOver = false;
  const count = (): void => {
    turns++;
    if (!isOver) setImmediate(count);
  };
  setImmediate(count);
  const order: number[] = [];
  await Promise.all(
    Array.from({ length: 50 }, async (_, i) => {
      await othersFirst();
      order.push(i);
      // and what each does after it, until it waits for something outside
      await Promise.resolve();
      order.push(i);
    }),
  );
  isOver = true;
  expect(turns).toBeLessThan(4);
  expect(order.filter((_, i) => i % 2 === 0)).toEqual(Array.from({ length: 50 }, (_, i) => i));
  expect(order.filter((_, i) => i % 2 === 1)).toEqual(Array.from({ length: 50 }, (_, i) => i));
});

test('steps are gone through to their end, and what they give is given; what they throw comes out', async () => {
  function* steps(n: number): Generator<void, number> {
    for (let i = 0; i < n; i++) {
      compute(1);
      yield;
    }
    if (n > 30) throw new Error('too many');
    return n;
  }
  expect(await new Pace().through(steps(30))).toBe(30);
  await expect(new Pace().through(steps(31))).rejects.toThrow('too many');
});
