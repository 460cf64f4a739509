import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type Doc, type Happened, UNDO_DEPTH, next, openDoc, saveState } from './document';

/** Values are objects, so that only the same one counts as the same, as forms and lists do. */
interface Text {
  readonly text: string;
}
const value = (text: string): Text => ({ text });
const happened: fc.Arbitrary<Happened<Text>> = fc.oneof(
  fc.string({ maxLength: 3 }).map((s): Happened<Text> => ({ kind: 'changed', to: value(s) })),
  fc.constantFrom<Happened<Text>>({ kind: 'undone' }, { kind: 'redone' }, { kind: 'sent' }, { kind: 'asked' }),
  fc.nat(9).map((revision): Happened<Text> => ({ kind: 'stored', revision })),
  fc.boolean().map((conflict): Happened<Text> => ({ kind: 'refused', conflict })),
);
const play = (all: readonly Happened<Text>[], doc = openDoc(value('first'), 1)): Doc<Text> => all.reduce(next, doc);

test('a document is said to be saved only when the server has what stands there', () => {
  fc.assert(
    fc.property(fc.array(happened, { maxLength: 40 }), (all) => {
      // what the server was given last and took
      let server: Text | null = null;
      let doc = openDoc(value('first'), 1);
      const first = doc.now;
      for (const h of all) {
        if (h.kind === 'stored' && doc.sent) server = doc.sent.value;
        doc = next(doc, h);
        if (saveState(doc) === 'saved') expect(doc.now).toBe(server ?? first);
        expect(doc.stored).toBe(server ?? first);
      }
    }),
  );
});

test('undo gives back what stood before, redo what was undone; a change forgets what was undone', () => {
  fc.assert(
    fc.property(fc.array(happened, { maxLength: 30 }), fc.string(), (all, text) => {
      const before = play(all);
      const changed = next(before, { kind: 'changed', to: value(text) });
      const undone = next(changed, { kind: 'undone' });
      expect(undone.now).toBe(before.now);
      expect(next(undone, { kind: 'redone' }).now).toBe(changed.now);
      expect(changed.future).toEqual([]);
      expect(undone.past).toEqual(before.past.slice(-(UNDO_DEPTH - 1)));
    }),
  );
});

test('one thing is on its way at a time, and what is changed meanwhile is saved after it', () => {
  const doc = play([{ kind: 'changed', to: value('a') }, { kind: 'sent' }, { kind: 'changed', to: value('b') }, { kind: 'sent' }]);
  expect(doc.sent?.value.text).toBe('a');
  expect(saveState(doc)).toBe('saving');
  const answered = next(doc, { kind: 'stored', revision: 2 });
  expect(answered).toMatchObject({ revision: 2, stored: { text: 'a' } });
  expect(saveState(answered)).toBe('waiting');
});

test('undone to what the server has, nothing is left to save', () => {
  const doc = play([{ kind: 'changed', to: value('a') }, { kind: 'undone' }]);
  expect(saveState(doc)).toBe('saved');
  expect(next(doc, { kind: 'sent' })).toBe(doc);
});

test('a failed save is tried again after the next change, or when asked to; a conflict is not', () => {
  const sent = play([{ kind: 'changed', to: value('a') }, { kind: 'sent' }]);
  const failed = next(sent, { kind: 'refused', conflict: false });
  expect(saveState(failed)).toBe('failed');
  expect(failed.now.text).toBe('a');
  expect(saveState(next(failed, { kind: 'changed', to: value('b') }))).toBe('waiting');
  expect(saveState(next(failed, { kind: 'asked' }))).toBe('waiting');
  const conflict = next(sent, { kind: 'refused', conflict: true });
  const later = next(next(conflict, { kind: 'changed', to: value('b') }), { kind: 'asked' });
  expect(later.trouble).toBe('conflict');
  expect(next(later, { kind: 'sent' })).toBe(later);
  // nothing typed is lost: it can be looked at until the document is read anew
  expect(later.now.text).toBe('b');
});

test('what comes without having been sent means nothing', () => {
  const doc = openDoc(value('first'), 1);
  for (const h of [
    { kind: 'stored', revision: 7 },
    { kind: 'refused', conflict: true },
    { kind: 'undone' },
    { kind: 'redone' },
    { kind: 'asked' },
  ] as const)
    // prettier-ignore
    expect(next(doc, h)).toBe(doc);
});

test('the undo stack has an end', () => {
  const many = Array.from({ length: UNDO_DEPTH + 30 }, (_, i): Happened<Text> => ({ kind: 'changed', to: value(String(i)) }));
  expect(play(many).past).toHaveLength(UNDO_DEPTH);
});
