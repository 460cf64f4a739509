import type { InjectionKey, Ref } from 'vue';
import type { FieldSource, SourceKindName, SourceOf } from '~~/core/choices/sources/index.ts';
import { changeField } from '~~/core/form/edit.ts';
import { fieldAt } from '~~/core/form/definition.ts';

/** What every part of the sentence about a source is given: whose it is, and the source. */
export interface SourcePart<K extends SourceKindName> {
  readonly name: string;
  readonly source: SourceOf<K>;
}

/** Changes of a field's source. */
export function useSource(name: () => string) {
  const draft = useDraft();
  const put = (fresh: FieldSource): void => draft.change(changeField(draft.form!, name(), { source: fresh }));
  function set(change: object): void {
    const source = fieldAt(draft.form!, name())?.source;
    if (source) put({ ...source, ...change } as FieldSource);
  }
  return { draft, put, set };
}

/** The tables there are, and what of one a sentence names, as words to pick from. */
export function useTableWords(key: () => string) {
  const draft = useDraft();
  const table = computed(() => draft.tables.get(key()) ?? null);
  return {
    table,
    tables: computed(() => [...draft.tables.values()].map((t) => ({ value: t.key, label: t.label, note: t.rows.toLocaleString(LOCALE) }))),
    subsets: computed(() => [
      { value: '', label: 'all rows' },
      ...(table.value?.subsets ?? []).map((s) => ({ value: s.key, label: s.label.toLowerCase() })),
    ]),
    columns: computed(() => (table.value?.columns ?? []).map((c) => ({ value: c.key, label: c.label.toLowerCase(), type: c.type }))),
  };
}

/** Whether what stands at its usual setting is told too; what was changed always is. */
export const MORE: InjectionKey<Ref<boolean>> = Symbol('more');
