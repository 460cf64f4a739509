import type { OptionItem } from '~~/core/model/lists.ts';

/** What is edited of an option list; it is saved a little after each change. */
export interface EditedList {
  readonly label: string;
  readonly items: readonly OptionItem[];
}
export type ListDocument = ReturnType<typeof useDocument<EditedList>>;
