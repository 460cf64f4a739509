import type { Checked } from './check.ts';
import { compileNode } from './compile.ts';
import type { Env } from './env.ts';
import type { Result, Span } from './errors.ts';
import { printSyntax } from './print.ts';
import { type Syntax, childrenOf } from './syntax.ts';
import { EMPTY_TYPE, type Type } from './types.ts';

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
      if (source?.kind !== 'candidate') {
        parts.push({
          from: n.from,
          to: n.to,
          text: path,
          type: typeOf(checked, n),
          value: compileNode(n, checked)(env),
          slot: source?.kind === 'slot' ? source.slot : null,
        });
      }
      return;
    }
    childrenOf(n).forEach(walk);
  };
  if (node) walk(node);
  return parts;
}

/** The working of a formula: every part that computes something, innermost first, with its value. Constants are left out. */
export function explainWorking(checked: Checked, env: Env): ExplainedPart[] {
  const parts: ExplainedPart[] = [];
  const walk = (n: Syntax): void => {
    childrenOf(n).forEach(walk);
    if (n.kind === 'number' || n.kind === 'text' || n.kind === 'yesno' || n.kind === 'group') return;
    if (typeOf(checked, n).kind === 'object') return;
    parts.push({ from: n.from, to: n.to, text: printSyntax(n), type: typeOf(checked, n), value: compileNode(n, checked)(env), slot: null });
  };
  if (checked.syntax) walk(checked.syntax);
  return parts;
}

const rootOf = (node: Syntax): Syntax => (node.kind === 'member' ? rootOf(node.object) : node);
const typeOf = (checked: Checked, node: Syntax): Type => checked.types.get(node) ?? EMPTY_TYPE;
