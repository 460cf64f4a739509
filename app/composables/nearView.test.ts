import { nextTick } from 'vue';
import { expect, test, vi } from 'vitest';
import { whenIdle } from './nearView';

test('what is not near is drawn a few at a time: the time its drawing takes counts', async () => {
  const turns: (() => void)[] = [];
  let now = 0;
  vi.stubGlobal('window', { requestIdleCallback: (work: () => void) => void turns.push(work) });
  vi.stubGlobal('performance', { now: () => now });
  let drawn = 0;
  // what is revealed is drawn a moment later, and takes 5 ms
  const reveal = () => (): void => void nextTick(() => ((drawn += 1), (now += 5)));
  for (let i = 0; i < 20; i++) whenIdle(reveal());
  const stop = whenIdle(() => expect.unreachable());
  stop();
  const seen: number[] = [];
  while (turns.length) {
    turns.shift()!();
    for (let i = 0; i < 100; i++) await nextTick();
    seen.push(drawn);
  }
  expect(drawn).toBe(20);
  expect(seen.length).toBeGreaterThan(4);
  expect(Math.max(...seen.map((n, i) => n - (seen[i - 1] ?? 0)))).toBeLessThanOrEqual(4);
  vi.unstubAllGlobals();
});
