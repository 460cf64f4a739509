import { z } from 'zod';
import { formulaText, keySchema } from '../model/schemas.ts';
import { whoSchema } from './peopleSchemas.ts';
import { SIGNS, TONES } from './steps.ts';
import { EVERYBODY } from './who.ts';

export const stepSchema = z.object({
  /** what the field holds at this step */
  value: z.string().trim().min(1).max(60),
  label: z.string().trim().min(1).max(60),
  sign: z.enum(SIGNS).default('ring'),
  tone: z.enum(TONES).default('grey'),
  /** a record may stay here for good: nobody need leave it */
  ends: z.boolean().default(false),
});
export const moveSchema = z.object({
  id: z.string().min(1).max(60),
  label: z.string().trim().min(1).max(60),
  /** the steps it starts from; none: from every other */
  from: z.array(z.string()).max(50).default([]),
  to: z.string(),
  who: whoSchema.default(EVERYBODY),
  /** null: always */
  when: formulaText,
  /** the fields that must be filled */
  filled: z.array(z.string().min(1).max(130)).max(200).default([]),
  /** what it sets, from top to bottom; an empty formula clears */
  sets: z
    .array(z.object({ field: z.string().min(1).max(130), formula: z.string().max(200_000) }))
    .max(50)
    .default([]),
});
export const stepsSchema = z.object({
  /** the field that holds the step */
  field: keySchema,
  /** in the order of a record's life: a new record stands at the first */
  list: z.array(stepSchema).min(1).max(50),
  moves: z.array(moveSchema).max(200).default([]),
});
/** Some people, at some steps; none named is everybody, at every step. */
export const grantSchema = z.object({ who: whoSchema.default(EVERYBODY), steps: z.array(z.string()).max(50).default([]) });
/** One grant is enough; without any, nothing is asked. */
const grantsSchema = z.array(grantSchema).max(20).default([]);
/** Who sees and who fills a place, at which steps. */
export const accessSchema = z.object({
  /** a field (`species`, `lots.grams`), lines by their key, or `@` and the id of a section or page */
  place: z.string().min(1).max(130),
  seen: grantsSchema,
  filled: grantsSchema,
});
