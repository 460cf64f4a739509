import { beforeEach, describe, expect, test } from 'vitest';
import type { Form } from '../../core/form/definition.ts';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { breakages, withoutColumn } from './breakage';
import { draftOf, publishedForm, saveDraft } from './forms';
import { changeColumnType, removeColumn, saveSubsets } from './structure';

let t: TestWorkspace;
beforeEach(async () => {
  t = await demoWorkspace();
});
/** Takes fields out of a form's draft; what is published keeps them. */
async function without(key: string, ...fields: string[]): Promise<void> {
  const { draft, revision } = await draftOf(t.ws, key);
  const left = Object.fromEntries(Object.entries(draft.fields).filter(([k]) => !fields.includes(k)));
  const pages = draft.pages.map((p) => ({ ...p, sections: p.sections.map((s) => ({ ...s, fields: s.fields.filter((f) => !fields.includes(f)) })) })); // prettier-ignore
  await saveDraft(t.ws, t.maud, key, { ...draft, fields: left, pages } as Form, revision);
}

describe('a change that a form would not survive is refused', () => {
  test('a column that only the published version reads in a prefill', async () => {
    await without('lot_intake', 'germination_days');
    await without('germination_test', 'first_count');
    const { status, message, details } = await refusal(removeColumn(t.ws, 'species', 'germination_days'));
    expect(status).toBe(409);
    expect(message).toMatch(/Lot intake \(as published\)/);
    expect(message).not.toMatch(/Lot intake \(draft\)/);
    expect(JSON.stringify(details)).toContain('germination_days');
    // nothing was done
    expect((await t.ws.modelTable('species')).columns.map((c) => c.key)).toContain('germination_days');
    expect((await publishedForm(t.ws, 'lot_intake')).plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
  });

  test('a column that a condition, a sort or a shown text reads; one that nothing reads goes', async () => {
    for (const [table, column] of [
      ['species', 'active'],
      ['boxes', 'free'],
      ['plots', 'habitat'],
      ['sites', 'grid_reference'],
      ['holidays', 'day'],
    ] as const)
      // prettier-ignore
      expect(await refusal(removeColumn(t.ws, table, column)), `${table}.${column}`).toMatchObject({ status: 409, code: 'inUse' });
    await removeColumn(t.ws, 'sites', 'landowner');
    expect((await t.ws.modelTable('sites')).columns.map((c) => c.key)).not.toContain('landowner');
  });

  test('another type for a column that a formula counts with', async () => {
    const change = changeColumnType(t.ws, 'species', 'germination_days', { type: 'text', target: null, decimals: null }, true);
    const { status, message } = await refusal(change);
    expect([status, message]).toEqual([409, expect.stringMatching(/its type must stay/)]);
    expect((await t.ws.modelTable('species')).columns.find((c) => c.key === 'germination_days')?.type).toBe('number');
  });

  test('a subset that a form narrows by', async () => {
    const { draft, revision } = await draftOf(t.ws, 'lot_intake');
    const subsets = [{ key: 'in_use', label: 'In use', condition: 'choice.active' }];
    await saveSubsets(t.ws, 'species', subsets);
    const species = draft.fields.species as { source: object };
    await saveDraft(t.ws, t.maud, 'lot_intake', { ...draft, fields: { ...draft.fields, species: { ...species, source: { ...species.source, subset: 'in_use' } } } } as unknown as Form, revision); // prettier-ignore
    expect(await refusal(saveSubsets(t.ws, 'species', []))).toMatchObject({ status: 409 });
    await saveSubsets(t.ws, 'species', [...subsets, { key: 'other', label: 'Other', condition: 'choice.protected' }]);
  });

  test('what was broken before is nobody’s breakage', async () => {
    const { draft, revision } = await draftOf(t.ws, 'bench_task');
    const field = { ...draft.fields.task, value: { kind: 'default', formula: 'no_such_name' } };
    await saveDraft(t.ws, t.maud, 'bench_task', { ...draft, fields: { ...draft.fields, task: field } } as Form, revision);
    expect(await breakages(t.ws, (tables) => withoutColumn(tables, 'sites', 'landowner'))).toEqual([]);
  });
});
