import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Edit } from '../engine/state.ts';
import { lotForm } from '../testing/seedbank.ts';
import { type Form } from './definition.ts';
import { parseForm } from './schemas.ts';
import { followEdits, followSteps } from './follow.ts';
import type { RehearsalStep } from './rehearsal.ts';

/* Edits that were made on one version of a form, taken by another. */

const field = (label: string, column: string | null) => ({ label, type: 'number' as const, column });
const withLines = (group: string, inner: string, own: string): Form =>
  parseForm({
    key: 'f',
    label: 'F',
    table: 't',
    pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: [own, group] }] }],
    fields: { [own]: field('Weight', 'weight') },
    lines: {
      [group]: { label: 'Packets', table: 'packets', link: 'of', columns: [inner], fields: { [inner]: field('Grams', 'grams') } },
    },
  });

describe('edits made on a version before', () => {
  test('are taken under the names that fields have now, by the columns they save into; lines too', () => {
    const [before, now] = [withLines('packets', 'grams', 'weight'), withLines('bags', 'g', 'mass')];
    const edits: Edit[] = [
      { kind: 'set', field: 'weight', value: 3 },
      { kind: 'addLine', field: 'packets', line: -1 },
      { kind: 'set', field: 'packets.grams', line: -1, value: 2 },
    ];
    expect(followEdits(edits, before, now)).toEqual({
      edits: [
        { kind: 'set', field: 'mass', value: 3 },
        { kind: 'addLine', field: 'bags', line: -1 },
        { kind: 'set', field: 'bags.g', line: -1, value: 2 },
      ],
      lost: [],
    });
  });

  test('of what is no longer there are left out and named once; what neither knows is left for the engine to refuse', () => {
    const before = withLines('packets', 'grams', 'weight');
    const now = parseForm({
      ...before,
      fields: {},
      pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: ['packets'] }] }],
    });
    const edits: Edit[] = [
      { kind: 'set', field: 'weight', value: 3 },
      { kind: 'clear', field: 'weight' },
      { kind: 'set', field: 'nowhere', value: 1 },
    ];
    expect(followEdits(edits, before, now)).toEqual({ edits: [edits[2]], lost: ['Weight'] });
  });

  test('on the same form stay as they are, whatever they are', () => {
    const form = lotForm();
    const keys = fc.constantFrom(...Object.keys(form.fields), 'nowhere', '__proto__', 'a.b');
    fc.assert(
      fc.property(
        fc.array(fc.record({ kind: fc.constantFrom('set' as const, 'clear' as const), field: keys, value: fc.integer() })),
        (all) => {
          const edits = all as unknown as Edit[];
          expect(followEdits(edits, form, form)).toEqual({ edits, lost: [] });
        },
      ),
    );
  });
});

test('a rehearsal follows the names of fields and lines; what is gone stays, to be told', () => {
  const [before, now] = [withLines('packets', 'grams', 'weight'), withLines('bags', 'g', 'mass')];
  const steps: RehearsalStep[] = [
    { do: 'set', field: 'weight', to: 3 },
    { do: 'addLine', lines: 'packets' },
    { expect: 'value', field: 'packets.grams', line: 1, is: 2 },
    { expect: 'state', field: 'packets', state: 'shown', is: true },
    { expect: 'lines', lines: 'packets', count: 2 },
    { do: 'set', field: 'nowhere', to: 1 },
    { expect: 'saving', refused: [] },
  ];
  expect(followSteps(steps, before, now)).toEqual([
    { do: 'set', field: 'mass', to: 3 },
    { do: 'addLine', lines: 'bags' },
    { expect: 'value', field: 'bags.g', line: 1, is: 2 },
    { expect: 'state', field: 'bags', state: 'shown', is: true },
    { expect: 'lines', lines: 'bags', count: 2 },
    { do: 'set', field: 'nowhere', to: 1 },
    { expect: 'saving', refused: [] },
  ]);
  expect(followSteps(steps, before, before)).toEqual(steps);
});
