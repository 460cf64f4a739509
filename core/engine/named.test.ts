import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Row } from '../values/types.ts';
import { foldText } from '../values/text.ts';
import { DataCache } from './cache.ts';
import { candidateText, choiceNamed } from './named.ts';
import { lotForm, SEEDBANK_TABLES } from '../testing/seedbank.ts';
import { compileForm } from './compile.ts';

const plan = compileForm(
  lotForm({
    species: { label: 'Species', type: 'link', column: 'species', source: { kind: 'rows', table: 'species', show: 'name', sort: ['name'], beside: ['genus', 'storage_c'] } },
  }),
  SEEDBANK_TABLES,
); // prettier-ignore
const [field] = plan.fields;
const named = (rows: readonly Row[], text: string, cache = new DataCache()) => choiceNamed(plan, field!, rows, text, cache, 'en');
const words = fc.constantFrom('Oak', 'oak', 'ÉLAN', 'élan', '7', '2', '');
const row = fc.record({ name: words, storage_c: fc.constantFrom(2, 7, null), genus: fc.constant(null) });

test('what is meant by a text is what looking through all candidates finds, however often it is asked', () => {
  let [found, many] = [0, 0];
  fc.assert(
    fc.property(fc.array(row, { maxLength: 6 }), fc.array(words, { minLength: 1, maxLength: 5 }), (some, texts) => {
      const rows: Row[] = some.map((r, i) => ({ ...r, id: i + 5 }));
      const cache = new DataCache();
      for (const text of texts) {
        const texts = rows.map((r) => ({ id: r.id, ...candidateText(plan, field!, r, cache, 'en') }));
        const ways = [
          texts.filter((t) => foldText(t.text) === foldText(text)),
          texts.filter((t) => foldText(String(t.id)) === foldText(text)),
          texts.filter((t) => t.beside.some((b) => foldText(b) === foldText(text))),
        ];
        const fits = ways.find((w) => w.length) ?? [];
        expect(named(rows, text, cache)).toBe(fits.length === 1 ? fits[0]!.id : undefined);
        if (fits.length === 1) found++;
        if (fits.length > 1) many++;
      }
    }),
    { numRuns: 500 },
  );
  expect(Math.min(found, many)).toBeGreaterThan(30);
});

test('what a candidate links to may come later: it is found by it from then on', () => {
  const rows: Row[] = [{ id: 1, name: 'Ash', genus: 40 }, { id: 2, name: 'Elm', genus: 41 }]; // prettier-ignore
  const cache = new DataCache();
  expect(named(rows, 'Fraxinus', cache)).toBeUndefined();
  cache.setRow('genera', 40, { id: 40, name: 'Fraxinus' });
  expect(named(rows, 'fraxinus', cache)).toBe(1);
  expect(named(rows, ' elm ', cache)).toBe(2);
  // another cache knows of another row
  const other = new DataCache();
  other.setRow('genera', 41, { id: 41, name: 'Fraxinus' });
  expect(named(rows, 'Fraxinus', other)).toBe(2);
});
