import { z } from 'zod';
import { keySchema } from '../model/tables.ts';
import { formulaText } from '../model/text.ts';

/*
 * A rule: when … if … then … otherwise …. What it shows, hides, requires, locks and says follows its condition all the time; what it
 * does to values is done at the moments it names. So what a form shows never depends on what happened before.
 */

/** A field (`species`, `lots.grams`) or lines, or a section. */
const target = {
  field: z.string().max(130).nullable().default(null),
  section: z.string().max(60).nullable().default(null),
};
const path = z.string().min(1).max(130);

export const effectSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('show'), ...target }),
  /** what it hides keeps its value or loses it; `own` leaves that to the field */
  z.object({ kind: z.literal('hide'), ...target, hiddenValue: z.enum(['own', 'keep', 'clear']).default('own') }),
  z.object({ kind: z.literal('require'), ...target }),
  z.object({ kind: z.literal('lock'), ...target }),
  z.object({
    kind: z.literal('message'),
    ...target,
    message: z.union([z.string().min(1).max(400), z.object({ formula: z.string().max(200_000) }).strict()]),
    severity: z.enum(['warning', 'error']).default('warning'),
  }),
  /** `once`: only while the field is empty */
  z.object({ kind: z.literal('set'), field: path, formula: z.string().max(200_000), once: z.boolean().default(false) }),
  z.object({ kind: z.literal('clear'), field: path }),
  /** moves the record to a step, whoever is signed in */
  z.object({ kind: z.literal('step'), to: z.string().max(60) }),
  /** adds a line with these values */
  z.object({ kind: z.literal('addLine'), lines: keySchema, values: z.record(keySchema, z.string().max(200_000)).default({}) }),
]);

export const ruleSchema = z.object({
  id: z.string().min(1).max(60),
  label: z.string().max(200).default(''),
  note: z.string().max(2000).default(''),
  on: z.boolean().default(true),
  /** the same in every form that has a rule of this mark: it is one rule, used in several forms */
  shared: z.string().min(1).max(60).nullable().default(null),
  /** the moments at which it acts on values */
  opens: z.boolean().default(false),
  saves: z.boolean().default(false),
  changes: z.array(path).max(100).default([]),
  /** steps whose reaching is a moment */
  reaches: z.array(z.string().max(60)).max(50).default([]),
  mode: z.enum(['both', 'new', 'edit']).default('both'),
  /** null: always */
  when: formulaText,
  then: z.array(effectSchema).max(50).default([]),
  otherwise: z.array(effectSchema).max(50).default([]),
});
export const rulesSchema = z.array(ruleSchema).max(500).default([]);

export type Rule = z.infer<typeof ruleSchema>;
export type RuleEffect = z.infer<typeof effectSchema>;
export type EffectKind = RuleEffect['kind'];
/** Effects that act on values, at moments; the others follow the condition. */
export type Act = Extract<RuleEffect, { kind: 'set' | 'clear' | 'step' | 'addLine' }>;
const ACTS: ReadonlySet<string> = new Set<Act['kind']>(['set', 'clear', 'step', 'addLine']);
export const isAct = (effect: RuleEffect): effect is Act => ACTS.has(effect.kind);

/** What a rule does, without what is its form's own (its id, whether it is on there): the same in two forms when this is. */
export const ruleContent = ({ id: _id, on: _on, ...content }: Rule): string => JSON.stringify(content);

/** What a rule is called: its name, or its number. */
export const ruleName = (rule: Pick<Rule, 'label'>, number: number): string => rule.label.trim() || `Rule ${number + 1}`;
