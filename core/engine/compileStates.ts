import { type Form, type Lines, type Page, type Section } from '../form/definition.ts';
import { type FormProblem, formProblem } from '../form/problems.ts';
import { type Rule, type Act, type RuleEffect, isAct, ruleName } from '../form/rules.ts';
import { type Grant, type Move, anyStep, grantsFormula } from '../form/steps.ts';
import { moveAt } from '../form/references.ts';
import { wordsFormula } from '../form/words.ts';
import type { Formula } from '../formula/formula.ts';
import type { Scope } from '../formula/scope.ts';
import * as T from '../values/typing.ts';
import { type FieldCompiler, readsMe } from './compileField.ts';
import { type ConditionOwner, type HiddenValue, type PlanCondition, formulasIn } from './conditions.ts';
import type { PlanCheck, PlanField, Written } from './plan.ts';
import type { CheckPlace } from './state.ts';

/** A condition that comes from around a field; `hides` says what its hiding does to values, where that is said. */
export type Inherited = PlanCondition & { readonly hides?: HiddenValue };
/** What a field, or lines, have from what they stand in and from rules. */
export interface InheritedStates {
  readonly shown: readonly Inherited[];
  readonly showing: readonly Inherited[];
  readonly required: readonly PlanCondition[];
  readonly locked: readonly PlanCondition[];
  /** of those that lock: what keeps it from people who are not to fill it, now */
  readonly filling: readonly PlanCondition[];
  readonly messages: readonly PlanCheck[];
}
type States = Pick<Section, 'shown' | 'required' | 'locked'> & { readonly hiddenValue?: HiddenValue };
/** A rule with its condition; null where it has a mistake, and the rule does nothing. */
export interface RuleCondition {
  readonly rule: Rule;
  readonly label: string;
  readonly condition: Formula | null;
}

/** An effect that follows a condition, with its place among all. */
interface Placed {
  readonly effect: Exclude<RuleEffect, Act>;
  readonly condition: PlanCondition;
  readonly rule: Rule;
  readonly label: string;
  readonly part: Written['part'];
  readonly order: number;
}

/**
 * The states that fields inherit: of their section, their page, the lines they stand in, and of rules. Each formula is compiled once
 * where it is written, whatever it governs.
 */
export class StateCompiler {
  private readonly places = new Map<string, InheritedStates>();
  /** the section that each field, and lines, stand in */
  private readonly homes = new Map<string, string>();
  /** rules that are on and whose condition can be read */
  readonly rules: readonly RuleCondition[];
  private readonly effects: ReadonlyMap<string, readonly Placed[]>;
  private readonly access: ReadonlyMap<string, InheritedStates>;

  constructor(
    private readonly form: Form,
    private readonly compiler: FieldCompiler,
    private readonly scope: Scope,
    private readonly problems: FormProblem[],
  ) {
    for (const page of form.pages) {
      const [first = ''] = page.sections.flatMap((s) => s.fields);
      const ofPage = this.written(page, { kind: 'page', id: page.id, label: page.label }, first);
      for (const section of page.sections) {
        const own = this.written(section, { kind: 'section', id: section.id, label: section.label }, section.fields[0] ?? first);
        this.places.set(section.id, joined(ofPage, own));
        for (const key of section.fields) this.homes.set(key, section.id);
      }
    }
    this.rules = form.rules.flatMap((rule, number): RuleCondition[] => {
      const label = ruleName(rule, number);
      const condition = this.ofRule(rule, label, 'when', rule.when, T.YESNO);
      if (rule.on && (rule.when === null || condition)) return [{ rule, label, condition }];
      // one that does nothing is read all the same, so that what it names is renamed with the rest
      this.readEffects(rule, label);
      return [];
    });
    this.effects = this.byTarget();
    this.access = this.ofAccess();
  }

  /** A formula of a rule; what is wrong with it is a problem of the rule, unless it is off. */
  ofRule(rule: Rule, label: string, part: Written['part'], text: string | null, expected: T.Type | null): Formula | null {
    const before = this.problems.length;
    const compiled = this.compiler.formula('', 'when', text, expected, this.scope, { path: `@${rule.id}`, part, label });
    const found = this.problems.splice(before);
    if (rule.on) this.problems.push(...found.map((p): FormProblem => ({ ...p, field: null, rule: rule.id, part: p.part && 'when' })));
    return compiled;
  }

  /** A formula of a move; what is wrong with it is a problem of the steps. */
  ofMove(move: Move, part: Written['part'], text: string | null, expected: T.Type | null): Formula | null {
    const before = this.problems.length;
    const compiled = this.compiler.formula('', 'when', text, expected, this.scope, { path: moveAt(move), part, label: move.label });
    const found = this.problems.splice(before);
    this.problems.push(
      ...found.map((p): FormProblem => ({ ...p, field: null, part: null, steps: true, message: `${move.label}: ${p.message}` })),
    );
    return compiled;
  }

