import { expect, test } from './workspace';
import { control, pickOne, pickWord, signIn, wiringOf } from './helpers';

test('an option list is made from an outline, edited by keyboard, and offered level by level', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/lists');
  await page.getByRole('button', { name: 'New list' }).click();
  await page.getByLabel('What is it called?').fill('Damage');
  await page.getByLabel(/Paste an outline/).fill('insects = Insects\n  weevil = Weevil\n  moth = Moth\nmould = Mould');
  await page.getByRole('button', { name: 'Create the list' }).click();
  await expect(page).toHaveURL(/\/design\/lists\/damage$/);
  const labels = page.locator('.label-in');
  await expect(labels).toHaveCount(4);

  await test.step('Enter adds, Alt and arrows indent and move, Ctrl+Z undoes', async () => {
    await labels.nth(3).focus();
    await page.keyboard.press('Enter');
    await expect(labels).toHaveCount(5);
    await page.keyboard.type('Grey mould');
    await page.keyboard.press('Alt+ArrowRight');
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
      await pickOne(page, 'Type of the new field', 'Choice');
      await page.getByRole('button', { name: 'Add', exact: true }).click();
    };
    const wiring = wiringOf(page);
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
    await page.getByRole('option', { name: 'Insects' }).click();
    await control(page, 'damaged_by').click();
    await expect(page.getByRole('option')).toHaveText(['Weevil', 'Moth']);
    await page.keyboard.press('Escape');
  });
  await test.step('a list in use is not deleted', async () => {
    await expect(page.getByRole('status').filter({ hasText: /^saved$/ })).toBeVisible();
    await page.goto('/design/lists/damage');
    await page.getByRole('button', { name: 'Delete list' }).click();
    await page.getByRole('alertdialog').getByRole('button', { name: 'Delete' }).click();
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

test('of a list of thousands only the lines in view are drawn, and every key goes where it is meant to', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  const outline = Array.from({ length: 4000 }, (_, i) => `${i % 20 ? '  ' : ''}Place ${i + 1}`).join('\n');
  expect((await page.request.post('/api/lists', { data: { label: 'Places', outline } })).status()).toBe(200);
  await page.goto('/design/lists/places');
  const labels = page.locator('.label-in');
  const line = (n: number, level = (n - 1) % 20 ? 2 : 1) => page.getByLabel(`Choice ${n}, level ${level}`, { exact: true });
  const saved = page.getByRole('status').filter({ hasText: /^saved$/ });
  await expect(line(1)).toHaveValue('Place 1');
  expect(await labels.count()).toBeLessThan(100);

  await test.step('the down arrow goes on beyond what is drawn, and up again', async () => {
    await line(1).focus();
    for (let i = 0; i < 50; i++) await page.keyboard.press('ArrowDown');
    await expect(line(51)).toBeFocused();
    await expect(line(51)).toBeInViewport({ ratio: 1 });
    for (let i = 0; i < 30; i++) await page.keyboard.press('ArrowUp');
    await expect(line(21)).toBeFocused();
    await expect(line(21)).toBeInViewport({ ratio: 1 });
    expect(await labels.count()).toBeLessThan(100);
  });
  await test.step('a choice is found by its words, one after the other', async () => {
    const find = page.getByRole('searchbox', { name: 'Find a choice' });
    await find.fill('place 398');
    // 398, 1398, 2398, 3398, and 3980 to 3989
    await expect(page.getByText('1 of 14')).toBeVisible();
    await expect(line(398)).toBeInViewport();
    await page.keyboard.press('Shift+Enter');
    await expect(page.getByText('14 of 14')).toBeVisible();
    await expect(line(3989)).toBeInViewport();
    await expect(find).toBeFocused();
    await page.keyboard.press('ArrowDown');
    await expect(line(3989)).toBeFocused();
  });
  await test.step('Enter adds below, what is typed at once is its name, and Ctrl+Z takes it back', async () => {
    await page.keyboard.press('Enter');
    await page.keyboard.type('Place between');
    await page.keyboard.press('Alt+ArrowUp');
    await expect(line(3989)).toHaveValue('Place between');
    await expect(line(3989)).toBeFocused();
    await expect(line(3990)).toHaveValue('Place 3989');
    for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z');
    await expect(line(3989)).toHaveValue('Place 3989');
    await expect(saved).toBeVisible();
  });
  await test.step('what was typed is taken when its line leaves the view', async () => {
    await line(3985).fill('Place of oaks');
    await page.mouse.move(400, 400);
    await page.mouse.wheel(0, -60_000);
    await expect(line(1995)).toHaveCount(0);
    await expect(line(3985)).toHaveCount(0);
    await page.getByRole('searchbox').fill('oaks');
    await expect(line(3985)).toHaveValue('Place of oaks');
    await expect(saved).toBeVisible();
  });
  await test.step('a branch that is hidden is passed over, and opens for what is found in it', async () => {
    await page.getByRole('searchbox').fill('Place 21');
    await page.getByRole('button', { name: 'Hide what is below Place 21', exact: true }).click();
    await expect(line(22)).toHaveCount(0);
    await line(21).focus();
    await page.keyboard.press('ArrowDown');
    await expect(line(41)).toBeFocused();
    await page.getByRole('searchbox').fill('Place 35');
    await expect(line(35)).toBeInViewport();
  });
  await test.step('a line is dragged; the last one is added at the end', async () => {
    await page.getByRole('searchbox').fill('Place 105');
    const gripOf = (n: number) =>
      page
        .getByRole('row')
        .filter({ has: page.locator(`[data-place="${n - 1}"]`) })
        .locator('.grip');
    await gripOf(105).dragTo(line(103), { targetPosition: { x: 40, y: 2 } });
    await expect(line(103)).toHaveValue('Place 105');
    await expect(line(104)).toHaveValue('Place 103');
    await page.getByRole('button', { name: 'Add a choice' }).click();
    await page.keyboard.type('The last');
    await page.keyboard.press('Enter');
    await expect(line(4001, 2)).toHaveValue('The last');
    await expect(line(4002, 2)).toBeFocused();
    await expect(line(4002, 2)).toBeInViewport({ ratio: 1 });
    await expect(saved).toBeVisible();
  });
  await test.step('another branch is pasted below, and a line removed with what is below it', async () => {
    await page.getByRole('searchbox').fill('Place 201');
    await line(201).focus();
    await page.evaluate(() => {
      const data = new DataTransfer();
      data.setData('text/plain', 'Pasted one\n  Pasted two');
      document.activeElement!.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
    });
    await expect(line(221, 1)).toHaveValue('Pasted one');
    await expect(line(222, 2)).toHaveValue('Pasted two');
    await page.getByRole('button', { name: 'Remove Place 201 and what is below it' }).click();
    await expect(line(201, 1)).toHaveValue('Pasted one');
    await expect(saved).toBeVisible();
    const list = ((await (await page.request.get('/api/lists')).json()) as { key: string; items: { label: string }[] }[]).find((l) => l.key === 'places')!; // prettier-ignore
    expect(list.items.length).toBe(4000 + 2 + 2 - 20);
    expect(list.items.slice(198, 203).map((i) => i.label)).toEqual(['Place 199', 'Place 200', 'Pasted one', 'Pasted two', 'Place 221']);
  });
});

test('of very many tables a hundred are drawn at once, and one is found by its name', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  const columns = [{ key: 'name', label: 'Name', type: 'text', decimals: null, target: null, length: null }];
  for (let i = 0; i < 110; i++)
    expect((await page.request.post('/api/tables', { data: { label: `Plot ${i}`, shown: 'name', columns } })).status()).toBe(200);
  await page.goto('/design/tables');
  const rows = page.getByRole('row');
  // with the head
  await expect(rows).toHaveCount(101);
  await page.getByRole('searchbox', { name: 'Find a table' }).fill('PLOT 10');
  // 10, and 100 to 109
  await expect(rows).toHaveCount(12);
  await page.getByRole('link', { name: 'Plot 107' }).click();
  await expect(page).toHaveURL(/\/design\/tables\/plot_107$/);
});
