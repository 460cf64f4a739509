import type { Page } from '@playwright/test';
import { choose, control, field, signIn } from './helpers';
import { expect, test } from './workspace';

/** Presses a name in formulas, and gives another. */
async function rename(page: Page, of: string, to: string): Promise<void> {
  await page.getByRole('button', { name: new RegExp(`^Name of ${of} in formulas`) }).click();
  const box = page.getByRole('textbox', { name: `Name of ${of} in formulas` });
  await expect(box).toBeFocused();
  await box.fill(to);
  await box.press('Enter');
}

test('a field is renamed in every formula, in one step that can be undone; a name that is taken is refused as it is typed', async ({
  page,
}) => {
  await signIn(page, 'Maud');
  await page.goto('/design/forms/lot_intake');
  await field(page, 'quantity_g').getByText('Quantity, g').click();
  await page.getByRole('button', { name: /^Name of the field in formulas/ }).click();
  const box = page.getByRole('textbox', { name: 'Name of the field in formulas' });
  for (const [name, said] of [
    ['genus', /“genus” in this form already/],
    ['choice', /word of the formula language/],
    ['Two words', /cannot be a name/],
  ] as const) {
    await box.fill(name);
    await expect(page.getByRole('alert')).toHaveText(said);
    await expect(page.getByRole('button', { name: 'Rename', exact: true })).toBeDisabled();
  }
  await box.fill('weight_g');
  await box.press('Enter');
  await expect(page.getByRole('button', { name: 'Name of the field in formulas: weight_g' })).toBeFocused();
  // what read it reads it still
  await control(page, 'weight_g').fill('12');
  await control(page, 'weight_g').press('Tab');
  await field(page, 'seeds').getByText('Seeds, estimated').click();
  await expect(page.getByRole('button', { name: /^Seeds, estimated: formula: weight_g \// })).toBeVisible();
  await expect(page.getByText('no problems')).toBeVisible();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(field(page, 'quantity_g')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Seeds, estimated: formula: quantity_g \// })).toBeVisible();
});

test('a column and a table are renamed under a published form, which goes on as before', async ({ page }) => {
  await signIn(page, 'Maud');
  await page.goto('/design/tables/species');
  await page.getByRole('button', { name: 'Columns' }).click();
  const columns = page.getByRole('dialog', { name: 'Columns' });
  await rename(page, 'Genus', 'name');
  await expect(page.getByRole('alert')).toHaveText('There is a column “name” already.');
  await page.keyboard.press('Escape');
  await rename(page, 'Genus', 'kin');
  await expect(columns.getByRole('button', { name: 'Name of Genus in formulas: kin' })).toBeVisible();
  await columns.getByRole('button', { name: 'Close' }).click();
  await rename(page, 'the table', 'taxa');
  await expect(page).toHaveURL(/\/design\/tables\/taxa$/);
  await expect(page.getByText('263 rows')).toBeVisible();

  await page.goto('/design/forms/lot_intake');
  await expect(page.getByText('no problems')).toBeVisible();
  await field(page, 'species').getByText('Species').click();
  await expect(page.getByText('lots.species')).toBeVisible();

  await page.goto('/entry/lot_intake/new');
  await choose(page, 'species', 'Angelica sylvestris');
  await expect(control(page, 'genus')).toHaveValue('Angelica');
});
