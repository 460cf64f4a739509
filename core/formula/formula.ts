import { type Checked, checkFormula } from './check.ts';
import { type Run, compileFormula } from './compile.ts';
import { parseFormula } from './parse.ts';
import type { Scope } from './scope.ts';
import { type Syntax, childrenOf } from './syntax.ts';
import type { Type } from './types.ts';

/** A formula parsed, checked and compiled in its scope: what the rest of core works with. */
export interface Formula extends Checked {
  readonly run: Run;
  /** slots of the fields it reads, each once, ascending */
  readonly slots: readonly number[];
}

/** Reads, checks and compiles formula text. Never throws; a broken formula has problems, no syntax, and runs to empty. */
export function formula(text: string, scope: Scope, expected: Type | null = null): Formula {
  const checked = checkFormula(parseFormula(text), scope, expected);
  return { ...checked, run: compileFormula(checked), slots: checked.syntax ? slotsRead(checked.syntax, checked) : [] };
}

/** The slots of the fields that a part of a formula reads. */
export function slotsRead(node: Syntax, checked: Checked): readonly number[] {
  const slots = new Set<number>();
  const walk = (n: Syntax): void => {
    const source = checked.bindings.get(n)?.source;
    if (source?.kind === 'slot') slots.add(source.slot);
    for (const child of childrenOf(n)) walk(child);
  };
  walk(node);
  return [...slots].sort((a, b) => a - b);
}

/** Whether a part of a formula reads the candidate row (`choice`). */
export function readsCandidate(node: Syntax, checked: Checked): boolean {
  return checked.bindings.get(node)?.source.kind === 'candidate' || childrenOf(node).some((c) => readsCandidate(c, checked));
}
