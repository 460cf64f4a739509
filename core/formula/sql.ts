import type { Datum } from '../values/types.ts';
import type { Checked } from './check.ts';
import { type CompareOperator, type Syntax, ungroup } from './syntax.ts';
import { EMPTY_TYPE, type Type, isTextual } from '../values/typing.ts';

/*
 * Problem: large tables must be narrowed by the database, with the language's semantics and not SQL's.
 * Solution: what can be said exactly in plain SQL is translated; everything else gives null and is evaluated on the
 * rows that come back. Text is compared through its fold column, empty through SQL's NULL where that agrees:
 * in a positive place NULL and FALSE both leave the row out, under NOT a comparison is wrapped so that it is FALSE.
 */

/** A value to bind: a parameter of the narrowing or a constant; `fold` when it is compared as folded text. */
export type SqlBinding = { readonly fold: boolean } & ({ readonly param: number } | { readonly value: Datum });

export interface SqlFragment {
  readonly sql: string;
  readonly bindings: readonly SqlBinding[];
}

/** How the database names things. Identifiers come from the model only. */
export interface SqlNames {
  table(key: string): string;
  column(alias: string, key: string): string;
  /** the column that holds the folded text of a text or choice column */
  foldColumn(alias: string, key: string): string;
  /** whether the table has the column by now: one that a draft will create cannot be asked for yet */
  has?(table: string, column: string): boolean;
  /** whether a stored list of numbers (SQL text of a column or parameter) holds an item */
  holds(list: string, item: string): string;
}

const fragment = (sql: string, bindings: readonly SqlBinding[] = []): SqlFragment => ({ sql, bindings });
const join = (template: (...sql: string[]) => string, ...parts: SqlFragment[]): SqlFragment =>
  fragment(
    template(...parts.map((p) => p.sql)),
    parts.flatMap((p) => [...p.bindings]),
  );

/**
 * Translates a condition over the candidate row (`alias`) to SQL, or gives null where it cannot be said exactly.
 * `params` numbers the parts that do not read the candidate.
 */
export function conditionToSql(
  node: Syntax,
  checked: Checked,
  params: ReadonlyMap<Syntax, number>,
  names: SqlNames,
  alias: string,
): SqlFragment | null {
  return new Translator(checked, params, names, alias).condition(node, true);
}

class Translator {
  private aliases = 0;

  constructor(
    private readonly checked: Checked,
    private readonly params: ReadonlyMap<Syntax, number>,
    private readonly names: SqlNames,
    private readonly alias: string,
  ) {}

  private typeOf(node: Syntax): Type {
    return this.checked.types.get(node) ?? EMPTY_TYPE;
  }

  condition(node: Syntax, positive: boolean): SqlFragment | null {
    const param = this.params.get(node);
    if (param !== undefined) return fragment(positive ? '? = 1' : 'coalesce(? = 1, FALSE)', [{ param, fold: false }]);
    switch (node.kind) {
      case 'group':
        return this.condition(node.inner, positive);
      case 'yesno':
        return fragment(node.value ? '1 = 1' : '1 = 0');
      case 'unary':
        return node.operator === 'NOT' ? this.not(node.operand) : null;
      case 'binary': {
        if (node.operator === 'AND' || node.operator === 'OR') return this.all([node.left, node.right], node.operator, positive);
        if (['=', '<>', '<', '<=', '>', '>='].includes(node.operator)) {
          return this.wrap(this.compare(node.left, node.operator as CompareOperator, node.right), positive);
        }
        return null;
      }
      case 'in': {
        const options = node.list.map((x) => this.holds(node.item, x) ?? this.compare(node.item, '=', x));
        if (!options.length) return fragment('1 = 0');
        if (options.some((o) => o === null)) return null;
        return this.wrap(
          join((...sql) => `(${sql.join(' OR ')})`, ...(options as SqlFragment[])),
          positive,
        );
      }
      case 'between': {
        const low = this.compare(node.item, '>=', node.low);
        const high = this.compare(node.item, '<=', node.high);
        return (
          low &&
          high &&
          this.wrap(
            join((a, b) => `(${a} AND ${b})`, low, high),
            positive,
          )
        );
      }
      case 'call': {
        const args = node.args.map((a) => a.value);
        if (node.name === 'AND' || node.name === 'OR') return this.all(args, node.name, positive);
        if (node.name === 'NOT' && args[0]) return this.not(args[0]);
        if (node.name === 'ISBLANK' && args[0]) {
          const value = this.operand(args[0], false);
          return value && join((sql) => `${sql} IS NULL`, value);
        }
        // one word only: with several, one that is empty would count in SQL and not in the language
        if (node.name === 'CONTAINSANY' && args[0] && args[1] && args.length === 2) {
          const text = this.operand(args[0], true);
          const word = this.operand(args[1], true);
          return (
            text &&
            word &&
            this.wrap(
              join((t, w) => `instr(${t}, ${w}) > 0`, text, word),
              positive,
            )
          );
        }
        return null;
      }
      case 'name':
      case 'member': {
        if (this.typeOf(node).kind !== 'yesno') return null;
        const column = this.operand(node, false);
        return (
          column &&
          this.wrap(
            join((sql) => `${sql} = 1`, column),
            positive,
          )
        );
      }
      default:
        return null;
    }
  }

  private not(operand: Syntax): SqlFragment | null {
    const inner = this.condition(operand, false);
    return inner && join((sql) => `NOT (${sql})`, inner);
  }

