import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { jsonText } from './jsonText';

/** What an answer may hold, and what JSON leaves out or writes otherwise. */
const said = fc.oneof(
  fc.jsonValue({ maxDepth: 3 }),
  fc.constantFrom(undefined, NaN, Symbol('none'), () => 1, new Date(0), { toJSON: () => undefined }),
);
/** Lists and objects long enough to be written in parts, within each other. */
const long = fc.letrec<{ any: unknown }>((tie) => ({
  any: fc.oneof(
    { maxDepth: 4, withCrossShrink: true },
    said,
    fc.array(tie('any'), { maxLength: 4 }),
    fc.dictionary(fc.string(), tie('any'), { maxKeys: 4 }),
    fc.tuple(said, tie('any')).map(([v, w]) => [...Array.from({ length: 110 }, () => v), w]),
    tie('any').map((v) => Object.fromEntries(Array.from({ length: 110 }, (_, i) => [`key “${i}”`, i % 7 ? i : v]))),
  ),
})).any;

describe('the text of an answer', () => {
  it('is what JSON.stringify writes', async () => {
    await fc.assert(
      fc.asyncProperty(long, async (value) => {
        const wrapped = { value, beside: [value] };
        expect(await jsonText(wrapped)).toBe(JSON.stringify(wrapped));
      }),
    );
  });

  it('gives others their turn where it is long', async () => {
    const long = { lists: [{ items: Array.from({ length: 200_000 }, (_, i) => ({ value: `Value ${i}`, depth: i % 3 })) }] };
    let turns = 0;
    const counting = setInterval(() => turns++, 0);
    const text = await jsonText(long);
    clearInterval(counting);
    expect(text).toBe(JSON.stringify(long));
    expect(turns).toBeGreaterThan(0);
  });
});
