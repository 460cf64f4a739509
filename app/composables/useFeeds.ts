import type { Feed } from '~~/core/form/feeds.ts';

export interface FeedAnswer extends Feed {
  readonly revision: number;
  /** why it cannot be read, when it cannot */
  readonly broken: string | null;
  readonly secrets: readonly string[];
  readonly usedBy: readonly { readonly key: string; readonly label: string }[];
}
export interface FeedsAnswer {
  readonly feeds: readonly FeedAnswer[];
  readonly hosts: readonly string[];
  readonly standIns: Readonly<Record<string, { readonly delay: number; readonly failing: number }>>;
}

/** The feeds, read when asked. */
export function useFeeds() {
  const answer = shallowRef<FeedsAnswer | null>(null);
  const failed = ref('');
  async function load(): Promise<void> {
    try {
      answer.value = await api<FeedsAnswer>('feeds');
      failed.value = '';
    } catch (e) {
      failed.value = messageOf(e);
    }
  }
  return { answer, failed, load };
}
