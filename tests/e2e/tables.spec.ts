import { expect, test } from './workspace';
import { cell, pickOne, signIn, signInAtHome } from './helpers';

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
  await expect(cell(1, 1)).toBeFocused();
  await expect(cell(0, 1)).toHaveText('South Marrow');
  // undo finds the row by itself, wherever sorting has put it meanwhile
  await page.getByRole('columnheader', { name: /^Name/ }).click();
  await page.getByRole('columnheader', { name: /^Name/ }).click();
  await expect(cell(0, 0)).not.toHaveText('Adder Carr');
  await cell(0, 1).click();
  const undone = page.waitForResponse((r) => r.request().method() === 'PATCH');
  await page.keyboard.press('Control+z');
  expect((await undone).status()).toBe(200);
  await page.reload();
  await expect(cell(0, 0)).toHaveText('Adder Carr');
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
  await expect(page.getByText(/^1 found$/)).toBeVisible();
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

test('a row is looked at closely, and from it what it links to and what links to it', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/tables/genera');
  await page.getByLabel('Search the rows').fill('quercus');
  await expect(page.getByText(/^1 found$/)).toBeVisible();
  await page.getByRole('button', { name: /Details of row/ }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Species, by Genus: 5');
  await dialog.getByRole('button', { name: 'Quercus robur' }).click();
  await expect(dialog).toContainText('a row of Species');
  await dialog.locator('.columns').getByRole('button', { name: 'Quercus', exact: true }).click();
  await dialog.getByRole('button', { name: 'Fagaceae' }).click();
  await expect(dialog).toContainText('Genera, by Family: 3');
});

test('a column is added and relabelled; a key in use is refused', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/tables/regions');
  await page.getByRole('button', { name: 'Columns' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('New column').fill('Warden');
  await pickOne(dialog, 'Holds', 'Person');
  await dialog.getByRole('button', { name: 'Add' }).click();
  await expect(dialog.getByLabel('Label of warden')).toHaveValue('Warden');
  await dialog.getByLabel('Label of warden').fill('Site warden');
  await dialog.getByLabel('Label of warden').blur();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('columnheader', { name: 'Site warden' })).toBeVisible();
  await cell(page, 0, 2).click();
  await page.keyboard.type('ida');
  await page.keyboard.press('Enter');
  await expect(cell(page, 0, 2)).toHaveText('Ida Fenn');
});

test('a clerk sees no Design area and is told so', async ({ page }) => {
  await signInAtHome(page, 'Ida Fenn');
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
