import { expect, test } from '@playwright/test';
import { signIn } from './helpers';

test('a table is edited in place: values, links, adding, undo', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/tables/sites');
  const cell = (row: number, column: number) => page.locator(`[data-cell="${row}-${column}"]`);
  await expect(cell(0, 0)).toHaveText('Adder Carr');
  await cell(0, 4).click();
  await page.keyboard.type('Boots advised');
  await page.keyboard.press('Enter');
  await expect(cell(0, 4)).toHaveText('Boots advised');
  await expect(cell(1, 4)).toBeFocused();
  await cell(0, 1).dblclick();
  await page.keyboard.type('south');
  await page.keyboard.press('Enter');
  await expect(cell(0, 1)).toHaveText('South Marrow');
  await page.keyboard.press('Control+z');
  await expect(cell(0, 1)).toHaveText('North Marrow');
  await cell(0, 1).dblclick();
  await page.keyboard.type('Nowhere at all');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('No row of Regions is called “Nowhere at all”.');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Add a row' }).click();
  await expect(page.getByText('71 rows')).toBeVisible();
  await expect(cell(70, 0)).toBeFocused();
  await page.keyboard.type('Zeal Pond');
  await page.keyboard.press('Enter');
  await page.getByLabel('Search the rows').fill('zeal');
  await expect(page.getByText('1 found')).toBeVisible();
  await expect(cell(0, 0)).toHaveText('Zeal Pond');
  await page
    .getByRole('row', { name: /Zeal Pond/ })
    .getByRole('button', { name: /Delete row/ })
    .click();
  await expect(page.getByText('0 found')).toBeVisible();
});

test('deleting what others link to is refused with their list', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/tables/families');
  await page
    .getByRole('row', { name: /Fagaceae/ })
    .getByRole('button', { name: /Delete row/ })
    .click();
  await expect(page.getByRole('dialog')).toContainText('Fagaceae');
  await expect(page.getByRole('dialog')).toContainText('Genera, by Family: 3');
  await expect(page.getByRole('dialog')).toContainText('Quercus');
});

test('a clerk sees no Design area and is told so', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await expect(page.getByRole('link', { name: 'Tables' })).toHaveCount(0);
  await page.goto('/design/forms/lot_intake');
  await expect(page.getByText('The Design area is for those who build forms')).toBeVisible();
});

test('signing in with a password, wrong and right', async ({ page }) => {
  await page.goto('/entry/lot_intake');
  await expect(page).toHaveURL(/sign-in\?to=/);
  await page.getByLabel('E-mail').fill('ida@marrowfen.example');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('do not fit together');
  await page.getByLabel('Password').fill('fen-and-marsh');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Lot intake' })).toBeVisible();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page).toHaveURL(/sign-in/);
});
