import type { OptionList } from '~~/core/form/lists.ts';

export interface ListAnswer extends OptionList {
  readonly revision: number;
  /** why it cannot be read, when it cannot */
  readonly broken: string | null;
  readonly usedBy: readonly { readonly key: string; readonly label: string }[];
}

/** The option lists, read when asked. */
export function useLists() {
  const lists = shallowRef<readonly ListAnswer[]>([]);
  const failed = ref('');
  async function load(): Promise<void> {
    try {
      lists.value = await api<ListAnswer[]>('lists');
      failed.value = '';
    } catch (e) {
      failed.value = messageOf(e);
    }
  }
  return { lists, failed, load };
}
