import { expect, test } from '@playwright/test';
import { control, field, pickWord, signIn } from './helpers';

test('an option list is made from an outline, edited by keyboard, and offered level by level', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/lists');
  await page.getByRole('button', { name: 'New list' }).click();
  await page.getByLabel('What is it called?').fill('Damage');
  await page.getByLabel(/Paste an outline/).fill('insects = Insects\n  weevil = Weevil\n  moth = Moth\nmould = Mould');
  await page.getByRole('button', { name: 'Make the list' }).click();
  await expect(page).toHaveURL(/\/design\/lists\/damage$/);
  const labels = page.locator('.label-in');
  await expect(labels).toHaveCount(4);

  await test.step('Enter adds, Tab indents, Alt and arrows move, Ctrl+Z undoes', async () => {
    await labels.nth(3).focus();
    await page.keyboard.press('Enter');
    await expect(labels).toHaveCount(5);
    await page.keyboard.type('Grey mould');
    await page.keyboard.press('Tab');
    await expect(page.getByLabel('Choice 5, level 2')).toHaveValue('Grey mould');
    await labels.nth(3).focus();
    await page.keyboard.press('Alt+ArrowUp');
    await expect(labels.nth(0)).toHaveValue('Mould');
    await expect(labels.nth(1)).toHaveValue('Grey mould');
    await page.keyboard.press('Control+z');
    await expect(labels.nth(0)).toHaveValue('Insects');
    await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
  });
  await test.step('a value stored twice is refused, with the sentence', async () => {
    await page.getByLabel('Stored value of Moth').fill('weevil');
    await page.getByLabel('Stored value of Moth').blur();
    await expect(page.getByRole('alert')).toContainText('store the same value');
    await page.getByLabel('Stored value of Moth').fill('moth');
    await page.getByLabel('Stored value of Moth').blur();
    await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
  });
  await test.step('two fields of a form offer it, one level each', async () => {
    await page.goto('/design/forms/lot_intake');
    const add = async (label: string): Promise<void> => {
      await page.locator('[data-section="notes"]').getByRole('button', { name: '+ field' }).click();
      await page.getByLabel('Label of the new field').fill(label);
      await page.getByLabel('Type of the new field').selectOption('choice');
      await page.getByRole('button', { name: 'Add', exact: true }).click();
    };
    const wiring = page.locator('.wiring');
    await add('Damage');
    await pickWord(wiring, 'Kind of list', 'an option list');
    await pickWord(wiring, 'Option list', /Damage/);
    await pickWord(wiring, 'Level', 'the top level');
    await add('Damaged by');
    await pickWord(wiring, 'Kind of list', 'an option list');
    await pickWord(wiring, 'Option list', /Damage/);
    await pickWord(wiring, 'Level', 'level 2');
    await pickWord(wiring, 'Under', 'the entry’s Damage');
    await expect(control(page, 'damaged_by')).toHaveAttribute('placeholder', 'Waiting for Damage');
    await control(page, 'damage').click();
    await page.locator('[data-field="damage"]').getByRole('option', { name: 'Insects' }).click();
    await control(page, 'damaged_by').click();
    await expect(page.locator('[data-field="damaged_by"] [role="option"]')).toHaveText(['Weevil', 'Moth']);
    await page.keyboard.press('Escape');
  });
  await test.step('a list in use is not deleted', async () => {
    await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
    await page.goto('/design/lists/damage');
    await page.getByRole('button', { name: 'Delete list' }).click();
    await expect(page.getByRole('alert')).toContainText('It is used by Lot intake.');
    await page.goto('/design/forms/lot_intake');
    for (const key of ['damaged_by', 'damage']) {
      await page.locator(`[data-row="${key}"] .name`).click();
      await page.getByRole('button', { name: 'Remove this field' }).click();
    }
    await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
    await expect(page.getByRole('button', { name: /not published/ })).toHaveCount(0);
  });
});

