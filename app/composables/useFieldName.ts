import { fieldNameProblem, renameField } from '~~/core/engine/rename.ts';

/** Another name for a field, or for lines, of the form that is being built: one step that can be undone. */
export function useFieldName(path: () => string) {
  const draft = useDraft();
  return {
    NAME_NOTE: 'Links that fill it by its old name no longer do.',
    nameProblem: (name: string): string | null => (draft.plan ? fieldNameProblem(draft.plan, path(), name) : null),
    renameTo(name: string): void {
      if (!draft.plan) return;
      const [lines = '', inner] = path().split('.');
      draft.change(renameField(draft.plan, path(), name));
      draft.selected = inner === undefined ? name : `${lines}.${name}`;
      // what is said of a field is drawn anew for another name
      void nextTick(() => document.querySelector<HTMLElement>('[data-name-word]')?.focus());
    },
  };
}
