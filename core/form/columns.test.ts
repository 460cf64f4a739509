import { describe, expect, test } from 'vitest';
import { compileForm } from '../engine/compile.ts';
import { LOT_FIELDS, SEEDBANK_TABLES, lotForm, packingForm } from '../testing/seedbank.ts';
import { tablesOncePublished } from './columns.ts';

describe('the tables once a form is published', () => {
  const fields = {
    ...LOT_FIELDS,
    moisture: { label: 'Moisture', type: 'number', column: 'moisture', decimals: 1 },
    earlier: { label: 'Moisture before', type: 'number', value: { kind: 'default', formula: 'last.moisture' } },
  };

  test('have the columns that publishing makes, so that naming one is no mistake', () => {
    const form = lotForm(fields);
    expect(compileForm(form, SEEDBANK_TABLES).problems.filter((p) => p.severity === 'error')).toEqual([]);
    const grown = tablesOncePublished(form, SEEDBANK_TABLES);
    expect(grown.get('lots')?.columns.find((c) => c.key === 'moisture')).toMatchObject({ type: 'number', label: 'Moisture', decimals: 1 });
    // what is there stays as it is, and the tables given are not changed
    expect(grown.get('species')).toBe(SEEDBANK_TABLES.get('species'));
    expect(SEEDBANK_TABLES.get('lots')?.columns.some((c) => c.key === 'moisture')).toBe(false);
  });

  test('have those of lines too', () => {
    const form = packingForm(LOT_FIELDS, { label_text: { label: 'Label text', type: 'text', column: 'label_text' } });
    expect(
      tablesOncePublished(form, SEEDBANK_TABLES)
        .get('packings')
        ?.columns.map((c) => c.key),
    ).toContain('label_text');
  });
});