  private readEffects(rule: Rule, label: string): void {
    for (const branch of ['then', 'otherwise'] as const)
      rule[branch].forEach((e, i) => {
        const part = `${branch}.${i}` as const;
        if (e.kind === 'set') this.ofRule(rule, label, part, e.formula, null);
        else if (e.kind === 'message') this.ofRule(rule, label, part, wordsFormula(e.message), null);
        else if (e.kind === 'addLine')
          for (const [key, text] of Object.entries(e.values)) this.ofRule(rule, label, `${part}.${key}`, text, null);
      });
  }

  private written(of: States, owner: ConditionOwner, first: string): InheritedStates {
    const path = owner.kind === 'section' || owner.kind === 'page' ? `@${owner.id}` : owner.id;
    const one = (part: 'shown' | 'required' | 'locked'): Inherited[] => {
      const formula = this.compiler.formula(first, part, of[part], T.YESNO, this.scope, { path, part, label: owner.label });
      return formula
        ? [{ of: owner, formula, wants: true, mode: 'both', ofForm: true, empties: false, hides: of.hiddenValue ?? 'own' }]
        : [];
    };
    return { shown: one('shown'), showing: [], required: one('required'), locked: one('locked'), filling: [], messages: [] };
  }

  /** What lines have from where they stand and from rules, with their own. */
  lines(key: string, definition: Lines): InheritedStates {
    const own = this.written({ ...definition, hiddenValue: undefined }, { kind: 'lines', id: key, label: definition.label }, key);
    return joined(this.around(key), own, this.byRules([key, this.sectionOf(key)]), this.byAccess(key));
  }
  /**
   * What a field has from where it stands and from rules. Of `lines`, a field is locked with them, and hidden by what asks who somebody
   * is, so that nothing in them is told to whom they are hidden from; else they are hidden as a whole.
   */
  of(path: string, lines: InheritedStates | null): InheritedStates {
    if (!lines) return joined(this.around(path), this.byRules([path, this.sectionOf(path)]), this.byAccess(path));
    const personal = (all: readonly Inherited[]): readonly Inherited[] => (formulasIn(all).some(readsMe) ? all : []);
    const { locked, filling } = lines;
    const ofLines = { shown: personal(lines.shown), showing: personal(lines.showing), required: [], locked, filling, messages: [] };
    return joined(ofLines, this.byRules([path]), this.access.get(path) ?? NOTHING);
  }
  /** Who sees and fills a place: what is said of it, of its section and of its page. */
  private byAccess(key: string): InheritedStates {
    const home = this.homes.get(key) ?? '';
    const page = this.form.pages.find((p) => p.sections.some((s) => s.id === home))?.id ?? '';
    return joined(...[key, `@${home}`, `@${page}`].map((place) => this.access.get(place) ?? NOTHING));
  }
  /** What is said of who sees and fills what, as conditions by place. */
  private ofAccess(): ReadonlyMap<string, InheritedStates> {
    const { steps } = this.form;
    const life = steps && this.form.fields[steps.field] ? steps : null;
    return new Map(
      this.form.access.map(({ place, seen, filled }): [string, InheritedStates] => {
        const of: ConditionOwner = { kind: 'access', id: place, label: '' };
        const one = (grants: readonly Grant[], wants: boolean): Inherited[] => {
          const formula = this.generated(grantsFormula(grants, life));
          return formula ? [{ of, formula, wants, mode: 'both', ofForm: true, empties: false, hides: 'keep' }] : [];
        };
        // whom no step shows it to can be told without a record
        const shown = seen.some((g) => g.steps.length) ? [...one(anyStep(seen), true), ...one(seen, true)] : one(seen, true);
        const filling = one(filled, false);
        return [place, { ...NOTHING, shown, locked: filling, filling }];
      }),
    );
  }
  /** A formula that nobody wrote, made of choices about people and steps. */
  generated(text: string | null, expected: T.Type = T.YESNO): Formula | null {
    if (text === null) return null;
    const before = this.problems.length;
    const compiled = this.compiler.formula('', 'when', text, expected, this.scope, null);
    const found = this.problems.splice(before);
    this.problems.push(...found.map((p): FormProblem => ({ ...p, field: null, part: null, span: null, steps: true })));
    return compiled;
  }
  private around(key: string): InheritedStates {
    return this.places.get(this.homes.get(key) ?? '') ?? NOTHING;
  }
  private sectionOf = (key: string): string => `@${this.homes.get(key) ?? ''}`;