  private all(nodes: readonly Syntax[], operator: 'AND' | 'OR', positive: boolean): SqlFragment | null {
    // AND(list) takes lists of conditions; those are not for SQL
    if (nodes.some((n) => this.typeOf(n).kind !== 'yesno')) return null;
    const parts = nodes.map((n) => this.condition(n, positive));
    if (parts.some((p) => p === null)) return null;
    return join((...sql) => `(${sql.join(` ${operator} `)})`, ...(parts as SqlFragment[]));
  }

  private wrap(inner: SqlFragment | null, positive: boolean): SqlFragment | null {
    return inner && (positive ? inner : join((sql) => `coalesce(${sql}, FALSE)`, inner));
  }

  /** `region IN (choice.regions)`: a list of rows holds one. Lists of texts are compared folded and stay out of SQL. */
  private holds(item: Syntax, list: Syntax): SqlFragment | null {
    const type = this.typeOf(list);
    if (type.kind !== 'list' || type.of.kind !== 'row' || this.typeOf(item).kind !== 'row') return null;
    const of = this.operand(list, false);
    const one = this.operand(item, false);
    return of && one && join((l, i) => this.names.holds(l, i), of, one);
  }

  private compare(left: Syntax, operator: CompareOperator, right: Syntax): SqlFragment | null {
    const lt = this.typeOf(left);
    const rt = this.typeOf(right);
    const textual = isTextual(lt) && isTextual(rt);
    const sameKind = lt.kind === rt.kind && ['number', 'date', 'time', 'datetime', 'row', 'yesno'].includes(lt.kind);
    if (!textual && !sameKind) return null;
    const linked = operator === '=' ? (this.linked(left, right, textual) ?? this.linked(right, left, textual)) : null;
    if (linked) return linked;
    if (this.constant(left, textual) && this.constant(right, textual)) return this.constants(left, operator, right, textual, lt);
    const a = this.operand(left, textual);
    const b = this.operand(right, textual);
    return a && b && join((x, y) => `${x} ${operator} ${y}`, a, b);
  }

  /**
   * Two values that are bound, as in `weight BETWEEN choice.least AND 100`: beside no column nothing says of what type they are, so it is
   * said. How a database orders texts beside no column is its own affair: that is not for SQL.
   */
  private constants(left: Syntax, operator: CompareOperator, right: Syntax, fold: boolean, type: Type): SqlFragment | null {
    if (fold && operator !== '=' && operator !== '<>') return null;
    const isNumber = ['number', 'row', 'yesno'].includes(type.kind);
    const [a, b] = [this.constant(left, fold), this.constant(right, fold)];
    const as = isNumber ? 'DOUBLE PRECISION' : 'TEXT';
    return a && b && join((x, y) => `CAST(${x} AS ${as}) ${operator} CAST(${y} AS ${as})`, a, b);
  }

  /**
   * `choice.shelf.store = store` as “its shelf is among the shelves of the store”: the same rows, but found by the index of the
   * link instead of looking up every row's shelf.
   */
  private linked(path: Syntax, value: Syntax, fold: boolean): SqlFragment | null {
    const inner = ungroup(path);
    if (inner.kind !== 'member' || this.params.has(path)) return null;
    const owner = this.typeOf(inner.object);
    if (owner.kind !== 'row' || this.checked.bindings.get(inner.object)?.source.kind === 'candidate') return null;
    const wanted = this.constant(value, fold);
    const link = wanted && this.column(inner.object, false);
    if (!wanted || !link || this.names.has?.(owner.table, inner.property) === false) return null;
    const alias = `r${++this.aliases}`;
    const read = fold ? this.names.foldColumn(alias, inner.property) : this.names.column(alias, inner.property);
    return join(
      (l, w) => `${l} IN (SELECT ${this.names.column(alias, 'id')} FROM ${this.names.table(owner.table)} ${alias} WHERE ${read} = ${w})`,
      link,
      wanted,
    );
  }
  private constant(node: Syntax, fold: boolean): SqlFragment | null {
    const param = this.params.get(node);
    if (param !== undefined) return fragment('?', [{ param, fold }]);
    const inner = ungroup(node);
    return inner.kind === 'number' || inner.kind === 'text' || inner.kind === 'yesno'
      ? fragment('?', [{ value: inner.value, fold }])
      : inner === node
        ? null
        : this.constant(inner, fold);
  }

  /** A side of a comparison: a column of the candidate or of a row it leads to, a parameter or a constant. */
  private operand(node: Syntax, fold: boolean): SqlFragment | null {
    return this.constant(node, fold) ?? this.column(ungroup(node), fold);
  }

  private column(node: Syntax, fold: boolean): SqlFragment | null {
    const isCandidate = this.checked.bindings.get(node)?.source.kind === 'candidate';
    if (isCandidate) return fragment(this.names.column(this.alias, 'id'));
    if (node.kind !== 'member') return null;
    const { object, property } = node;
    const owner = this.typeOf(object);
    if (owner.kind === 'row' && this.names.has?.(owner.table, property) === false) return null;
    const read = (alias: string): string => (fold ? this.names.foldColumn(alias, property) : this.names.column(alias, property));
    if (this.checked.bindings.get(object)?.source.kind === 'candidate') return fragment(read(this.alias));
    const of = owner.kind === 'row' ? this.column(object, false) : null;
    if (!of || owner.kind !== 'row') return null;
    const alias = `r${++this.aliases}`;
    return join(
      (id) => `(SELECT ${read(alias)} FROM ${this.names.table(owner.table)} ${alias} WHERE ${this.names.column(alias, 'id')} = ${id})`,
      of,
    );
  }
}
