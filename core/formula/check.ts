import { ROLES } from '../values/roles.ts';
import { nearest } from '../values/text.ts';
import type { FunctionDeclaration, Parameter } from './functions/define.ts';
import { functionNamed, FUNCTION_NAMES } from './functions/index.ts';
import type { Parsed } from './parse.ts';
import { type Fix, type FormulaProblem, problem } from './problems.ts';
import { SPECIAL } from './checkData.ts';
import { contradictions } from './contradictions.ts';
import type { Extra } from './extras.ts';
import { type Binding, type Scope, withBinding } from './scope.ts';
import { printSyntax } from './print.ts';
import { type Syntax, pathOf } from './syntax.ts';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';

/** A formula whose every part has a type. `syntax` is null when it is blank or has an error. */
/** `me.roles`: what the account is of who is signed in. It is no column of People, whose rows are told to more than themselves. */
export const isMyRoles = ({ object, property }: Extract<Syntax, { kind: 'member' }>, bindings: Checked['bindings']): boolean =>
  property === MY_ROLES && bindings.get(object)?.source.kind === 'me';
export const MY_ROLES = 'roles';
export const MY_ROLES_TYPE: Type = T.listOf({ kind: 'choice', options: ROLES });

export interface Checked {
  readonly text: string;
  readonly syntax: Syntax | null;
  /** the tree also of a formula that has mistakes but can be read: what its names are, as far as they are known */
  readonly read?: Syntax | null;
  readonly type: Type;
  readonly problems: readonly FormulaProblem[];
  readonly types: ReadonlyMap<Syntax, Type>;
  /** what each `name` node stands for */
  readonly bindings: ReadonlyMap<Syntax, Binding>;
  /** what calls that read more than their arguments are about */
  readonly extras: ReadonlyMap<Syntax, Extra>;
}

/**
 * Checks a parsed formula against the names in scope: unknown names (with the nearest), types, number of arguments.
 * `expected` is the type its place asks for; null accepts any. Never throws; cost: linear.
 */
export function checkFormula(parsed: Parsed, scope: Scope, expected: Type | null = null): Checked {
  const checker = new Checker(scope, [...parsed.problems]);
  if (!parsed.syntax) return { ...checker.result(parsed.text, null), type: T.EMPTY_TYPE };
  const type = checker.type(parsed.syntax);
  if (expected && !T.fits(expected, type)) checker.expect(parsed.syntax, type, expected);
  const checked = checker.result(parsed.text, parsed.syntax, type);
  const doubtful = checked.syntax ? contradictions(checked) : [];
  return doubtful.length ? { ...checked, problems: [...checked.problems, ...doubtful] } : checked;
}

export class Checker {
  readonly types = new Map<Syntax, Type>();
  readonly bindings = new Map<Syntax, Binding>();
  readonly extras = new Map<Syntax, Extra>();

  constructor(
    private scope: Scope,
    readonly problems: FormulaProblem[],
  ) {}

  get names(): Scope {
    return this.scope;
  }
  /** Checks something with one name more. */
  within<R>(binding: Binding, work: () => R): R {
    const before = this.scope;
    this.scope = withBinding(before, binding);
    try {
      return work();
    } finally {
      this.scope = before;
    }
  }

  result(text: string, syntax: Syntax | null, type: Type = T.EMPTY_TYPE): Checked {
    const broken = this.problems.some((p) => p.severity === 'error');
    return {
      text,
      syntax: broken ? null : syntax,
      read: syntax,
      type,
      problems: this.problems,
      types: this.types,
      bindings: this.bindings,
      extras: this.extras,
    };
  }

  type(node: Syntax): Type {
    const type = this.infer(node);
    this.types.set(node, type);
    return type;
  }

  private readonly tableLabel = (key: string): string => this.scope.tables.get(key)?.label ?? key;
  words(t: Type): string {
    return T.typeInWords(t, this.tableLabel);
  }

  /** Reports that `node` is `actual` where `expected` is asked, with the likely repair. */
  expect(node: Syntax, actual: Type, expected: Type): void {
    const fix = this.shownColumnFix(node, actual, expected);
    const text = printSyntax(node);
    const hint = fix ? `; did you mean ${fix.insert}?` : '.';
    this.problems.push(
      problem('type', node, `“${text}” is ${this.words(actual)}; ${this.words(expected)} is needed here${hint}`, fix ? [fix] : []),
    );
  }

  /** `species` used as a text: offers `species.name`. */
  private shownColumnFix(node: Syntax, actual: Type, expected: Type): Fix | null {
    if (actual.kind !== 'row') return null;
    const table = this.scope.tables.get(actual.table);
    const shown = table?.shown ? table.columns.get(table.shown) : undefined;
    if (!shown || !pathOf(node) || !T.fits(expected, shown.type)) return null;
    const insert = `${printSyntax(node)}.${shown.key}`;
    return { from: node.from, to: node.to, insert, label: `Use ${insert}` };
  }

