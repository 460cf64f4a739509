import { z } from 'zod';
import { formulaText, keySchema } from '../model/schemas.ts';

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