test('fields are put in another order by dragging', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/seed_request');
  const order = () => page.locator('[data-row]').evaluateAll((rows) => rows.map((r) => (r as HTMLElement).dataset.row));
  await expect(page.locator('[data-row="attention"]')).toBeVisible();
  await page.locator('[data-row="delivery_note"] .name').click();
  await page
    .locator('[data-row="delivery_note"] .grip')
    .dragTo(page.locator('[data-row="attention"]'), { targetPosition: { x: 60, y: 4 } });
  await expect.poll(async () => (await order()).slice(2, 4)).toEqual(['delivery_note', 'attention']);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await order()).slice(2, 4)).toEqual(['attention', 'delivery_note']);
  await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
});

test('a request fills itself: the only address taken, what belongs to it follows, working days counted', async ({ page }) => {
  await signIn(page, 'Tom Reed');
  await page.goto('/entry/seed_request/new');
  await expect(control(page, 'partner')).toBeFocused();
  await page.keyboard.type('Dunholm Primary');
  await page.keyboard.press('Enter');
  await expect(control(page, 'discount')).toHaveValue('50');
  await control(page, 'method').click();
  await page.getByRole('option', { name: 'Courier' }).click();
  await expect(control(page, 'fee')).toHaveValue('14.00');
  await expect(control(page, 'to_pay')).toHaveValue('7.00');
  await control(page, 'detail').click();
  await page.getByRole('option', { name: 'Genetics' }).click();
  await expect(control(page, 'purpose')).toHaveValue('Research');
  await expect(page.getByRole('radio', { name: 'no' })).toBeChecked();
  await page.evaluate(() => localStorage.clear());
});

test('a table too large to be sent is searched and paged by the server, and fills up through its levels', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/sheet_loan/new');
  await expect(control(page, 'cabinet')).toBeFocused();
  const requests: string[] = [];
  page.on('request', (r) => r.url().includes('/wants') && requests.push(r.postData() ?? ''));
  await control(page, 'sheet').click();
  await expect(field(page, 'sheet')).toContainText('more than 10,000 offered');
  await page.keyboard.type('0001234');
  await expect(page.locator('[data-field="sheet"] [role="option"]')).toHaveText(['Sheet 0001234']);
  await page.keyboard.press('Enter');
  await expect(control(page, 'cabinet')).not.toHaveValue('');
  await expect(control(page, 'drawer')).not.toHaveValue('');
  await expect(control(page, 'folder')).not.toHaveValue('');
  await expect(field(page, 'folder')).toContainText('filled up from Sheet');
  await expect(control(page, 'year')).not.toHaveValue('');
  // whole rows of a large table are never asked for
  expect(requests.some((r) => r.includes('"kind":"table","table":"herbarium_sheets"'))).toBe(false);
  await field(page, 'sheet').locator('.origin').click();
  await expect(page.getByRole('complementary')).toContainText('20,000');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page).toHaveURL(/\/entry\/sheet_loan$/);
  await page.getByRole('row').nth(1).getByRole('link').click();
  await expect(control(page, 'sheet')).toHaveValue('Sheet 0001234');
});

test('the cascades of a form: counts, gaps, walking down, and spellings repaired in place', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await page.getByRole('link', { name: 'Cascades' }).click();
  await expect(page.getByRole('tab')).toHaveText(['Family › Genus › Species', 'Region › Site › Plot', 'Store › Shelf › Box']);
  await page.getByRole('tab', { name: 'Region › Site › Plot' }).click();
  const table = page.locator('.two table');
  await expect(table.getByRole('row', { name: /Outer Islands/ })).toContainText('none');
  await page.getByRole('button', { name: '1 of 8 above have none' }).click();
  await expect(table.getByRole('row')).toHaveCount(2);
  await page.getByRole('button', { name: '2 hang on nothing' }).click();
  await expect(table).toContainText('Old Decoy 1');
  await page.getByRole('button', { name: 'all Regions' }).click();
  await table.getByRole('button', { name: 'Great Chase' }).click();
  await expect(table).toContainText('Acorn Ride');
  await table.getByRole('button', { name: 'Acorn Ride' }).click();
  await expect(table).toContainText('Acorn Ride 1');
  const spelled = page.locator('.spellings');
  await expect(spelled).toContainText('Wet-heath');
  await spelled.getByRole('button', { name: '“Wet heath”' }).click();
  await expect(page.getByText(/rows say “Wet heath” now/)).toBeVisible();
  await expect(page.getByText('None found.')).toBeVisible();
});
