import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import { contract } from '../../core/contract/index.ts';
import { Refused } from '../services/errors';
import { Pace } from '../services/pace';
import { jsonProblem } from './body';
import { parsed, parsedInParts } from './parse';

const outcome = async (work: () => unknown): Promise<unknown> => {
  try {
    return { ok: await work() };
  } catch (e) {
    if (!(e instanceof Refused)) throw e;
    return { status: e.status, message: e.message, details: e.details };
  }
};
const both = async (schema: z.ZodType, body: unknown) => [
  await outcome(() => parsed(schema, body)),
  await outcome(() => parsedInParts(schema, body, new Pace())),
];

describe('a body with long lists', () => {
  const schema = z.object({
    name: z.string(),
    list: z.array(z.union([z.number(), z.object({ a: z.string().max(3).default('x') })])).max(1500),
    other: z.array(z.number()).min(1).optional(),
    odd: z.array(z.number()).refine((l) => l.length !== 301, 'not 301'),
  });
  const entry = fc.oneof({ weight: 400, arbitrary: fc.integer() }, { weight: 400, arbitrary: fc.record({ a: fc.string({ maxLength: 3 }), b: fc.integer() }, { requiredKeys: [] }) }, { weight: 1, arbitrary: fc.constantFrom('no', { a: 'long' }, null) }); // prettier-ignore
  const wrong = (list: readonly unknown[]): number => list.filter((e) => e === 'no' || e === null || (e as { a?: string }).a === 'long').length; // prettier-ignore

  test('is read in parts as it is read whole, and what is wrong is told with its place in the list', async () => {
    let [refused, read] = [0, 0];
    await fc.assert(
      fc.asyncProperty(fc.array(entry, { maxLength: 1600, size: 'max' }), fc.array(fc.integer(), { maxLength: 320, size: 'max' }), async (list, odd) => {
        // of several mistakes in long lists those of one part are told
        fc.pre(wrong(list) < 2 && (odd.length !== 301 || (list.length <= 1500 && wrong(list) === 0)));
        const [whole, inParts] = await both(schema, { name: 'n', list, odd, more: 1 });
        expect(inParts).toEqual(whole);
        if ('ok' in (whole as object)) read++;
        else refused++;
      }),
      // lists so long take minutes to be made short
      { numRuns: 150, endOnFailure: true },
    ); // prettier-ignore
    expect(Math.min(read, refused)).toBeGreaterThan(10);
  });
  test('is refused where it is too long, where a list is asked for as a whole, and where it is no object', async () => {
    for (const body of [
      { name: 'n', list: Array.from({ length: 1501 }, () => 'no'), odd: [] },
      { name: 'n', list: Array.from({ length: 1500 }, () => 1), odd: Array.from({ length: 301 }, () => 1) },
      { name: 'n', list: Array.from({ length: 1500 }, () => 1), odd: [], other: [] },
      { list: Array.from({ length: 300 }, () => 1), odd: [] },
      [],
      null,
      'text',
    ]) {
      const [whole, inParts] = await both(schema, body);
      expect(whole).not.toHaveProperty('ok');
      expect((inParts as Refused).message).toEqual((whole as Refused).message.replace('list.0: Invalid input', 'list: Too big: expected array to have <=1500 items')); // prettier-ignore
    }
  });
  test('of a save with thousands of edits names the edit', async () => {
    const { body } = contract.entries.save;
    const edits: unknown[] = Array.from({ length: 3000 }, (_, i) => ({ kind: 'set', field: 'lots.grams', line: -1 - i, value: i }));
    const given = { version: 1, revision: null, request: 'many edits', edits };
    expect(await parsedInParts(body, given, new Pace())).toEqual(parsed(body, given));
    edits[2700] = { kind: 'guess', field: 'lots.grams' };
    expect(await outcome(() => parsedInParts(body, given, new Pace()))).toMatchObject({ status: 400, details: { issues: [{ path: 'edits.2700.kind' }] } }); // prettier-ignore
  });
});

describe('what cannot be kept', () => {
  const problem = (json: unknown): { said: string | null; steps: number } => {
    const steps = jsonProblem(json);
    for (let n = 0; ; n++) {
      const step = steps.next();
      if (step.done) return { said: step.value, steps: n };
    }
  };
  test('is told with where it stands, however deep', () => {
    expect(problem({ a: [{ b: 1 }, { b: ['x', '\u0000'] }] }).said).toMatch(/^a\.1\.b\.1 /);
    expect(problem({ a: { n: Infinity } }).said).toBe('a.n is a number too large to be kept.');
    expect(problem('\u0000').said).toMatch(/^The text /);
    expect(problem(-Infinity).said).toMatch(/^The number /);
    expect(problem(JSON.parse('{"a":{"__proto__":{"b":1}}}')).said).toBe('a: “__proto__” cannot be a name.');
    expect(problem(JSON.parse('{"__proto__":1}')).said).toBe('“__proto__” cannot be a name.');
    expect(problem({ a: { 'x\u0000': 1 } }).said).toMatch(/^A name in what was sent /);
    let deep: unknown = 1;
    for (let i = 0; i < 64; i++) deep = [deep];
    expect(problem(deep).said).toBeNull();
    expect(problem([deep]).said).toMatch(/nested more than 64 levels/);
  });
  test('nothing is said of what can, and long ones are looked at in steps', () => {
    fc.assert(
      fc.property(fc.jsonValue({ stringUnit: 'grapheme-ascii' }), (json) => {
        fc.pre(!JSON.stringify(json).includes('__proto__'));
        expect(problem(json).said).toBeNull();
      }),
    );
    expect(problem(Array.from({ length: 5000 }, (_, i) => ({ i }))).steps).toBe(10);
  });
});
