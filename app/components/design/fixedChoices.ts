import { fieldAt } from '~~/core/form/definition.ts';

/** A value of a list as it is offered: what is taken, and what is shown. */
export interface Fixed {
  readonly value: string;
  readonly label: string;
}
/** A text as a formula writes it. */
export const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;

/** What a fixed value of a field can be: the values of its own list, or of the column that its choices come from. */
export function useFixedChoices(name: () => string) {
  const draft = useDraft();
  const planField = computed(() => draft.plan?.fields[draft.plan.slots.get(name()) ?? -1] ?? null);
  const options = computed((): readonly Fixed[] | null => {
    if (!planField.value) return null;
    const { choices, type } = planField.value;
    if (choices?.options) return choices.options.map((o) => ({ value: String(o.value), label: String(o.label ?? o.value) }));
    const of = type.kind === 'list' ? type.of : type;
    return of.kind === 'choice' && of.options ? of.options.map((value) => ({ value, label: value })) : null;
  });
  /** of a look-up, what its rows are known by */
  const column = computed(() => {
    const source = fieldAt(draft.form!, name())?.source;
    if (source?.kind === 'distinct' && source.values) return { table: source.table, key: source.values };
    if (source?.kind === 'rows' && source.show && planField.value?.type.kind === 'row') return { table: source.table, key: source.show };
    return null;
  });
  /** A row has no formula of its own: the one that is known by this text is picked. */
  function formulaOf(text: string): string {
    const row = planField.value?.type.kind === 'row' && column.value;
    return row ? `PICK(${row.table}, choice.${row.key} = ${quoted(text)})` : quoted(text);
  }
  return { options, column, formulaOf };
}
