import { expect, test } from './workspace';
import { editor, signIn, signInHttp } from './helpers';
import type { Form } from '../../core/form/definition.ts';

/* What is found wrong without running: said in a sentence, led to where it stands, mended by a press. */
test('mistakes between the parts of a form are said, led to, and mended by a press that can be undone', async ({ page, request }) => {
  await signInHttp(request, 'maud@marrowfen.example');
  const { draft, revision } = (await (await request.get('/api/forms/lot_intake/draft')).json()) as { draft: Form; revision: number };
  const { purity, remark, region, site } = draft.fields;
  const fields = {
    ...draft.fields,
    purity: { ...purity, value: { kind: 'default', formula: '"claen"', typedOver: 'keep' } },
    remark: { ...remark, required: 'TRUE', locked: 'TRUE OR ISBLANK(plot)', shown: null },
    site: { ...site, source: { ...site?.source, waiting: 'none', fillUp: false } },
    region: { ...region, value: null },
  };
  const pages = draft.pages.map((p) => ({
    ...p,
    sections: p.sections.map((s) => ({
      ...s,
      fields: s.fields.includes('region') ? [...s.fields.filter((k) => k !== 'region'), 'region'] : s.fields,
    })),
  }));
  const put = await request.put('/api/forms/lot_intake/draft', { data: { draft: { ...draft, fields, pages }, revision } });
  expect(put.status(), await put.text()).toBe(200);

  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  const list = page
    .getByRole('dialog')
    .or(page.locator('.p-popover'))
    .filter({ has: page.locator('.list') });
  await page.getByRole('button', { name: /^\d+ (problems|warnings)/ }).click();
  await expect(list).toContainText('It offers nothing until Region is filled, which stands below it');
  await expect(list).toContainText('It starts with “claen”, which its list does not offer. Did you mean “clean”?');
  await expect(list).toContainText('Always true: “TRUE” stands in it.');
  await test.step('mended by a press, and that undone', async () => {
    await list.getByRole('button', { name: 'Move Region above Site' }).click();
    await expect(list).not.toContainText('It offers nothing');
    await list.getByRole('button', { name: 'Use “clean”' }).click();
    await expect(list).not.toContainText('claen');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: /^\d+ (problems|warnings)/ }).click();
    await expect(list).toContainText('claen');
  });
  await test.step('a press leads to the formula, opened where it stands', async () => {
    await list.getByRole('button', { name: /Always true: “TRUE” stands in it/ }).click();
    await expect(editor(page)).toBeVisible();
    await expect(editor(page)).toContainText('TRUE OR ISBLANK(plot)');
  });
});

test('choices that nobody can reach are found in the rows: they are told beside the problems of the form', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await page.getByRole('button', { name: /, 1 in the data$/ }).click();
  const list = page.getByRole('dialog', { name: 'Problems' });
  await expect(list).toContainText('In the rows of the tables');
  await expect(list).toContainText('2 of its 242 choices can never be chosen, because they belong to no Site: Old Decoy 1, Old Decoy 2.');
  await list.getByRole('button', { name: /Old Decoy/ }).click();
  await expect(page.getByLabel('Label of the field', { exact: true })).toHaveValue('Plot');
});
