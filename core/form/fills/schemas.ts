import { z } from 'zod';

export const defaultSchema = z.object({ kind: z.literal('default'), formula: z.string().default('') });

export const prefillSchema = z.object({
  kind: z.literal('prefill'),
  formula: z.string().default(''),
  typedOver: z.enum(['keep', 'refill']).default('keep'),
  once: z.boolean().default(false),
});

export const calculationSchema = z.object({
  kind: z.literal('calculation'),
  formula: z.string().default(''),
  always: z.boolean().default(false),
});

export const valueSchema = z.discriminatedUnion('kind', [defaultSchema, prefillSchema, calculationSchema]);
