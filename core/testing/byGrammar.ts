import type { SyntaxNode } from '@lezer/common';
import { parser } from '../formula/grammar/parser.js';
import type { Argument, BinaryOperator, Syntax } from '../formula/syntax.ts';
import { canonical } from '../values/decimal.ts';

/**
 * What the grammar by which the editor colours makes of a text: its tree, or null where it breaks off.
 * The reader of formulas is held against it. It knows no bounds: for texts of tests only.
 */
export function byGrammar(text: string): Syntax | null {
  const tree = parser.parse(text);
  let breaksOff = false;
  tree.iterate({ enter: (node) => !(breaksOff ||= node.type.isError) });
  let node = breaksOff ? null : tree.topNode.firstChild;
  while (node && node.name === 'Comment') node = node.nextSibling;
  return node && build(node, text);
}

const NO_PART: ReadonlySet<string> = new Set(['Comment', '(', ')', ',', ';', '.', ':']);

function partsOf(node: SyntaxNode): SyntaxNode[] {
  const parts: SyntaxNode[] = [];
  for (let child = node.firstChild; child; child = child.nextSibling) if (!NO_PART.has(child.name)) parts.push(child);
  return parts;
}

function build(node: SyntaxNode, text: string): Syntax {
  const span = { from: node.from, to: node.to };
  const sub = (n: SyntaxNode | undefined): Syntax => {
    if (!n) throw new Error(`formula tree: a part of ${node.name} is missing`);
    return build(n, text);
  };
  const source = (n: SyntaxNode | undefined): string => (n ? text.slice(n.from, n.to) : '');
  const parts = partsOf(node);
  switch (node.name) {
    case 'Number': {
      return { kind: 'number', ...span, value: canonical(Number(source(node))), text: source(node) };
    }
    case 'Text':
      return { kind: 'text', ...span, value: source(node).slice(1, -1).replaceAll('""', '"') };
    case 'Boolean':
      return { kind: 'yesno', ...span, value: source(node).toUpperCase().startsWith('TRUE') };
    case 'Name':
      return { kind: 'name', ...span, name: source(node) };
    case 'Member': {
      const property = parts[1];
      const propertySpan = property ? { from: property.from, to: property.to } : span;
      return { kind: 'member', ...span, object: sub(parts[0]), property: source(property), propertySpan };
    }
    case 'Group':
      return { kind: 'group', ...span, inner: sub(parts[0]) };
    case 'Call': {
      const [name, list] = parts;
      const args: Argument[] = list
        ? partsOf(list).map((argument) => {
            const inner = partsOf(argument);
            const named = inner[0]?.name === 'NamedArg' ? inner[0] : null;
            return {
              label: named ? source(named).replace(/[\s/:].*$/s, '') : null,
              value: sub(named ? inner[1] : inner[0]),
            };
          })
        : [];
      const nameSpan = name ? { from: name.from, to: name.to } : span;
      return { kind: 'call', ...span, name: source(name).toUpperCase(), nameSpan, args };
    }
    case 'UnaryExpr':
      return { kind: 'unary', ...span, operator: source(parts[0]) === '-' ? '-' : '+', operand: sub(parts[1]) };
    case 'NotExpr':
      return { kind: 'unary', ...span, operator: 'NOT', operand: sub(parts[1]) };
    case 'PercentExpr':
      return { kind: 'percent', ...span, operand: sub(parts[0]) };
    case 'BinaryExpr': {
      const [left, op, right] = parts;
      const operator = source(op).toUpperCase() as BinaryOperator;
      return {
        kind: 'binary',
        ...span,
        operator,
        operatorSpan: op ? { from: op.from, to: op.to } : span,
        left: sub(left),
        right: sub(right),
      };
    }
    case 'InExpr': {
      const values = parts.filter((p) => p.name !== 'In');
      return { kind: 'in', ...span, item: sub(values[0]), list: values.slice(1).map(sub) };
    }
    case 'BetweenExpr': {
      const values = parts.filter((p) => p.name !== 'Between' && p.name !== 'And');
      return { kind: 'between', ...span, item: sub(values[0]), low: sub(values[1]), high: sub(values[2]) };
    }
    default:
      throw new Error(`formula tree: unexpected node ${node.name}`);
  }
}
