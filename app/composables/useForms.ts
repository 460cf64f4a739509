export interface FormSummary {
  readonly key: string;
  /** why it cannot be read, when it cannot */
  readonly broken: string | null;
  readonly label: string;
  readonly table: string;
  readonly version: number | null;
  readonly publishedAt: string | null;
  readonly changedAt: string;
  readonly changes: readonly string[];
  readonly problems: { readonly errors: number; readonly warnings: number };
}

/** The list of forms, read when asked. */
export function useForms() {
  const forms = shallowRef<readonly FormSummary[]>([]);
  const failed = ref('');
  async function load(): Promise<void> {
    try {
      forms.value = await api<FormSummary[]>('forms');
      failed.value = '';
    } catch (e) {
      failed.value = messageOf(e);
    }
  }
  return { forms, failed, load };
}
