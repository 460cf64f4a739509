import { namesUsed } from '~~/core/engine/uses.ts';
import { compileNode } from '~~/core/formula/compile.ts';
import { explainWorking } from '~~/core/formula/explain.ts';
import { formula } from '~~/core/formula/formula.ts';
import type { Scope } from '~~/core/formula/scope.ts';
import type { Type } from '~~/core/values/typing.ts';

/** What formulas come to in the entry that is tried, and what they use; nothing where no entry is tried (`alone`). */
export function useFormulaNow(scope: () => Scope, alone: () => boolean) {
  const draft = useDraft();
  const tryout = useTryout();
  /** A formula's result now, for readers; `expected` is the type its place asks for. */
  function resultAs(text: string, expected: Type | null): string {
    const plan = draft.plan;
    const env = alone() ? null : tryout.environment();
    if (!plan || !env) return '';
    const f = formula(text, scope(), expected);
    return f.syntax ? showResult(plan, tryout.host.cache(), f.type, compileNode(f.syntax, f)(env)) : '';
  }
  /** Each of its parts with what it gives now, innermost first. */
  function workingOf(text: string, expected: Type | null): { text: string; value: string }[] {
    const plan = draft.plan;
    const env = alone() ? null : tryout.environment();
    if (!plan || !env) return [];
    const f = formula(text, scope(), expected);
    return explainWorking(f, env).map((w) => ({ text: w.text, value: showResult(plan, tryout.host.cache(), w.type, w.value) }));
  }
  /** The names it uses, for finding others that use them. */
  const namesOf = (text: string): readonly string[] => (draft.plan ? namesUsed(draft.plan, formula(text, scope())) : []);
  return { resultAs, workingOf, namesOf };
}
