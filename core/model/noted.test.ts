import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type Origins, linesAlike, noteText, readNote } from './noted.ts';
import { type Origin, PLAIN_ORIGINS } from './origin.ts';

/* What is noted of a record is read back as it was, however its lines stand in it. */

const origin: fc.Arbitrary<Origin> = fc.oneof(
  fc.constantFrom(...PLAIN_ORIGINS).map((kind): Origin => ({ kind })),
  fc.constantFrom('species', 'lots.grams').map((from): Origin => ({ kind: 'spread', from })),
);
const originsAt = (...paths: string[]): fc.Arbitrary<Origins> => fc.dictionary(fc.constantFrom(...paths), origin);
const ofLines = fc.uniqueArray(fc.tuple(fc.integer({ min: 1, max: 40 }), originsAt('lots.grams', 'lots.packets', 'notes.text')), {
  selector: ([line]) => line,
  maxLength: 30,
});
const some = (all: readonly (readonly [number, Origins])[]): Map<number, Origins> =>
  new Map(all.filter(([, came]) => Object.keys(came).length > 0));
const textOf = (origins: Origins, lines: readonly (readonly [number, Origins])[]): string => noteText(origins, linesAlike(lines));

test('is read back as it was noted', () => {
  fc.assert(
    fc.property(originsAt('species', 'kind'), ofLines, (origins, lines) => {
      const noted = readNote(textOf(origins, lines));
      expect(noted.origins).toEqual(origins);
      expect(noted.lines).toEqual(some(lines));
      // and noted again it says the same
      expect(readNote(textOf(noted.origins, [...noted.lines]))).toEqual(noted);
    }),
  );
});

test('is read as it was noted line by line, by versions before', () => {
  fc.assert(
    fc.property(originsAt('species', 'kind'), ofLines, (origins, lines) => {
      const addresses = lines.flatMap(([line, came]) => Object.entries(came).map(([path, of]) => [`${path}#${line}`, of] as const));
      const noted = readNote(JSON.stringify({ ...origins, ...Object.fromEntries(addresses) }));
      expect(noted.origins).toEqual(origins);
      expect(noted.lines).toEqual(some(lines));
    }),
  );
});

test('thousands of lines that were filled alike take their numbers', () => {
  const came = (): Origins => ({ 'lots.grams': { kind: 'typed' }, 'lots.packets': { kind: 'prefill' } });
  const text = textOf(
    { kind: { kind: 'default' } },
    Array.from({ length: 2000 }, (_, i) => [100_000 + i, came()] as const),
  );
  expect(text.length).toBeLessThan(2000 * '100000,'.length + 200);
  const { lines } = readNote(text);
  expect(lines.size).toBe(2000);
  // one object for all of them
  expect(new Set(lines.values()).size).toBe(1);
});

test('rows of two tables with one number keep what each has', () => {
  const noted = readNote(textOf({}, [[7, { 'lots.grams': { kind: 'typed' } }], [7, { 'notes.text': { kind: 'carried' } }]])); // prettier-ignore
  expect(noted.lines.get(7)).toEqual({ 'lots.grams': { kind: 'typed' }, 'notes.text': { kind: 'carried' } });
});

test('what is no origin counts as typed, so that it is never overwritten', () => {
  const noted = readNote('{"kind":{"kind":"guessed"},"lots.grams#3":7,"#":[{"lines":[4],"origins":{"lots.grams":null}}]}');
  expect(noted.origins).toEqual({ kind: { kind: 'typed' } });
  expect([noted.lines.get(3), noted.lines.get(4)]).toEqual([{ 'lots.grams': { kind: 'typed' } }, { 'lots.grams': { kind: 'typed' } }]);
});
