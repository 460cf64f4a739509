import { beforeAll, expect, test } from 'vitest';
import { situationSchema } from '../../core/contract/situations.ts';
import type { Form } from '../../core/form/definition.ts';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { draftOf, saveDraft } from './forms';
import { publish } from './publishing';
import { keepSituation, removeSituation, situationsOf } from './situations';

let t: TestWorkspace;
beforeAll(async () => {
  t = await demoWorkspace();
});
const situation = (label: string, more: object = {}) =>
  situationSchema.parse({ label, person: t.ida.person, record: null, parent: null, mode: 'edit', step: null, url: {}, at: null, feeds: 'slow', edits: [{ kind: 'set', field: 'quantity_g', value: 3 }], ...more }); // prettier-ignore

test('situations are one’s own, in the order of their names; one of the same name gives way', async () => {
  await keepSituation(t.ws, t.maud, 'lot_intake', situation('Slow'));
  const id = await keepSituation(t.ws, t.maud, 'lot_intake', situation('A late one', { at: '2027-01-01T08:00:00' }));
  await keepSituation(t.ws, t.maud, 'lot_intake', situation('Slow', { feeds: 'fail' }));
  const kept = await situationsOf(t.ws, t.maud, 'lot_intake');
  expect(kept.map((k) => [k.situation.label, k.situation.feeds])).toEqual([['A late one', 'slow'], ['Slow', 'fail']]); // prettier-ignore
  expect(await situationsOf(t.ws, t.maud, 'bench_task')).toEqual([]);
  expect(await situationsOf(t.ws, t.ida, 'lot_intake')).toEqual([]);
  expect(await refusal(removeSituation(t.ws, t.ida, 'lot_intake', id))).toMatchObject({ status: 404 });
  await removeSituation(t.ws, t.maud, 'lot_intake', id);
  expect(await situationsOf(t.ws, t.maud, 'lot_intake')).toHaveLength(1);
  expect(await refusal(situationsOf(t.ws, t.maud, 'nothing'))).toMatchObject({ status: 404 });
});

const renamed = (form: Form): Form =>
  JSON.parse(
    JSON.stringify(form)
      .replace(/\bquantity_g\b/g, 'grams')
      .replace('"column":"grams"', '"column":"quantity_g"'),
  ) as Form;
test('what was typed follows a field that is renamed and published', async () => {
  await keepSituation(t.ws, t.maud, 'lot_intake', situation('Slow'));
  const { draft, revision } = await draftOf(t.ws, 'lot_intake');
  await saveDraft(t.ws, t.maud, 'lot_intake', renamed(draft), revision);
  await publish(t.ws, t.maud, 'lot_intake', null);
  const [kept] = await situationsOf(t.ws, t.maud, 'lot_intake');
  expect(kept?.situation.edits).toEqual([{ kind: 'set', field: 'grams', value: 3 }]);
});

test('at most a hundred are kept of a form', async () => {
  for (const { id } of await situationsOf(t.ws, t.maud, 'lot_intake')) await removeSituation(t.ws, t.maud, 'lot_intake', id);
  for (let i = 0; i < 100; i++) await keepSituation(t.ws, t.maud, 'lot_intake', situation(`S${i}`));
  expect(await refusal(keepSituation(t.ws, t.maud, 'lot_intake', situation('One more')))).toMatchObject({ status: 422, code: 'tooMany' });
  await keepSituation(t.ws, t.maud, 'lot_intake', situation('S5', { mode: 'view' }));
});
