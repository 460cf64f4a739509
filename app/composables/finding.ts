import { foldText, hasWords, soughtWords } from '~~/core/values/text.ts';

/** How many are drawn at once: of thousands the browser would draw for half a minute. */
const AT_ONCE = 100;

/**
 * All of something, as a table of them shows it: of very many a hundred are drawn at once, by pages, and those are found that have all
 * words of a text in theirs. `paging` is for the DataTable, `sought` for a `FindField` that stands there where `isMany`.
 */
export function useFinding<T>(all: () => readonly T[] | undefined, textsOf: (one: T) => readonly (string | null | undefined)[]) {
  const sought = ref('');
  const isMany = computed(() => (all()?.length ?? 0) > AT_ONCE);
  const folded = computed(() => (all() ?? []).map((one) => ({ one, text: foldText(textsOf(one).join('\n')) })));
  const found = computed(() => {
    const words = isMany.value ? soughtWords(sought.value) : [];
    return words.length ? folded.value.filter((f) => hasWords(f.text, words)).map((f) => f.one) : [...(all() ?? [])];
  });
  const paging = computed(() => ({ paginator: isMany.value, alwaysShowPaginator: false, rows: AT_ONCE }));
  return { sought, isMany, found, paging };
}