  require(node: Syntax, expected: Type): Type {
    const actual = this.type(node);
    if (actual.kind === 'object' || !T.fits(expected, actual)) this.expect(node, actual, expected);
    return actual;
  }

  private infer(node: Syntax): Type {
    switch (node.kind) {
      case 'number':
        return T.NUMBER;
      case 'text':
        return T.TEXT;
      case 'yesno':
        return T.YESNO;
      case 'group':
        return this.type(node.inner);
      case 'percent':
        this.require(node.operand, T.NUMBER);
        return T.NUMBER;
      case 'unary':
        this.require(node.operand, node.operator === 'NOT' ? T.YESNO : T.NUMBER);
        return node.operator === 'NOT' ? T.YESNO : T.NUMBER;
      case 'name':
        return this.name(node);
      case 'member':
        return this.member(node);
      case 'binary':
        return this.binary(node);
      case 'in': {
        const item = this.type(node.item);
        for (const value of node.list) this.comparison(node.item, item, value, this.listItem(value));
        return T.YESNO;
      }
      case 'between': {
        const item = this.type(node.item);
        this.comparison(node.item, item, node.low, this.type(node.low), true);
        this.comparison(node.item, item, node.high, this.type(node.high), true);
        return T.YESNO;
      }
      case 'call':
        return this.call(node);
    }
  }

  /** In `x IN (…)` a list stands for its items. */
  private listItem(node: Syntax): Type {
    const type = this.type(node);
    return type.kind === 'list' ? type.of : type;
  }

  private name(node: Extract<Syntax, { kind: 'name' }>): Type {
    const binding = this.scope.bindings.get(node.name) ?? this.caseBlind(node.name);
    if (binding) {
      this.bindings.set(node, binding);
      return binding.type;
    }
    if (node.name === 'each') {
      const said = '“each” is one of a list; it can only be used in the condition of ANYOF, ALLOF, NONEOF or COUNTOF.';
      this.problems.push(problem('notAvailableHere', node, said));
      return T.UNKNOWN;
    }
    if (node.name === 'choice') {
      this.problems.push(
        problem(
          'notAvailableHere',
          node,
          '“choice” is the row on offer; it can only be used where a list is narrowed, or in the condition of PICK or GATHER.',
        ),
      );
      return T.UNKNOWN;
    }
    const near = nearest(node.name, this.scope.bindings.keys(), 1)[0] ?? this.byLabel(node.name);
    const fixes = near ? [{ from: node.from, to: node.to, insert: near, label: `Use ${near}` }] : [];
    const isFunction = functionNamed(node.name.toUpperCase()) !== null;
    const hint = near ? ` Did you mean ${near}?` : isFunction ? ' A function needs brackets after its name.' : '';
    this.problems.push(problem('unknownName', node, `There is no field or name “${node.name}” here.${hint}`, fixes));
    return T.UNKNOWN;
  }

  private caseBlind(name: string): Binding | undefined {
    const lower = name.toLowerCase();
    for (const [key, binding] of this.scope.bindings) if (key.toLowerCase() === lower) return binding;
    return undefined;
  }

  private byLabel(name: string): string | undefined {
    for (const b of this.scope.bindings.values()) if (b.label.toLowerCase() === name.toLowerCase()) return b.name;
    return undefined;
  }

  private member(node: Extract<Syntax, { kind: 'member' }>): Type {
    const object = this.type(node.object);
    if (T.isOpen(object)) return T.UNKNOWN;
    if (object.kind === 'object') {
      const type = object.members.get(node.property) ?? object.others;
      if (type) return type;
      return this.unknownMember(node, printSyntax(node.object), object.members.keys());
    }
    const isFeed = node.object.kind === 'call' && node.object.name === 'FEED';
    if (object.kind === 'choice' && object.attributes && (isFeed || this.bindings.get(node.object)?.source.kind === 'slot')) {
      const type = object.attributes.get(node.property);
      return type ?? this.unknownMember(node, `The choice in ${printSyntax(node.object)}`, object.attributes.keys());
    }
    const row = object.kind === 'list' ? object.of : object;
    if (row.kind !== 'row') {
      const text = `“${printSyntax(node.object)}” is ${this.words(object)}, which has no columns.`;
      this.problems.push(problem('type', node.propertySpan, text));
      return T.UNKNOWN;
    }
    const table = this.scope.tables.get(row.table);
    const column = table?.columns.get(node.property);
    if (!column && isMyRoles(node, this.bindings)) return MY_ROLES_TYPE;
    if (!table || !column) return this.unknownMember(node, this.tableLabel(row.table), table?.columns.keys() ?? []);
    if (object.kind !== 'list') return column.type;
    return T.listOf(column.type.kind === 'list' ? column.type.of : column.type);
  }

