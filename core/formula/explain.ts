import type { Checked } from './check.ts';
import { compileNode } from './compile.ts';
import type { Env } from './env.ts';
import type { Result, Span } from './errors.ts';
import { partsOf } from './formula.ts';
import { printSyntax } from './print.ts';
import { type Syntax, childrenOf, rootOf } from './syntax.ts';
import { EMPTY_TYPE, type Type } from '../values/typing.ts';

/** A part of a formula with what it gives now. */
export interface ExplainedPart extends Span {
  readonly text: string;
  readonly type: Type;
  readonly value: Result;
  /** slot of the field the name begins with, when it is one */
  readonly slot: number | null;
}

/**
 * The names in a formula (`genus`, `species.storage_c`), each with its value now: what “with the numbers put in” shows.
 * In the order they are written; nested names of one path count as one.
 */
export function explainNames(checked: Checked, env: Env, node: Syntax | null = checked.syntax): ExplainedPart[] {
  const parts: ExplainedPart[] = [];
  const walk = (n: Syntax): void => {
    if (n.kind === 'name' || n.kind === 'member') {
      const path = printSyntax(n);
      const source = checked.bindings.get(rootOf(n))?.source;
      if (source?.kind !== 'candidate' && source?.kind !== 'picked' && source?.kind !== 'each') {
        parts.push({
          from: n.from,
          to: n.to,
          text: path,
          type: typeOf(checked, n),
          value: compileNode(n, checked)(env),
          slot: source?.kind === 'slot' ? source.slot : null,
        });
      }
      // of PICK(…).name, what the call itself reads
      if (n.kind === 'member' && rootOf(n).kind === 'call') walk(rootOf(n));
      return;
    }
    valueParts(n, checked).forEach(walk);
  };
  if (node) walk(node);
  return parts;
}

/** The working of a formula: every part that computes something, innermost first, with its value. Constants are left out. */
export function explainWorking(checked: Checked, env: Env): ExplainedPart[] {
  const parts: ExplainedPart[] = [];
  const walk = (n: Syntax): void => {
    // the condition of a look-up, or of a list, is asked of other rows: only what it finds has a value here
    const extra = checked.extras.get(n)?.kind;
    if (extra !== 'pick') (extra === 'each' ? childrenOf(n).slice(0, 1) : valueParts(n, checked)).forEach(walk);
    if (n.kind === 'number' || n.kind === 'text' || n.kind === 'yesno' || n.kind === 'group') return;
    if (typeOf(checked, n).kind === 'object') return;
    parts.push({ from: n.from, to: n.to, text: printSyntax(n), type: typeOf(checked, n), value: compileNode(n, checked)(env), slot: null });
  };
  if (checked.syntax) walk(checked.syntax);
  return parts;
}

/** The parts of a node that are values: not the name of a table, feed or map; the holes of a text. */
function valueParts(node: Syntax, checked: Checked): readonly Syntax[] {
  const kind = checked.extras.get(node)?.kind;
  const parts = partsOf(node, checked);
  return kind === 'pick' || kind === 'map' || kind === 'feed' ? parts.slice(1) : parts;
}

const typeOf = (checked: Checked, node: Syntax): Type => checked.types.get(node) ?? EMPTY_TYPE;
