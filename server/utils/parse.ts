import { z } from 'zod';
import { Refused } from '../services/errors';
import type { Pace } from '../services/pace';

/* What came in, held against its schema. */

/** How many entries of a long list are looked at before others may have their turn. */
const PART = 250;

const refusal = (issues: readonly z.core.$ZodIssue[]): Refused => {
  const [first] = issues;
  const where = first?.path.length ? `${first.path.join('.')}: ` : '';
  return new Refused(400, 'body', `${where}${first?.message ?? 'does not fit'}`, {
    issues: issues.slice(0, 20).map((i) => ({ path: i.path.join('.'), message: i.message })),
  });
};

/** What came in, as a schema has it; refused with what does not fit and where. Without a schema: nothing. */
export function parsed(schema: z.ZodType | null, input: unknown): unknown {
  if (!schema) return undefined;
  const result = schema.safeParse(input);
  if (result.success) return result.data;
  throw refusal(result.error.issues);
}

/** A list in an object, which can be looked at in parts: nothing is asked of it as a whole but how long it is. */
interface LongList {
  readonly key: string;
  readonly entry: z.ZodType;
  /** how long it may be, in entries */
  readonly most: number;
}
interface LengthCheck {
  readonly check: string;
  readonly minimum?: number;
  readonly maximum?: number;
}
const checksOf = (schema: z.ZodType): readonly LengthCheck[] =>
  (schema.def.checks ?? []).map((c) => (c as z.core.$ZodCheck)._zod.def as LengthCheck);

const listsKnown = new WeakMap<z.ZodType, readonly LongList[]>();
function listsOf(schema: z.ZodType): readonly LongList[] {
  let lists = listsKnown.get(schema);
  if (!lists) listsKnown.set(schema, (lists = schema instanceof z.ZodObject && !checksOf(schema).length ? listsIn(schema.shape) : []));
  return lists;
}
const listsIn = (shape: z.core.$ZodShape): LongList[] =>
  Object.entries(shape).flatMap(([key, of]): LongList[] => {
    if (!(of instanceof z.ZodArray)) return [];
    const checks = checksOf(of);
    if (!checks.every((c) => c.check === 'min_length' || c.check === 'max_length')) return [];
    const least = Math.max(0, ...checks.map((c) => c.minimum ?? 0));
    const most = Math.min(Infinity, ...checks.map((c) => c.maximum ?? Infinity));
    // its first part alone must not be too short
    return least <= PART ? [{ key, entry: of.element as z.ZodType, most }] : [];
  });

/**
 * The same as `parsed`, with others having their turn while long lists are looked at: a record with thousands of lines is tens of thousands
 * of edits. Of several mistakes in long lists those of one part are told. Throws Refused with what does not fit, and where.
 */
export async function parsedInParts(schema: z.ZodType, input: unknown, pace: Pace): Promise<unknown> {
  if (typeof input !== 'object' || input === null) return parsed(schema, input);
  const given = input as Readonly<Record<string, unknown>>;
  const long = listsOf(schema).flatMap((list) => {
    const all = given[list.key];
    return Array.isArray(all) && all.length > PART ? [{ ...list, all: all as readonly unknown[] }] : [];
  });
  if (!long.length) return parsed(schema, input);
  // one that is too long is refused before anything of it is looked at
  for (const { key, all, most } of long) if (all.length > most) parsed(z.object({ [key]: z.array(z.unknown()).max(most) }), { [key]: all });
  const heads = Object.fromEntries(long.map(({ key, all }) => [key, all.slice(0, PART)]));
  const body = parsed(schema, { ...given, ...heads }) as Record<string, unknown[]>;
  for (const { key, all, entry } of long) {
    const part = z.array(entry);
    for (let from = PART; from < all.length; from += PART) {
      await pace.rest();
      const result = part.safeParse(all.slice(from, from + PART));
      if (!result.success)
        throw refusal(result.error.issues.map((i) => ({ ...i, path: [key, from + Number(i.path[0]), ...i.path.slice(1)] })));
      body[key]?.push(...(result.data as unknown[]));
    }
  }
  return body;
}
