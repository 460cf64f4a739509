import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Origins } from '../model/noted.ts';
import type { StoredRecord } from './context.ts';
import { type ToldRecord, recordOfTold, toldRecord } from './told.ts';

/* A record that was told to a screen is the one that was told. */

const came: fc.Arbitrary<Origins> = fc.dictionary(fc.constantFrom('packings.grams', 'packings.kind'), fc.constantFrom({ kind: 'typed' } as const, { kind: 'prefill' } as const), { minKeys: 1 }); // prettier-ignore
const line = fc.record({ values: fc.record({ grams: fc.integer() }), origins: fc.option(came, { nil: undefined }) });
const record: fc.Arbitrary<StoredRecord> = fc
  .record({ lines: fc.array(line, { maxLength: 12 }), more: fc.array(line, { maxLength: 3 }), origins: fc.constant({ kind: { kind: 'typed' } as const }) })
  .map(({ lines, more, origins }) => ({
    values: { kind: 'a' },
    origins,
    // rows of two tables: no two lines of one have the same number
    lines: { packings: lines.map((l, i) => ({ ...l, id: i + 1 })), notes: more.map((l, i) => ({ ...l, id: i + 101 })) },
  })); // prettier-ignore

test('a record comes as it went, through text', () => {
  fc.assert(
    fc.property(record, (told) => {
      expect(recordOfTold(JSON.parse(JSON.stringify(toldRecord(told))) as ToldRecord)).toEqual(told);
    }),
  );
});

test('what else stands in an answer stays; a record without lines is the same', () => {
  expect(recordOfTold({ id: 7, revision: 2, values: { a: 1 }, origins: {} })).toEqual({
    id: 7,
    revision: 2,
    values: { a: 1 },
    origins: {},
  });
  expect(toldRecord({ values: { a: 1 }, origins: {} })).toEqual({ values: { a: 1 }, origins: {} });
});