  private unknownMember(node: Extract<Syntax, { kind: 'member' }>, owner: string, known: Iterable<string>): Type {
    const near = nearest(node.property, known, 1)[0];
    const at = node.propertySpan;
    const fixes = near ? [{ ...at, insert: near, label: `Use ${near}` }] : [];
    const hint = near ? ` Did you mean ${near}?` : '';
    this.problems.push(problem('unknownColumn', at, `${owner} has no column “${node.property}”.${hint}`, fixes));
    return T.UNKNOWN;
  }

  private binary(node: Extract<Syntax, { kind: 'binary' }>): Type {
    switch (node.operator) {
      case 'AND':
      case 'OR':
        this.require(node.left, T.YESNO);
        this.require(node.right, T.YESNO);
        return T.YESNO;
      case '&':
        this.textPart(node.left);
        this.textPart(node.right);
        return T.TEXT;
      case '=':
      case '<>':
      case '<':
      case '<=':
      case '>':
      case '>=': {
        const ordered = node.operator !== '=' && node.operator !== '<>';
        this.comparison(node.left, this.type(node.left), node.right, this.type(node.right), ordered);
        return T.YESNO;
      }
      case '+':
      case '-':
        return this.plusOrMinus(node);
      case '*':
      case '/':
      case '^':
        this.require(node.left, T.NUMBER);
        this.require(node.right, T.NUMBER);
        return T.NUMBER;
    }
  }

  /** A part of a text: anything that can be written out. Rows are not; the shown column is offered. */
  private textPart(node: Syntax): void {
    const type = this.type(node);
    if (type.kind === 'row' || type.kind === 'list' || type.kind === 'object') this.expect(node, type, T.TEXT);
  }

  /** Dates move by days: date ± number is a date, date − date is a number of days (OpenFormula 6.4.2). */
  private plusOrMinus(node: Extract<Syntax, { kind: 'binary' }>): Type {
    const left = this.type(node.left);
    const right = this.type(node.right);
    const isDay = (t: Type): boolean => t.kind === 'date' || t.kind === 'datetime';
    if (isDay(left) && isDay(right) && node.operator === '-') {
      return T.NUMBER;
    }
    if (isDay(left)) {
      if (!T.fits(T.NUMBER, right)) this.expect(node.right, right, T.NUMBER);
      return left;
    }
    if (isDay(right) && node.operator === '+') {
      if (!T.fits(T.NUMBER, left)) this.expect(node.left, left, T.NUMBER);
      return right;
    }
    for (const [side, type] of [
      [node.left, left],
      [node.right, right],
    ] as const) {
      if (type.kind === 'object' || !T.fits(T.NUMBER, type)) this.joinHint(node, side, type);
    }
    return T.NUMBER;
  }

  /** `"a" + "b"` is the commonest slip: texts are joined with &. */
  private joinHint(node: Extract<Syntax, { kind: 'binary' }>, side: Syntax, type: Type): void {
    if (node.operator === '+' && T.isTextual(type)) {
      const fix = { ...node.operatorSpan, insert: '&', label: 'Join with &' };
      this.problems.push(
        problem('type', side, `“${printSyntax(side)}” is ${this.words(type)}. Texts are joined with &, numbers added with +.`, [fix]),
      );
    } else this.expect(side, type, T.NUMBER);
  }

  private comparison(left: Syntax, lt: Type, right: Syntax, rt: Type, ordered = false): void {
    if (!T.comparable(lt, rt) || lt.kind === 'list' || rt.kind === 'list') {
      const fix = this.shownColumnFix(left, lt, rt) ?? this.shownColumnFix(right, rt, lt);
      const hint = fix ? ` Did you mean ${fix.insert}?` : '';
      const text = `“${printSyntax(left)}” is ${this.words(lt)} and “${printSyntax(right)}” is ${this.words(rt)}: they cannot be compared.${hint}`;
      this.problems.push(
        problem('type', { from: Math.min(left.from, right.from), to: Math.max(left.to, right.to) }, text, fix ? [fix] : []),
      );
      return;
    }
    if (ordered && (lt.kind === 'row' || rt.kind === 'row')) {
      this.problems.push(problem('type', left, 'Rows have no order. Compare one of their columns.'));
      return;
    }
    if (lt.kind === 'empty' || rt.kind === 'empty') {
      const other = lt.kind === 'empty' ? right : left;
      const whole = { from: Math.min(left.from, right.from), to: Math.max(left.to, right.to) };
      const insert = `ISBLANK(${printSyntax(other)})`;
      this.warn('neverTrue', whole, 'A comparison with empty is never true.', [{ ...whole, insert, label: `Use ${insert}` }]);
    }
    if (lt.kind !== rt.kind && [lt, rt].every((t) => t.kind === 'date' || t.kind === 'datetime')) {
      this.warn('type', right, 'A date is compared with a date-time: the date counts as midnight.');
    }
    this.unofferedChoice(lt, right);
    this.unofferedChoice(rt, left);
  }

