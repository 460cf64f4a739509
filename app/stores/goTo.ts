import { defineStore } from 'pinia';

/** Somewhere to go, or something to do, on the screen that is open: what Ctrl+K finds first. */
export interface ScreenGoal {
  readonly label: string;
  readonly kind: string;
  go(): unknown;
}

/** What the screen that is open adds to what can be gone to. */
export const useGoTo = defineStore('goTo', () => {
  const goals = shallowRef<readonly ScreenGoal[]>([]);
  return { goals };
});

/** Tables, lists and feeds, as far as they have been read; only for those who build. */
export function useModelPlaces() {
  const session = useSession();
  const read = session.builds;
  const [tables, lists, feeds] = read ? [useTables(), useLists(), useFeeds()] : [null, null, null];
  return computed(() => [
    ...(tables?.data.value ?? []).map((t) => ({ label: t.label, kind: 'table', to: `/design/tables/${t.key}` })),
    ...(lists?.data.value ?? []).map((l) => ({ label: l.label, kind: 'list', to: `/design/lists/${l.key}` })),
    ...(feeds?.data.value?.feeds ?? []).map((f) => ({ label: f.label, kind: 'feed', to: `/design/feeds/${f.key}` })),
  ]);
}