  /** The states that rules give at these places: a path, the key of lines, or `@` and the id of a section. */
  private byRules(targets: readonly string[]): InheritedStates {
    const made = { shown: [] as Inherited[], showing: [] as Inherited[], required: [] as PlanCondition[], locked: [] as PlanCondition[] };
    const all = targets.flatMap((t) => this.effects.get(t) ?? []).sort((a, b) => a.order - b.order);
    for (const { effect, condition } of all) {
      if (effect.kind === 'show') made.showing.push({ ...condition, hides: 'own' });
      else if (effect.kind === 'hide') made.shown.push({ ...condition, wants: !condition.wants, hides: effect.hiddenValue });
      else if (effect.kind !== 'message') made[effect.kind === 'require' ? 'required' : 'locked'].push(condition);
    }
    return { ...made, filling: [], messages: this.messages(targets[0] ?? '', { kind: 'field' }) };
  }
  /** What rules say at a place: a path, `@` and the id of a section, or `@` for the form. */
  messages(target: string, at: CheckPlace): PlanCheck[] {
    return (this.effects.get(target) ?? []).flatMap(({ effect, condition: when, rule, label, part }): PlanCheck[] => {
      if (effect.kind !== 'message') return [];
      const text = wordsFormula(effect.message);
      const fixed = typeof effect.message === 'string' ? effect.message : label;
      const message = text === null ? fixed : (this.ofRule(rule, label, part, text, null) ?? fixed);
      return [{ when, message, severity: effect.severity, at }];
    });
  }
  /** Effects that follow their rule's condition, by what they are about, once: a form is compiled at every change of it. */
  private byTarget(): ReadonlyMap<string, readonly Placed[]> {
    const found = new Map<string, Placed[]>();
    let order = 0;
    for (const { rule, label, condition: formula } of this.rules)
      for (const branch of ['then', 'otherwise'] as const)
        rule[branch].forEach((effect, i) => {
          if (isAct(effect)) return;
          const of: ConditionOwner = { kind: 'rule', id: rule.id, label };
          const condition = { of, formula, wants: branch === 'then', mode: rule.mode, ofForm: true, empties: false };
          const target = effect.field ?? `@${effect.section ?? ''}`;
          const placed = { effect, condition, rule, label, part: `${branch}.${i}` as const, order: order++ };
          found.set(target, [...(found.get(target) ?? []), placed]);
        });
    return found;
  }
}

const NOTHING: InheritedStates = { shown: [], showing: [], required: [], locked: [], filling: [], messages: [] };
const joined = (...all: readonly InheritedStates[]): InheritedStates => ({
  shown: all.flatMap((s) => s.shown),
  showing: all.flatMap((s) => s.showing),
  required: all.flatMap((s) => s.required),
  locked: all.flatMap((s) => s.locked),
  filling: all.flatMap((s) => s.filling),
  messages: all.flatMap((s) => s.messages),
});

/** The running text of a section, as something that is always said there. */
function runningText(
  section: Section,
  where: { readonly path: string; readonly at: string; readonly label: string },
  compiler: FieldCompiler,
): PlanCheck[] {
  if (section.text === null) return [];
  const text = wordsFormula(section.text);
  const formula =
    text === null
      ? null
      : compiler.formula(where.path, 'text', text, null, undefined, { path: where.at, part: 'text', label: where.label });
  const message = formula ?? (typeof section.text === 'string' ? section.text : '');
  const of = { kind: 'section', id: section.id, label: section.label } as const;
  const when = { of, formula: null, wants: true, mode: 'both', ofForm: false, empties: false } as const;
  return message === '' ? [] : [{ when, message, severity: 'note', at: { kind: 'section', id: section.id } }];
}

/** The fields with the checks of their sections and of the form: these are kept at a field, and said where they belong. */
export function withPlaceChecks(form: Form, fields: readonly PlanField[], compiler: FieldCompiler, states: StateCompiler): PlanField[] {
  const added = new Map<number, PlanCheck[]>();
  const own = new Map(fields.filter((f) => f.group === null).map((f) => [f.key, f.slot]));
  const add = (section: Section | null, checks: readonly PlanCheck[]): void => {
    const slot = section?.fields.map((k) => own.get(k)).find((s) => s !== undefined) ?? fields[0]?.slot;
    if (slot !== undefined && checks.length) added.set(slot, [...(added.get(slot) ?? []), ...checks]);
  };
  const first = (section: Section | null, page: Page | undefined): string => section?.fields[0] ?? page?.sections[0]?.fields[0] ?? '';
  for (const page of form.pages)
    for (const section of page.sections) {
      const at = { kind: 'section', id: section.id } as const;
      const where = { path: first(section, page), at: `@${section.id}`, label: section.label };
      add(section, [
        ...runningText(section, where, compiler),
        ...compiler.checks(where, section.checks, at),
        ...states.messages(`@${section.id}`, at),
      ]);
    }
  const at = { kind: 'form' } as const;
  const where = { path: first(null, form.pages[0]), at: '@', label: form.label };
  add(null, [...compiler.checks(where, form.checks, at), ...states.messages('@', at)]);
  return fields.map((f) => (added.has(f.slot) ? { ...f, checks: [...f.checks, ...(added.get(f.slot) ?? [])] } : f));
}

/** A problem of a rule. */
export const ruleProblem = (rule: Rule, message: string, more: Partial<FormProblem> = {}): FormProblem => ({
  ...formProblem('rule', null, null, message),
  rule: rule.id,
  ...more,
});
