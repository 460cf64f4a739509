import { expect, test } from 'vitest';
import { parseForm } from '../form/schemas.ts';
import { lotForm, openSettled } from '../testing/seedbank.ts';
import { TABLES } from '../testing/storedCases.ts';
import { toGive } from './backfill.ts';
import { compileForm } from './compile.ts';
import { type Weighed, impactOn, weigh } from './impact.ts';

/* What a draft does to a record, and what the published version would have done as well. */
const RECORD = { values: { id: 7, n1: null, sum: 4, step: 'a' }, origins: {} };
/** A record worked out with a form whose sum is calculated so. */
function weighed(sum: object): Weighed {
  const fields = {
    n1: { label: 'Grams', type: 'number', column: 'n1' },
    sum: { label: 'Sum', type: 'number', column: 'sum', value: { kind: 'calculation', formula: 'n1 * 2', ...sum } },
  };
  const plan = compileForm(parseForm(lotForm(fields)), TABLES);
  const entry = openSettled(plan, { mode: 'edit', isQuiet: true }, RECORD);
  const step = weigh(entry, RECORD, toGive(plan, [])).next();
  if (!step.done) throw new Error('It wants something.');
  return step.value;
}

test('what the next save would empty with both versions is nobody’s doing; with the draft alone it is the draft’s', () => {
  const empties = weighed({ always: true });
  expect([...empties.next.values()].map((g) => [g.field, g.from, g.to])).toEqual([['sum', 4, null]]);
  expect(impactOn(empties, weighed({ always: true }))).toEqual([]);
  expect(impactOn(weighed({}), empties)).toMatchObject([{ kind: 'next', field: 'sum', from: 4, published: 4, to: null }]);
});