  private unofferedChoice(type: Type, literal: Syntax): void {
    if (type.kind !== 'choice' || !type.options || literal.kind !== 'text') return;
    if (type.options.some((o) => o.toUpperCase() === literal.value.toUpperCase())) return;
    const near = nearest(literal.value, type.options, 1)[0];
    const insert = near === undefined ? '' : `"${near}"`;
    const fixes = near === undefined ? [] : [{ from: literal.from, to: literal.to, insert, label: `Use ${insert}` }];
    const hint = near === undefined ? '' : ` Did you mean “${near}”?`;
    this.warn('neverTrue', literal, `“${literal.value}” is not one of the choices.${hint}`, fixes);
  }

  private warn(
    code: 'type' | 'neverTrue' | 'alwaysTrue',
    at: { from: number; to: number },
    message: string,
    fixes: readonly Fix[] = [],
  ): void {
    this.problems.push(problem(code, at, message, fixes, 'warning'));
  }

  private call(node: Extract<Syntax, { kind: 'call' }>): Type {
    const declaration = functionNamed(node.name);
    if (!declaration) {
      for (const a of node.args) this.type(a.value);
      const near = nearest(node.name, FUNCTION_NAMES, 1)[0];
      const fixes = near ? [{ ...node.nameSpan, insert: near, label: `Use ${near}` }] : [];
      const hint = near ? ` Did you mean ${near}?` : '';
      this.problems.push(problem('unknownFunction', node.nameSpan, `There is no function ${node.name}.${hint}`, fixes));
      return T.UNKNOWN;
    }
    const special = SPECIAL[node.name];
    if (special) {
      this.arity(node, declaration);
      return special(this, node);
    }
    const types = node.args.map((argument, i) => {
      const parameter = parameterAt(declaration, i, node.args.length);
      const actual = this.type(argument.value);
      if (parameter && (actual.kind === 'object' || !parameter.type.accepts(actual))) {
        this.expect(argument.value, actual, parameter.type.wanted);
      }
      return actual;
    });
    this.arity(node, declaration);
    const returned = declaration.returns(types);
    if (returned) return returned;
    this.problems.push(
      problem(
        'type',
        node,
        `The possible results of ${node.name} have different types (${types.map((t) => this.words(t)).join(', ')}). They must be of one type.`,
      ),
    );
    return T.UNKNOWN;
  }

  private arity(node: Extract<Syntax, { kind: 'call' }>, declaration: FunctionDeclaration): void {
    const { least, most } = argumentBounds(declaration);
    const n = node.args.length;
    const ragged = declaration.inPairs && !declaration.lastOfOdd && n >= least && (n - least) % 2 !== 0;
    if (n >= least && n <= most && !ragged) return;
    const count = most === Infinity ? `at least ${least}` : least === most ? String(least) : `${least} to ${most}`;
    const pairs = ragged ? ', in pairs' : '';
    const given = n === 1 ? '1 is given' : `${n} are given`;
    this.problems.push(
      problem('arity', node, `${declaration.signature} takes ${count} ${most === 1 ? 'value' : 'values'}${pairs}; ${given}.`),
    );
  }
}

/** The least and the most number of arguments. */
export function argumentBounds(declaration: FunctionDeclaration): { least: number; most: number } {
  const least = declaration.parameters.filter((p) => !p.optional).length;
  return { least, most: declaration.parameters.some((p) => p.repeats) ? Infinity : declaration.parameters.length };
}

/** The parameter the i-th of `count` arguments fills; repeated parameters take turns. */
export function parameterAt(declaration: FunctionDeclaration, i: number, count: number): Parameter | null {
  if (declaration.lastOfOdd && i === count - 1 && (count - argumentBounds(declaration).least) % 2 !== 0) return declaration.lastOfOdd;
  const { parameters } = declaration;
  const firstRepeat = parameters.findIndex((p) => p.repeats);
  if (firstRepeat < 0 || i < firstRepeat) return parameters[i] ?? null;
  const repeated = parameters.slice(firstRepeat);
  return repeated[(i - firstRepeat) % repeated.length] ?? null;
}
