import type { BinaryOperator, Syntax } from './syntax.ts';

const LEVEL: Readonly<Record<BinaryOperator, number>> = {
  OR: 1, AND: 2, '=': 4, '<>': 4, '<': 4, '<=': 4, '>': 4, '>=': 4, '&': 5, '+': 6, '-': 6, '*': 7, '/': 7, '^': 8,
}; // prettier-ignore
const NOT_LEVEL = 3;
const COMPARE_LEVEL = 4;
const CONCAT_LEVEL = 5;
const PERCENT_LEVEL = 9;
const UNARY_LEVEL = 10;
const POSTFIX_LEVEL = 11;

function levelOf(node: Syntax): number {
  switch (node.kind) {
    case 'binary':
      return LEVEL[node.operator];
    case 'in':
    case 'between':
      return COMPARE_LEVEL;
    case 'unary':
      return node.operator === 'NOT' ? NOT_LEVEL : UNARY_LEVEL;
    case 'percent':
      return PERCENT_LEVEL;
    default:
      return POSTFIX_LEVEL;
  }
}

const quote = (value: string): string => `"${value.replaceAll('"', '""')}"`;

/**
 * The tree as formula text: one space around operators, functions and keywords in upper case, `,` between
 * arguments. Brackets are written where the tree has a group, and where leaving them out would change the meaning
 * (trees made by code). Parsing the result gives the same tree. Cost: linear.
 */
export function printSyntax(node: Syntax): string {
  const at = (child: Syntax, level: number): string => (levelOf(child) < level ? `(${printSyntax(child)})` : printSyntax(child));
  switch (node.kind) {
    case 'number':
      return node.text;
    case 'text':
      return quote(node.value);
    case 'yesno':
      return node.value ? 'TRUE' : 'FALSE';
    case 'name':
      return node.name;
    case 'member':
      return `${at(node.object, POSTFIX_LEVEL)}.${node.property}`;
    case 'call':
      return `${node.name}(${node.args.map((a) => (a.label === null ? '' : `${a.label}: `) + printSyntax(a.value)).join(', ')})`;
    case 'group':
      return `(${printSyntax(node.inner)})`;
    case 'unary':
      return node.operator === 'NOT' ? printNot(node.operand, at) : `${node.operator}${at(node.operand, UNARY_LEVEL)}`;
    case 'percent':
      return `${at(node.operand, PERCENT_LEVEL)}%`;
    case 'binary': {
      const level = LEVEL[node.operator];
      // AND and OR side by side need brackets even where precedence would not
      const left = node.operator === 'OR' ? at(node.left, mixes(node.left) ? NOT_LEVEL : level) : at(node.left, level);
      const right = node.operator === 'OR' ? at(node.right, NOT_LEVEL) : at(node.right, level + 1);
      return `${left} ${node.operator} ${right}`;
    }
    case 'in':
      return `${at(node.item, COMPARE_LEVEL)} IN (${node.list.map(printSyntax).join(', ')})`;
    case 'between':
      return `${at(node.item, COMPARE_LEVEL)} BETWEEN ${at(node.low, CONCAT_LEVEL)} AND ${at(node.high, CONCAT_LEVEL)}`;
  }
}

const mixes = (left: Syntax): boolean => left.kind === 'binary' && left.operator === 'AND';

/** `NOT (a) = b` would be read as the function NOT(a), so an operand that begins with a bracket is wrapped whole. */
function printNot(operand: Syntax, at: (child: Syntax, level: number) => string): string {
  const text = at(operand, NOT_LEVEL);
  return text.startsWith('(') ? `NOT(${printSyntax(operand)})` : `NOT ${text}`;
}
