import { type Instead, insteadOf } from './emptied.ts';
import { compileNode } from '../formula/compile.ts';
import { type ExplainedPart, explainNames } from '../formula/explain.ts';
import { type Result, isDatum } from '../formula/errors.ts';
import type { Env } from '../formula/env.ts';
import type { Formula } from '../formula/formula.ts';
import { printSyntax } from '../formula/print.ts';
import { type Syntax, conjuncts, ungroup } from '../formula/syntax.ts';
import { type Wording, conditionWords, valueWords } from '../formula/words.ts';
import type { Type } from '../values/typing.ts';
import { type ConditionOwner, type PlanCondition, formEnv, isMet } from './conditions.ts';
import type { Entry } from './entry.ts';
import { type Origin, isByFormula } from '../model/origin.ts';
import type { PlanField } from './plan.ts';
import type { CheckState } from './state.ts';
import { heldChecks } from './cells/checks.ts';

/** Why a field's value is what it is. `sources` explains the fields it came from, in turn. */
export interface WhyValue {
  readonly field: string;
  readonly line: number | null;
  readonly label: string;
  readonly value: Result;
  readonly origin: Origin;
  /** the formula behind it and the names in it with their values; null when a person or nothing set it */
  readonly formula: { readonly text: string; readonly names: readonly ExplainedPart[] } | null;
  /** what a prefill or calculation would give instead, when that differs */
  readonly otherwise: Result | undefined;
  readonly sources: readonly WhyValue[];
}

export interface WhyListPart {
  /** its number among the parts of the narrowing */
  readonly part: number;
  readonly text: string;
  readonly syntax: Syntax;
  readonly names: readonly ExplainedPart[];
  readonly remaining: number | null;
  readonly skipped: boolean;
  readonly emptied: boolean;
  /** what exists among the rows it was tested on, when it left none of them */
  readonly instead: Instead | null;
}

export interface WhyList {
  readonly status: 'ready' | 'waiting' | 'loading' | 'failed';
  readonly waitsFor: readonly string[];
  readonly table: string | null;
  readonly all: number | null;
  readonly total: number;
  readonly capped: boolean;
  readonly parts: readonly WhyListPart[];
  readonly gone: boolean;
  readonly reason: string | null;
}

export interface WhyCondition {
  readonly text: string;
  readonly syntax: Syntax;
  readonly formula: Formula;
  readonly result: Result;
  /** whose condition it is: the field's own, of what it stands in, or of a rule */
  readonly of: ConditionOwner;
  /** whether the state asks that it holds, or that it does not */
  readonly wants: boolean;
  readonly met: boolean;
  /** it reads the form's fields, also where it governs a field of lines */
  readonly ofForm: boolean;
  readonly names: readonly ExplainedPart[];
}

export interface WhyState {
  readonly kind: 'shown' | 'required' | 'locked';
  readonly holds: boolean;
  readonly conditions: readonly WhyCondition[];
}

/** What is said at the field now, and the conditions for it; none for what is always said. */
export interface WhyMessage {
  readonly message: string;
  readonly severity: CheckState['severity'];
  readonly of: ConditionOwner;
  readonly conditions: readonly WhyCondition[];
}

export interface Why {
  readonly value: WhyValue;
  readonly list: WhyList | null;
  readonly states: readonly WhyState[];
  readonly messages: readonly WhyMessage[];
}

/** A field, and the line it stands in. */
export interface EntryPlace {
  readonly field: string;
  readonly line: number | null;
}

/** How deep the chain of sources is followed. */
const MAX_CHAIN = 12;

/**
 * Explains one field from what the engine recorded: its value with where it came from, its list with the funnel, its
 * states condition by condition. Reads only; nothing is settled. Throws RangeError when the form has no such field.
 */
export function why(entry: Entry, field: string, line: number | null = null): Why {
  const planField = entry.field(field);
  return {
    value: whyValue(entry, planField, line, 0),
    list: whyList(entry, planField, line),
    states: whyStates(entry, planField, line),
    messages: whyMessages(entry, planField, line),
  };
}

function whyValue(entry: Entry, field: PlanField, line: number | null, depth: number): WhyValue {
  const { value, origin, suggestion } = entry.state(field.key, line);
  const names = field.value ? explainNames(field.value.formula, entry.environmentOf(field.key, line)) : [];
  const byFormula = isByFormula(origin);
  const otherwise = entry.differs(field.key, line) ? suggestion : undefined;
  const from = new Set<number>();
  if (byFormula || otherwise !== undefined) for (const n of names) if (n.slot !== null) from.add(n.slot);
  if (origin.kind === 'filledUp') from.add(entry.slot(origin.from));
  if (origin.kind === 'cleared') for (const key of origin.by) from.add(entry.slot(key));
  return {
    field: field.key,
    line,
    label: field.definition.label,
    value,
    origin,
    formula: field.value && (byFormula || otherwise !== undefined || value === null) ? { text: field.value.formula.text, names } : null,
    otherwise,
    sources:
      depth >= MAX_CHAIN
        ? []
        : [...from]
            .filter((s) => s !== field.slot)
            .map((s) => entry.plan.fields[s] as PlanField)
            .map((f) => whyValue(entry, f, f.group === null ? null : line, depth + 1)),
  };
}

