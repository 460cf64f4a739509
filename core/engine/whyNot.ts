import { compileNode } from '../formula/compile.ts';
import { type Result, isDatum } from '../formula/errors.ts';
import { type Formula, partsOf } from '../formula/formula.ts';
import { type Wording, conditionWords } from '../formula/words.ts';
import { type Syntax, pathOf, rootOf, ungroup } from '../formula/syntax.ts';
import { type Type, UNKNOWN } from '../values/typing.ts';
import type { Row } from '../values/types.ts';
import type { Entry } from './entry.ts';

/** One part of a narrowing, asked of one row. */
export interface WhyNotPart {
  /** its number among the parts of the narrowing */
  readonly part: number;
  readonly text: string;
  readonly syntax: Syntax;
  /** null: it cannot be told yet, or does not count now (`skipped`) */
  readonly holds: boolean | null;
  readonly skipped: boolean;
  /** what the row itself has under the names that the part reads of it: `region` → East Fen */
  readonly has: readonly { readonly name: string; readonly type: Type; readonly value: Result }[];
}

/**
 * Which parts of a list's narrowing stand against a row: each part asked of that row alone, with what the row has. Takes the field by its
 * path, the line it stands in, and a row of the list's source. Without a narrowing an empty array: nothing stands against it. Reads only.
 * Throws RangeError when the form has no such field.
 */
export function whyNot(entry: Entry, path: string, line: number | null, row: Row): readonly WhyNotPart[] {
  const narrowing = entry.field(path).choices?.narrowing;
  if (!narrowing) return [];
  const offer = entry.offer(path, line);
  const own = entry.environmentOf(path, line);
  // what is asked of the entry is worked out here: a list that waits has no answers to it
  const env = { ...own, candidate: row, params: narrowing.params.map((p) => p.run(own)) };
  const open = new Set(offer?.open ?? []);
  return narrowing.parts.map((part, number): WhyNotPart => {
    const skipped = open.has(number);
    const met = skipped ? null : part.run(env);
    return {
      part: number,
      text: part.text,
      syntax: part.syntax,
      // an empty condition is not met
      holds: skipped || !isDatum(met) ? null : met === true,
      skipped,
      has: candidatePaths(ungroup(part.syntax), narrowing.formula).map((node) => ({
        name: (pathOf(node) ?? []).slice(1).join('.'),
        type: narrowing.formula.types.get(node) ?? UNKNOWN,
        value: compileNode(node, narrowing.formula)(env),
      })),
    };
  });
}

/** The paths through a candidate's columns that a part reads, each once. */
function candidatePaths(node: Syntax, formula: Formula): readonly Syntax[] {
  const found = new Map<string, Syntax>();
  const walk = (n: Syntax): void => {
    const path = n.kind === 'member' ? pathOf(n) : null;
    if (path && formula.bindings.get(rootOf(n))?.source.kind === 'candidate') found.set(path.join('.'), n);
    else partsOf(n, formula).forEach(walk);
  };
  walk(node);
  return [...found.values()];
}

/** Why a stored choice is not offered, as a short sentence without values; null when it cannot be told. */
export function againstWords(entry: Entry, path: string, line: number | null): string | null {
  const { choices } = entry.field(path);
  const value = entry.value(path, line);
  const row = choices?.table && typeof value === 'number' && choices.stores === 'row' ? entry.cache.row(choices.table, value) : null;
  if (!choices?.narrowing || !row) return null;
  const about: Wording = { checked: choices.narrowing.formula, tables: entry.plan.scope.tables };
  const against = whyNot(entry, path, line, row).filter((p) => p.holds === false && choices.narrowing?.parts[p.part]?.through === null);
  return against.length ? `not true of it: ${against.map((p) => conditionWords(p.syntax, about)).join('; ')}` : null;
}
