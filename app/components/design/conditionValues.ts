import { type InjectionKey, inject, provide } from 'vue';

/* Where the fixed values of a condition are chosen from: what stands in a column of a table. */

export interface ColumnNamed {
  readonly table: string;
  readonly key: string;
}
export interface ConditionValues {
  /** whether values of a table can be read */
  has(table: string): boolean;
  read(column: ColumnNamed, asked: { readonly search: string; readonly limit: number }): Promise<{ readonly values: readonly string[]; readonly more: boolean }>;
} // prettier-ignore
const KEY: InjectionKey<ConditionValues> = Symbol('condition values');

/** The tables of the workspace, as those see them who build. */
function ofWorkspace(): ConditionValues {
  const draft = useDraft();
  return {
    has: (table) => draft.tables.has(table),
    read: ({ table, key }, asked) => api.tables.columnValues({ key: table, column: key }, asked),
  };
}
/** Conditions below have their values from here. */
export const provideConditionValues = (values: ConditionValues): void => provide(KEY, values);
/** Where a condition has its values from: the workspace, unless something above says otherwise. */
export const useConditionValues = (): ConditionValues => inject(KEY, null) ?? ofWorkspace();
