import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { useSaver } from './saver';

/** A server that answers when it is told to. */
function slowServer() {
  const answers: { done: () => void; fail: () => void }[] = [];
  let text = '';
  const sent: string[] = [];
  const saver = useSaver(() => {
    sent.push(text);
    return new Promise<void>((resolve, reject) => answers.push({ done: resolve, fail: () => reject(new Error('no')) }));
  }, 500);
  return { answers, sent, saver, type: (more: string) => ((text += more), saver.touch()) };
}
const soon = (ms = 600): Promise<unknown> => vi.advanceTimersByTimeAsync(ms);

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

describe('a saver', () => {
  test('saves once for many changes, and says when it is done', async () => {
    const { saver, answers, sent, type } = slowServer();
    for (const letter of 'moss') type(letter);
    expect(saver.state.value).toBe('waiting');
    await soon();
    expect([sent, saver.state.value]).toEqual([['moss'], 'saving']);
    answers[0]?.done();
    await soon(0);
    expect(saver.state.value).toBe('saved');
  });

  test('what is typed while a save is on its way is saved after it, and never taken for saved', async () => {
    const { saver, answers, sent, type } = slowServer();
    type('a');
    await soon();
    type('b');
    await soon();
    expect(sent).toEqual(['a']);
    answers[0]?.done();
    await soon();
    expect([sent, saver.state.value]).toEqual([['a', 'ab'], 'saving']);
    answers[1]?.done();
    await soon(0);
    expect(saver.state.value).toBe('saved');
  });

  test('flushing waits for what is on its way and for what was typed meanwhile', async () => {
    const { saver, answers, sent, type } = slowServer();
    type('a');
    let flushed = false;
    void saver.flush().then(() => (flushed = true));
    await soon(0);
    type('b');
    answers[0]?.done();
    await soon(0);
    expect([sent, flushed]).toEqual([['a', 'ab'], false]);
    answers[1]?.done();
    await soon(0);
    expect([flushed, saver.state.value]).toEqual([true, 'saved']);
  });

  test('a save that failed is said; the next change tries again with all of it', async () => {
    const { saver, answers, sent, type } = slowServer();
    type('a');
    await soon();
    answers[0]?.fail();
    await soon(0);
    expect(saver.state.value).toBe('failed');
    type('b');
    await soon();
    answers[1]?.done();
    await soon(0);
    expect([sent, saver.state.value]).toEqual([['a', 'ab'], 'saved']);
  });
});
