import type { z } from 'zod';
import type { effectSchema, ruleSchema } from './ruleSchemas.ts';

/*
 * A rule: when … if … then … otherwise …. What it shows, hides, requires, locks and says follows its condition all the time; what it
 * does to values is done at the moments it names. So what a form shows never depends on what happened before.
 */

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
