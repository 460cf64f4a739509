import { type SentencePart, isFinished, narrowingText, sentencesOf, withComments } from '~~/core/choices/sentence.ts';
import type { Formula } from '~~/core/formula/formula.ts';
import type { ConditionRoot } from '~/state/conditions';

/** One OR at the top is shown as such, so that no group of one stands around it. */
function rootOf(parts: readonly SentencePart[]): ConditionRoot {
  const [only] = parts;
  return parts.length === 1 && only?.kind === 'group' && !only.not ? { any: only.any, parts: only.parts } : { any: false, parts };
}
const hasUnfinished = (parts: readonly SentencePart[]): boolean =>
  parts.some((p) => !isFinished(p) || ((p.kind === 'group' || p.kind === 'each') && hasUnfinished(p.parts)));

/**
 * A condition as the builder has it, with what was begun and does not apply yet; read anew when the formula is another. `place` is where
 * what was begun is kept while something else is looked at.
 */
export function useConditionRoot(of: {
  place(): string | null;
  where(): string | null;
  compiled(): Formula;
  change(where: string | null): void;
}) {
  const draft = useDraft();
  const root = shallowRef<ConditionRoot>({ any: false, parts: [] });
  let made: { readonly where: string | null; readonly root: ConditionRoot } | null = null;
  watch([of.place, of.where], ([at, where], [before]) => {
    const kept = at === null ? made : draft.begun.get(at);
    made = at === before ? made : null;
    root.value = kept?.where === where ? kept.root : rootOf(sentencesOf(of.compiled()));
  }, { immediate: true }); // prettier-ignore
  /** The condition made of sentences again, with the comments that stood in it. What is not finished stays here and is not in it. */
  function write(to: ConditionRoot): void {
    const text = narrowingText(to.any ? [{ kind: 'group', any: true, not: false, parts: to.parts }] : to.parts) ?? '';
    const where = withComments(of.where() ?? '', text) || null;
    root.value = to;
    made = { where, root: to };
    const at = of.place();
    if (at !== null) draft.begun.set(at, made);
    if (where !== of.where()) of.change(where);
  }
  const unfinished = computed(() => hasUnfinished(root.value.parts));
  return { root, write, unfinished };
}
