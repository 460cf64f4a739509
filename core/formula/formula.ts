import { type Checked, checkFormula } from './check.ts';
import { type Run, compileFormula } from './compile.ts';
import { parseFormula } from './parse.ts';
import type { Scope } from './scope.ts';
import { type Syntax, childrenOf } from './syntax.ts';
import type { Type } from '../values/typing.ts';

/** A formula parsed, checked and compiled in its scope: what the rest of core works with. */
export interface Formula extends Checked {
  readonly run: Run;
  /** slots of the fields it reads, each once, ascending */
  readonly slots: readonly number[];
  /** what it reads of all lines at once: groups of lines, and slots of line fields */
  readonly lists: { readonly groups: readonly number[]; readonly slots: readonly number[] };
  /** slots of choice fields of which it reads more than the value (`name_check.author`) */
  readonly items: readonly number[];
}

/** Reads, checks and compiles formula text. Never throws; a broken formula has problems, no syntax, and runs to empty. */
export function formula(text: string, scope: Scope, expected: Type | null = null): Formula {
  const checked = checkFormula(parseFormula(text), scope, expected);
  const { syntax } = checked;
  return {
    ...checked,
    run: compileFormula(checked),
    slots: syntax ? slotsRead(syntax, checked) : [],
    lists: syntax ? listsRead(syntax, checked) : NO_LISTS,
    items: syntax ? itemsRead(syntax, checked) : [],
  };
}
/** The parts of a node, those in the holes of a text too. */
export function partsOf(node: Syntax, checked: Pick<Checked, 'extras'>): readonly Syntax[] {
  const extra = checked.extras.get(node);
  return extra?.kind === 'template' ? [...extra.holes.values()] : childrenOf(node);
}
const NO_LISTS: Formula['lists'] = { groups: [], slots: [] };

function itemsRead(node: Syntax, checked: Checked): readonly number[] {
  const slots = new Set<number>();
  const walk = (n: Syntax): void => {
    partsOf(n, checked).forEach(walk);
    const source = n.kind === 'member' ? checked.bindings.get(n.object)?.source : undefined;
    if (n.kind === 'member' && source?.kind === 'slot' && checked.types.get(n.object)?.kind === 'choice') slots.add(source.slot);
  };
  walk(node);
  return [...slots];
}

/** What a part of a formula reads of all lines at once (`lots.grams`, or `lots` itself). */
export function listsRead(node: Syntax, checked: Checked): Formula['lists'] {
  const groups = new Set<number>();
  const slots = new Set<number>();
  const walk = (n: Syntax): void => {
    partsOf(n, checked).forEach(walk);
    const source = checked.bindings.get(n)?.source;
    if (source?.kind === 'lines') groups.add(source.group);
    if (n.kind === 'member') {
      const owner = checked.bindings.get(n.object)?.source;
      const lines = owner?.kind === 'each' ? owner.lines : owner?.kind === 'lines' ? owner : null;
      const at = lines?.columns.get(n.property);
      if (lines && at !== undefined) slots.add(lines.first + at);
    }
  };
  walk(node);
  return groups.size ? { groups: [...groups], slots: [...slots].sort((a, b) => a - b) } : NO_LISTS;
}

/** The slots of the fields that a part of a formula reads. */
export function slotsRead(node: Syntax, checked: Checked): readonly number[] {
  const slots = new Set<number>();
  const walk = (n: Syntax): void => {
    partsOf(n, checked).forEach(walk);
    const source = checked.bindings.get(n)?.source;
    if (source?.kind === 'slot') slots.add(source.slot);
  };
  walk(node);
  return [...slots].sort((a, b) => a - b);
}

/** Whether a part of a formula reads the candidate row (`choice`). */
export function readsCandidate(node: Syntax, checked: Checked): boolean {
  return checked.bindings.get(node)?.source.kind === 'candidate' || partsOf(node, checked).some((c) => readsCandidate(c, checked));
}