function whyList(entry: Entry, field: PlanField, line: number | null): WhyList | null {
  const offer = entry.offer(field.key, line);
  if (!field.choices || !offer) return null;
  const { narrowing, table } = field.choices;
  let before = offer.all;
  const parts = (narrowing?.parts ?? []).flatMap((part, number): WhyListPart[] => {
    const step = offer.funnel?.[number] ?? null;
    const skipped = step?.skipped ?? offer.open.includes(number);
    // what was not written is told only while it counts
    if (part.through && skipped) return [];
    const emptied = step !== null && !step.skipped && step.remaining === 0 && before !== null && before > 0;
    if (step) before = step.remaining;
    return [
      {
        part: number,
        text: part.text,
        syntax: part.syntax,
        names: explainNames(narrowing?.formula as Formula, entry.environmentOf(field.key, line), part.syntax),
        remaining: step?.remaining ?? null,
        skipped,
        emptied,
        instead: emptied ? insteadOf(entry, field, line, number) : null,
      },
    ];
  });
  return {
    status: offer.status, waitsFor: offer.waitsFor, table, all: offer.all, total: offer.total, capped: offer.capped, parts,
    gone: entry.state(field.key, line).gone, reason: offer.reason,
  }; // prettier-ignore
}

function whyStates(entry: Entry, field: PlanField, line: number | null): WhyState[] {
  const env = entry.environmentOf(field.key, line);
  const states: WhyState[] = [];
  const add = (kind: WhyState['kind'], conditions: readonly PlanCondition[], holds: boolean): void => {
    if (conditions.length) states.push({ kind, holds, conditions: conditions.flatMap((c) => conditionsOf(c, env)) });
  };
  add('shown', [...field.shown, ...field.showing], entry.isShown(field.key, line));
  add('required', field.required, entry.isRequired(field.key, line));
  add('locked', field.locked, entry.isLocked(field.key, line));
  return states;
}

function whyMessages(entry: Entry, field: PlanField, line: number | null): WhyMessage[] {
  const env = entry.environmentOf(field.key, line);
  return heldChecks(field, env, entry.context.mode)
    .filter(({ state }) => state.at.kind === 'field')
    .map(({ check: { when }, state: { message, severity } }) => ({ message, severity, of: when.of, conditions: conditionsOf(when, env) }));
}

function conditionsOf(condition: PlanCondition, env: Env): WhyCondition[] {
  const { formula, of, wants, ofForm } = condition;
  const at = ofForm ? formEnv(env) : env;
  if (!formula?.syntax) return [];
  const met = isMet(condition, env);
  // the opposite of several is no list of opposites
  const parts = wants ? conjuncts(formula.syntax) : [formula.syntax];
  return parts.map((part) => {
    const result = compileNode(part, formula)(at);
    return {
      text: printSyntax(ungroup(part)),
      syntax: part,
      formula,
      result: isDatum(result) ? result : null,
      of,
      wants,
      met,
      ofForm,
      names: explainNames(formula, at, part),
    };
  });
}

/** Writes a value of a type for readers. */
export type ShowResult = (type: Type, result: Result) => string;

/** A condition of one field's states in words, with what its names are now: “Species’s protected is yes”. */
export function wordsNow(entry: Entry, at: EntryPlace | null, formula: Formula, syntax: Syntax, show: ShowResult): string {
  return conditionWords(syntax, wordingNow(entry, at, formula, show));
}

/** A part of a list’s narrowing in words: “its region is the entry’s Region (North Marrow)”. */
export function partWords(entry: Entry, at: EntryPlace, part: Pick<WhyListPart, 'part' | 'syntax' | 'text'>, show: ShowResult): string {
  const { narrowing } = entry.field(at.field).choices ?? {};
  if (!narrowing) return part.text;
  const about = wordingNow(entry, at, narrowing.formula, show);
  const node = ungroup(part.syntax);
  // of options, what follows from the levels above is asked of the option above (see through.ts)
  const above = narrowing.parts[part.part]?.through && printSyntax(node) !== part.text && node.kind === 'binary';
  return above ? `it belongs to ${valueWords(node.right, about)}` : conditionWords(node, about);
}

function wordingNow(entry: Entry, at: EntryPlace | null, formula: Formula, show: ShowResult): Wording {
  // nowhere in particular: of the form itself
  const env = at ? entry.environmentOf(at.field, at.line) : entry.environment;
  return {
    checked: formula,
    tables: entry.plan.scope.tables,
    now(node) {
      const type = formula.types.get(node);
      return node.kind === 'text' || !type || type.kind === 'object' || type.kind === 'unknown'
        ? null
        : show(type, compileNode(node, formula)(env));
    },
  };
}
