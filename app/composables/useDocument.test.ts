import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { ApiError } from './useApi';
import { useDocument } from './useDocument';

interface Text {
  readonly text: string;
}
/** A document with a server that answers when it is told to. */
function slow(sound: (now: Text) => boolean = () => true) {
  const sent: string[] = [];
  const answers: { done: (revision: number) => void; fail: (e: Error) => void }[] = [];
  const doc = useDocument<Text>(
    (now) => {
      sent.push(now.text);
      return new Promise<number>((resolve, reject) => answers.push({ done: resolve, fail: reject }));
    },
    { sound },
  );
  doc.open({ text: '' }, 1);
  return { doc, sent, answers, type: (text: string) => doc.change({ text }) };
}
const soon = (ms = 600): Promise<unknown> => vi.advanceTimersByTimeAsync(ms);

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

describe('a document that saves itself', () => {
  test('saves once for many changes, and says when it is done', async () => {
    const { doc, sent, answers, type } = slow();
    for (const text of ['m', 'mo', 'moss']) type(text);
    expect(doc.state.value).toBe('waiting');
    await soon();
    expect([sent, doc.state.value]).toEqual([['moss'], 'saving']);
    answers[0]?.done(2);
    await soon(0);
    expect([doc.state.value, doc.doc.value?.revision]).toEqual(['saved', 2]);
  });

  test('what is changed while a save is on its way is saved after it, and never taken for saved', async () => {
    const { doc, sent, answers, type } = slow();
    type('a');
    await soon();
    type('b');
    await soon();
    expect(sent).toEqual(['a']);
    answers[0]?.done(2);
    await soon(0);
    expect([sent, doc.state.value]).toEqual([['a', 'b'], 'saving']);
    answers[1]?.done(3);
    await soon(0);
    expect([doc.state.value, doc.now.value?.text]).toEqual(['saved', 'b']);
  });

  test('what could not be saved stays as it is, says why, and is tried again when it is changed or asked for', async () => {
    const { doc, sent, answers, type } = slow();
    type('a');
    await soon();
    answers[0]?.fail(new ApiError(0, 'offline', 'The server cannot be reached.', {}));
    await soon(0);
    expect([doc.state.value, doc.now.value?.text, doc.failure.value]).toEqual(['failed', 'a', 'The server cannot be reached.']);
    void doc.flush();
    await soon(0);
    expect(sent).toEqual(['a', 'a']);
    answers[1]?.done(2);
    await soon(0);
    expect([doc.state.value, doc.failure.value]).toEqual(['saved', '']);
  });

  test('somebody else was first: nothing more is sent until it is read anew', async () => {
    const { doc, sent, answers, type } = slow();
    type('mine');
    await soon();
    answers[0]?.fail(new ApiError(409, 'changedMeanwhile', 'Somebody else saved this.', {}));
    await soon(0);
    expect(doc.conflict.value).toBe(true);
    type('mine again');
    await soon();
    await doc.flush();
    expect(sent).toEqual(['mine']);
    doc.open({ text: 'theirs' }, 7);
    expect([doc.conflict.value, doc.state.value, doc.now.value?.text]).toEqual([false, 'saved', 'theirs']);
    type('theirs and mine');
    await soon();
    expect(sent.at(-1)).toBe('theirs and mine');
  });

  test('an answer to what was sent before it was read anew is not this one’s', async () => {
    const { doc, answers, type } = slow();
    type('old');
    await soon();
    doc.open({ text: 'new' }, 9);
    answers[0]?.done(2);
    await soon(0);
    expect([doc.doc.value?.revision, doc.now.value?.text, doc.state.value]).toEqual([9, 'new', 'saved']);
  });

  test('what is not sound is not sent; once it is, it is', async () => {
    const { doc, sent, type } = slow((now) => now.text !== 'bad');
    type('bad');
    await soon();
    expect([sent, doc.state.value]).toEqual([[], 'waiting']);
    type('good');
    await soon();
    expect(sent).toEqual(['good']);
  });

  test('flush waits for what is on its way and for what came after it', async () => {
    const { doc, sent, answers, type } = slow();
    type('a');
    const done = doc.flush();
    await soon(0);
    type('b');
    answers[0]?.done(2);
    await soon(0);
    answers[1]?.done(3);
    await done;
    expect([sent, doc.state.value]).toEqual([['a', 'b'], 'saved']);
  });

  test('undo and redo are saved as changes are; undone to what the server has, nothing is sent', async () => {
    const { doc, sent, answers, type } = slow();
    type('a');
    await soon();
    answers[0]?.done(2);
    await soon(0);
    type('b');
    doc.undo();
    await soon();
    expect([sent, doc.state.value, doc.canUndo.value, doc.canRedo.value]).toEqual([['a'], 'saved', true, true]);
    doc.redo();
    await soon();
    expect(sent).toEqual(['a', 'b']);
  });
});
