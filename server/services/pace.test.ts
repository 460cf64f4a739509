import { MessageChannel } from 'node:worker_threads';
import { expect, test, vi } from 'vitest';
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
  // none is left behind
  const counts = { a: 0, b: 0, c: 0, d: 0 };
  for (const w of works) {
    counts[w as 'a']++;
    const all = Object.values(counts);
    expect(Math.max(...all) - Math.min(...all), works.join('')).toBeLessThan(3);
  }
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

/** Notes each turn of what comes from outside, until it is told that all is over. */
function watched(log: string[]): () => void {
  let isOver = false;
  const outside = (): void => {
    log.push('in');
    if (!isOver) setImmediate(outside);
  };
  setImmediate(outside);
  return () => (isOver = true);
}

test('many short works that come in at once are done in as many turns as one long one would be', async () => {
  const log: string[] = [];
  const over = watched(log);
  const done: Promise<void>[] = [];
  // each by itself, as requests come in that were sent at the same time
  const { port1, port2 } = new MessageChannel();
  port2.on('message', () => {
    const work = async (): Promise<void> => {
      const pace = new Pace();
      await pace.rest();
      compute(4);
      log.push('w');
      await pace.rest();
    };
    done.push(work());
  });
  for (let i = 0; i < 20; i++) port1.postMessage(i);
  await vi.waitFor(() => expect(done).toHaveLength(20));
  await Promise.all(done);
  over();
  port1.close();
  // of 4 ms each, three take the ten that a turn has
  for (const turn of log.join('').split('in')) expect(turn.length, log.join(' ')).toBeLessThanOrEqual(3);
  expect(log.filter((l) => l === 'w')).toHaveLength(20);
});

test('what is soon done need not wait behind all that takes long, which goes on all the same', async () => {
  const log: string[] = [];
  const over = watched(log);
  const work = async (name: string, parts: number, ms: number): Promise<void> => {
    const pace = new Pace();
    for (let i = 0; i < parts; i++) {
      compute(ms);
      log.push(name);
      await pace.rest();
    }
  };
  const long = ['a', 'b', 'c', 'd', 'e', 'f'].map((name) => work(name, 8, 11));
  // until each has gone on for so long that it counts as long
  await vi.waitFor(() => expect(log.filter((l) => l === 'f').length).toBeGreaterThan(3));
  const from = log.length;
  await work('s', 2, 11);
  const meanwhile = log.slice(from).filter((l) => l !== 'in');
  await Promise.all(long);
  over();
  // in the order in which they came it would have waited for six of them each time, and not for one
  expect(meanwhile.filter((l) => l !== 's').length, meanwhile.join(' ')).toBeLessThan(6);
  expect(meanwhile.filter((l) => l !== 's').length, meanwhile.join(' ')).toBeGreaterThan(0);
  expect(log.filter((l) => 'abcdef'.includes(l))).toHaveLength(48);
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

test('where something takes long, turns are shorter', async () => {
  /** How many parts of short works that come in together are done in one turn, at most. */
  const mostInTurn = async (): Promise<number> => {
    const log: string[] = [];
    const over = watched(log);
    const work = async (): Promise<void> => {
      const pace = new Pace();
      compute(1);
      await pace.rest();
      compute(2);
      log.push('w');
      await pace.rest();
    };
    await Promise.all(Array.from({ length: 24 }, work));
    over();
    return Math.max(...log.join('').split('in').map((turn) => turn.length)); // prettier-ignore
  };
  // whatever was long before this is over
  await new Promise((resolve) => setTimeout(resolve, 300));
  const alone = await mostInTurn();
  await othersFirst();
  const beside = await mostInTurn();
  expect(beside).toBeLessThan(alone);
  expect(beside).toBeLessThanOrEqual(4);
});
