import type { Span } from './errors.ts';

export type UnaryOperator = '-' | '+' | 'NOT';
export type ArithmeticOperator = '+' | '-' | '*' | '/' | '^';
export type CompareOperator = '=' | '<>' | '<' | '<=' | '>' | '>=';
export type BinaryOperator = ArithmeticOperator | CompareOperator | '&' | 'AND' | 'OR';

/** A node of the syntax tree. Immutable; spans are offsets into the text it was parsed from. */
export type Syntax =
  | (Span & { readonly kind: 'number'; readonly value: number; readonly text: string })
  | (Span & { readonly kind: 'text'; readonly value: string })
  | (Span & { readonly kind: 'yesno'; readonly value: boolean })
  | (Span & { readonly kind: 'name'; readonly name: string })
  | (Span & { readonly kind: 'member'; readonly object: Syntax; readonly property: string; readonly propertySpan: Span })
  | (Span & { readonly kind: 'call'; readonly name: string; readonly nameSpan: Span; readonly args: readonly Argument[] })
  | (Span & { readonly kind: 'group'; readonly inner: Syntax })
  | (Span & { readonly kind: 'unary'; readonly operator: UnaryOperator; readonly operand: Syntax })
  | (Span & { readonly kind: 'percent'; readonly operand: Syntax })
  | (Span & {
      readonly kind: 'binary';
      readonly operator: BinaryOperator;
      readonly operatorSpan: Span;
      readonly left: Syntax;
      readonly right: Syntax;
    })
  | (Span & { readonly kind: 'in'; readonly item: Syntax; readonly list: readonly Syntax[] })
  | (Span & { readonly kind: 'between'; readonly item: Syntax; readonly low: Syntax; readonly high: Syntax });

/** An argument of a call; `label` is set for `key: value` arguments. */
export interface Argument {
  readonly label: string | null;
  readonly value: Syntax;
}

/** The direct parts of a node, in the order they are written. */
export function childrenOf(node: Syntax): readonly Syntax[] {
  switch (node.kind) {
    case 'number':
    case 'text':
    case 'yesno':
    case 'name':
      return [];
    case 'member':
      return [node.object];
    case 'call':
      return node.args.map((a) => a.value);
    case 'group':
      return [node.inner];
    case 'unary':
    case 'percent':
      return [node.operand];
    case 'binary':
      return [node.left, node.right];
    case 'in':
      return [node.item, ...node.list];
    case 'between':
      return [node.item, node.low, node.high];
  }
}

/** The node without brackets around it. */
export const ungroup = (node: Syntax): Syntax => (node.kind === 'group' ? ungroup(node.inner) : node);

/** The parts joined by AND at the top level, brackets around them opened: what the funnel counts one by one. */
export function conjuncts(node: Syntax): readonly Syntax[] {
  const inner = ungroup(node);
  if (inner.kind === 'binary' && inner.operator === 'AND') return [...conjuncts(inner.left), ...conjuncts(inner.right)];
  if (inner.kind === 'call' && inner.name === 'AND') return inner.args.flatMap((a) => conjuncts(a.value));
  return [node];
}

/** `species.genus.family` as its words, or null when the node is not a plain path. */
export function pathOf(node: Syntax): readonly string[] | null {
  if (node.kind === 'name') return [node.name];
  if (node.kind !== 'member') return null;
  const path = pathOf(node.object);
  return path && [...path, node.property];
}

/** What a path begins with: `species` of `species.genus.family`; the node itself when it is no path. */
export const rootOf = (node: Syntax): Syntax => (node.kind === 'member' ? rootOf(node.object) : node);
