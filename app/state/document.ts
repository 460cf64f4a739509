/*
 * What is edited and saves itself: a form's draft, an option list, a feed. Undo, saving and conflict in one place, as a pure
 * function from a state and what happened to the next state; `useDocument` drives it.
 */

export interface Doc<T> {
  readonly now: T;
  /** what stood before, oldest first; what was undone, the next to be redone last */
  readonly past: readonly T[];
  readonly future: readonly T[];
  /** what the server has, and the revision it has it under */
  readonly stored: T;
  readonly revision: number;
  /** what is on its way to the server */
  readonly sent: { readonly value: T } | null;
  readonly trouble: 'none' | 'failed' | 'conflict';
}
export type SaveState = 'saved' | 'waiting' | 'saving' | 'failed';

export type Happened<T> =
  | { readonly kind: 'changed'; readonly to: T }
  | { readonly kind: 'undone' }
  | { readonly kind: 'redone' }
  | { readonly kind: 'sent' }
  | { readonly kind: 'stored'; readonly revision: number }
  | { readonly kind: 'refused'; readonly conflict: boolean }
  /** somebody asks to try again what failed */
  | { readonly kind: 'asked' };

/** Steps that can be undone; older ones are forgotten. */
export const UNDO_DEPTH = 200;

/** A document as the server has it. */
export const openDoc = <T>(stored: T, revision: number): Doc<T> => ({
  now: stored,
  past: [],
  future: [],
  stored,
  revision,
  sent: null,
  trouble: 'none',
});

/** How saving stands: 'saved' only while the server has what stands here and nothing is on its way. */
export function saveState<T>(doc: Doc<T>): SaveState {
  if (doc.trouble !== 'none') return 'failed';
  if (doc.sent) return 'saving';
  return doc.now === doc.stored ? 'saved' : 'waiting';
}

/** What a failure before is worth after a change: a conflict stays until the document is read anew, anything else is tried again. */
const afterChange = <T>(doc: Doc<T>): Doc<T>['trouble'] => (doc.trouble === 'conflict' ? 'conflict' : 'none');

/** The document after something happened; the same document when it means nothing to it. */
export function next<T>(doc: Doc<T>, happened: Happened<T>): Doc<T> {
  switch (happened.kind) {
    case 'changed':
      if (happened.to === doc.now) return doc;
      return { ...doc, now: happened.to, past: [...doc.past, doc.now].slice(-UNDO_DEPTH), future: [], trouble: afterChange(doc) };
    case 'undone': {
      if (!doc.past.length) return doc;
      const now = doc.past.at(-1) as T;
      return { ...doc, now, past: doc.past.slice(0, -1), future: [...doc.future, doc.now], trouble: afterChange(doc) };
    }
    case 'redone': {
      if (!doc.future.length) return doc;
      const now = doc.future.at(-1) as T;
      return { ...doc, now, past: [...doc.past, doc.now], future: doc.future.slice(0, -1), trouble: afterChange(doc) };
    }
    case 'sent':
      return saveState(doc) === 'waiting' ? { ...doc, sent: { value: doc.now } } : doc;
    case 'stored':
      return doc.sent ? { ...doc, stored: doc.sent.value, revision: happened.revision, sent: null } : doc;
    case 'refused':
      return doc.sent ? { ...doc, sent: null, trouble: happened.conflict ? 'conflict' : 'failed' } : doc;
    case 'asked':
      return doc.trouble === 'failed' ? { ...doc, trouble: 'none' } : doc;
  }
}
