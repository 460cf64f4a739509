import type { Entry } from './entry.ts';
import type { Want } from './wants.ts';

/**
 * What an entry wants that anything hangs on. Outside services may be slow and cost something: those whose answer would
 * only fill a list that nobody looks at are left out. For work without a screen: a save, a backfill.
 */
export function wantsNeeded(entry: Entry): readonly Want[] {
  const { wants } = entry;
  if (!wants.some((w) => w.kind === 'feed')) return wants;
  const needed = feedsNeeded(entry);
  return wants.filter((w) => w.kind !== 'feed' || needed.has(w.feed));
}

/** Feeds whose answer decides something: a value that waits for it, a choice made here, or one taken when it is the only one. */
function feedsNeeded(entry: Entry): ReadonlySet<string> {
  const needed = new Set<string>(entry.feedsAwaited);
  entry.eachField(({ choices, at }, frame) => {
    if (!choices?.asks?.feed) return;
    const { value, origin } = frame.state(at);
    if ((value !== null && origin.kind !== 'stored') || (value === null && choices.source.single === 'take')) needed.add(choices.asks.feed);
  });
  return needed;
}
