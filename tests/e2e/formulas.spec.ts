import { expect, test } from './workspace';
import { control, formulaText, pickOne, signIn, wiringOf } from './helpers';

test('the worked examples of the guide follow what one changes', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/guide');
  const row = (title: string) => page.getByRole('row').filter({ hasText: title });
  await expect(row('The newest released lot')).toContainText('MF-2025-0011');
  await pickOne(page, 'Species', 'Rosa canina');
  await expect(row('The newest released lot')).toContainText('MF-2025-0023');
  const germinated = page.getByLabel('Germinated', { exact: true });
  await germinated.fill('');
  await germinated.blur();
  await expect(row('Viability, empty until counted')).toContainText('empty');
  await germinated.fill('25');
  await germinated.blur();
  await expect(row('Viability, empty until counted')).toContainText('50');
});

test('a formula shows what stood here before, who uses the same, and what a name holds', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=germination_days');
  const panel = page.locator('.panel');
  const open = () => panel.getByRole('button', { name: /Germination days: formula/ }).click();
  await open();
  await formulaText(page).fill('species.germination_days + 1');
  await page.keyboard.press('Control+Enter');
  await open();
  await page.getByRole('button', { name: 'Earlier versions' }).click();
  const before = page.getByRole('button', { name: 'Use species.germination_days', exact: true });
  await expect(before).toBeVisible();
  await before.click();
  await expect(formulaText(page)).toHaveText('species.germination_days');
  await page.getByRole('button', { name: 'Similar formulas' }).click();
  await expect(page.getByRole('list', { name: 'Formulas that use the same' })).toContainText('Germination test');
  await formulaText(page).getByText('germination_days').hover();
  await expect(page.locator('.cm-hover')).toContainText('species.germination_days');
  await expect(page.locator('.cm-hover')).toContainText('now empty');
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
});

test('rows are shown by a text over several of their columns', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=species');
  await wiringOf(page).getByRole('button', { name: 'more…' }).click();
  await page.getByRole('button', { name: 'or a text of several columns' }).click();
  await formulaText(page).fill('TEMPLATE("{choice.name} in {choice.genus.name}")');
  await page.keyboard.press('Control+Enter');
  await control(page, 'species').click();
  await page.keyboard.type('robur');
  await page.getByRole('option', { name: 'Quercus robur in Quercus' }).click();
  await expect(control(page, 'species')).toHaveValue('Quercus robur in Quercus');
  // as it was, for the tests after this one
  await page.getByRole('button', { name: /^What a row is shown as/ }).click();
  await formulaText(page).fill('');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByRole('button', { name: 'or a text of several columns' })).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
});
