import { type ThroughPart, narrowingOf } from '../choices/narrowing.ts';
import type { Formula } from '../formula/formula.ts';
import type { Binding, Scope } from '../formula/scope.ts';
import { type Syntax, ungroup } from '../formula/syntax.ts';
import type { Type } from '../values/typing.ts';
import type { PlanField } from './plan.ts';

/*
 * Problem: box hangs on shelf and shelf on store. While no shelf is chosen, the condition “its shelf is the Shelf” cannot be
 * asked, so that boxes of every store would be offered although the store is known, and a combination that cannot exist
 * could be chosen, filled up and saved.
 *
 * Solution: what the levels between would have equated is asked through the links: `choice.shelf = shelf` and, of shelf,
 * `choice.store = store` give `choice.shelf.store = store`, which counts while shelf is empty. These parts are parts of the
 * narrowing like any other: in memory, in SQL, in the funnel, in the why.
 */

/** How many levels up are looked through. */
const MOST_LEVELS = 8;

/** The fields with the parts that follow from the levels above added to their narrowings. Cost: linear in the chains. */
export function withThrough(fields: readonly PlanField[], scopeOf: (field: PlanField) => Scope): PlanField[] {
  return fields.map((field) => {
    const { choices } = field;
    if (!choices?.narrowing?.parts.some((p) => p.equates)) return field;
    const climb = new Climb(fields, field, scopeOf(field));
    const follows = climb.follows();
    return follows.length ? { ...field, choices: { ...choices, narrowing: narrowingOf(climb.formula, follows) } } : field;
  });
}

class Climb {
  private readonly types: Map<Syntax, Type>;
  private readonly bindings: Map<Syntax, Binding>;
  private readonly found: ThroughPart[] = [];
  private readonly own: Formula;

  constructor(
    private readonly fields: readonly PlanField[],
    private readonly field: PlanField,
    private readonly scope: Scope,
  ) {
    this.own = field.choices?.narrowing?.formula as Formula;
    this.types = new Map(this.own.types);
    this.bindings = new Map(this.own.bindings);
  }

  /** The field's formula with the types and bindings of what was added. */
  get formula(): Formula {
    return { ...this.own, types: this.types, bindings: this.bindings };
  }

  follows(): readonly ThroughPart[] {
    for (const { equates } of this.field.choices?.narrowing?.parts ?? [])
      if (equates) this.climb(ungroup(equates.syntax), equates.slot, [equates.slot]);
    return this.found;
  }

  /** `side` is what of the candidate stands for the value of the field at `slot`; `empty` are the fields on the way. */
  private climb(side: Syntax, slot: number, empty: readonly number[]): void {
    const level = this.fields[slot];
    const narrowing = level?.choices?.narrowing;
    if (!level || !narrowing || empty.length > MOST_LEVELS) return;
    for (const { equates, through } of narrowing.parts) {
      if (!equates || through || empty.includes(equates.slot) || equates.slot === this.field.slot) continue;
      const wanted = this.name(equates.slot);
      if (!wanted) continue;
      const options = level.choices?.options;
      if (options) {
        const parents = new Map(options.map((o) => [o.value, o.parent ?? null]));
        const at = ungroup(equates.syntax);
        // of an option only the one above it is known
        if (at.kind !== 'member' || at.property !== 'parent') continue;
        const text = `${textOf(side)}.parent = ${textOf(wanted)}`;
        const test = (value: unknown, parent: unknown): boolean => (parents.get(value as string) ?? null) === parent;
        this.add(side, wanted, empty, equates.slot, { text, test });
        continue;
      }
      const next = this.step(ungroup(equates.syntax), narrowing.formula, level, side);
      if (!next) continue;
      this.add(next, wanted, empty, equates.slot);
      this.climb(next, equates.slot, [...empty, equates.slot]);
    }
  }

  private add(left: Syntax, right: Syntax, through: readonly number[], driver: number, instead?: ThroughPart['instead']): void {
    const span = { from: 0, to: 0 };
    const syntax = { kind: 'binary', ...span, operator: '=', operatorSpan: span, left, right } as const;
    this.types.set(syntax, { kind: 'yesno' });
    this.found.push(instead ? { syntax, through, driver, instead } : { syntax, through, driver });
  }

  /** The path `of` over a level's candidate, as a path over this field's candidate; null where there is no such path. */
  private step(of: Syntax, formula: Formula, level: PlanField, side: Syntax): Syntax | null {
    const { choices } = level;
    const own = this.field.choices;
    const type = this.types.get(side);
    if (choices?.stores === 'row' && type?.kind === 'row' && type.table === choices.table) return this.moved(of, formula, side);
    // values of columns of one table: the candidate's own row has the column above too
    const sameTable = choices?.values && own?.table === choices.table && side.kind === 'member' && side.property === choices.values;
    return sameTable && this.bindings.get(side.object)?.source.kind === 'candidate' ? this.moved(of, formula, side.object) : null;
  }

  /** A path with what it begins with (`choice`) exchanged. */
  private moved(node: Syntax, formula: Formula, start: Syntax): Syntax | null {
    if (formula.bindings.get(node)?.source.kind === 'candidate') return start;
    if (node.kind === 'group') return this.moved(node.inner, formula, start);
    if (node.kind !== 'member') return null;
    const object = this.moved(node.object, formula, start);
    const type = formula.types.get(node);
    if (!object || !type) return null;
    const copy: Syntax = { ...node, object };
    this.types.set(copy, type);
    return copy;
  }

  /** A field's name as this field's formulas write it. */
  private name(slot: number): Syntax | null {
    for (const binding of this.scope.bindings.values()) {
      if (binding.source.kind !== 'slot' || binding.source.slot !== slot) continue;
      const node: Syntax = { kind: 'name', from: 0, to: 0, name: binding.name };
      this.types.set(node, binding.type);
      this.bindings.set(node, binding);
      return node;
    }
    return null;
  }
}

const textOf = (node: Syntax): string =>
  node.kind === 'member' ? `${textOf(node.object)}.${node.property}` : node.kind === 'name' ? node.name : '';
