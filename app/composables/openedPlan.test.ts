import { expect, test } from 'vitest';
import { SEEDBANK, lotForm } from '../../core/testing/seedbank.ts';
import { openedPlan } from './openedPlan';

const opened = (more: object = {}) =>
  JSON.parse(JSON.stringify({ form: lotForm(), tables: SEEDBANK, lists: [], feeds: [], ...more })) as Parameters<typeof openedPlan>[0];

test('the same form is compiled once, however often an entry of it is opened', () => {
  const plan = openedPlan(opened());
  expect(openedPlan(opened())).toBe(plan);
  // others in between, but not too many
  for (let i = 0; i < 4; i++) openedPlan(opened({ form: { ...lotForm(), label: `Lot ${i}` } }));
  expect(openedPlan(opened())).toBe(plan);
});
test('whatever of it, of its tables or lists is another makes another plan', () => {
  const plan = openedPlan(opened());
  const [first, ...rest] = opened().tables;
  const renamed = openedPlan(opened({ tables: [{ ...first, label: 'Otherwise' }, ...rest] }));
  expect(renamed).not.toBe(plan);
  const item = { value: 'a', label: 'A', depth: 0, colour: null, mark: null, retired: false };
  expect(openedPlan(opened({ lists: [{ key: 'one', label: 'One', items: [item] }] }))).not.toBe(plan);
  expect(openedPlan(opened({ form: { ...lotForm(), label: 'Another' } })).form.label).toBe('Another');
});
