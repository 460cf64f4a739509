import { readFileSync } from 'node:fs';
import { expect, test } from './workspace';
import { control, field, lotAt, pickWord, signIn, signInHttp } from './helpers';

/* Records as a list that a sentence describes and as a calendar; many at once: chosen, changed, deleted, brought in from a sheet. */

const table = (page: import('@playwright/test').Page) => page.getByRole('table', { name: 'Lot intake' });
const rowsShown = (page: import('@playwright/test').Page) => table(page).locator('tbody tr');

test('a view is said in a sentence, coloured, grouped, kept for all; its file is what the screen shows', async ({
  page,
  browser,
  baseURL,
}) => {
  await signIn(page, 'Maud');
  await page.goto('/entry/lot_intake');
  const count = page.getByRole('status').filter({ hasText: /records|found/ });
  await expect(count).toHaveText(/^\d+ records/);
  const all = parseInt((await count.textContent()) ?? '', 10);
  // a condition by keys: column, comparison, fixed value
  await page.getByRole('button', { name: /^Add a condition on:/ }).press('Enter');
  await page.keyboard.type('quantity');
  await page.keyboard.press('Enter');
  await page.getByRole('option', { name: 'a fixed value…' }).click();
  await page.getByRole('textbox', { name: 'Fixed value' }).fill('20');
  await page.keyboard.press('Enter');
  await pickWord(page, 'Compared', 'is more than');
  await expect(page.getByText(/[1-9]\d* found/)).toBeVisible();
  const found = Number(/(\d+) found/.exec((await page.getByText(/\d+ found/).textContent()) ?? '')![1]);
  expect(found).toBeLessThan(all);
  expect(found).toBeGreaterThan(10);
  await pickWord(page, 'Grouped by', 'Status');
  await expect(rowsShown(page).filter({ hasText: 'In quarantine' }).first()).toBeVisible();
  await pickWord(page, 'Add a sum', 'sum of Quantity, g');
  await expect(page.getByText(/sum of Quantity, g [\d,.]+/).first()).toBeVisible();
  await pickWord(page, 'Sorted by', 'Quantity, g');
  await pickWord(page, 'In which order', 'largest first');
  // colours: the first that holds
  await page.getByRole('button', { name: 'without colours' }).click();
  const colours = page.getByRole('region', { name: 'Colours of this view' });
  await colours.getByRole('button', { name: 'Add a colour' }).click();
  await colours.getByRole('textbox', { name: 'Word of the new colour' }).fill('everything');
  await colours.getByRole('button', { name: 'All others' }).click();
  await expect(table(page).getByText('everything').first()).toBeVisible();
  await expect(page).toHaveURL(/with=/);
  // shut, a group has its head alone
  const before = await rowsShown(page).first().textContent();
  await page
    .getByRole('button', { name: /^Shut the group/ })
    .first()
    .click();
  await expect(page.getByRole('button', { name: /^Open the group/ }).first()).toBeVisible();
  expect(await rowsShown(page).first().textContent()).toBe(before);

  await page.getByRole('button', { name: 'keep this view…' }).click();
  const keep = page.getByRole('dialog', { name: 'Keep this view' });
  await keep.getByRole('textbox', { name: 'Name' }).fill('Heavy lots');
  await keep.getByRole('checkbox').first().check();
  await keep.getByRole('button', { name: 'Keep as a view of its own' }).click();
  await expect(page.getByRole('button', { name: 'View: Heavy lots' })).toBeVisible();
  await expect(page).toHaveURL(/view=\d+/);
  await expect(page).not.toHaveURL(/with=/);

  // the file: as many records, in the order of the screen, with the colour in a word
  await page.getByRole('button', { name: 'Export…' }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: /^CSV/ }).click()]);
  const lines = readFileSync(await download.path(), 'utf8')
    .trim()
    .split('\n');
  expect(lines.length).toBe(found + 1);
  expect(lines[0]).toMatch(/^Colour,Lot code,Status/);
  expect(lines.slice(1).every((l) => l.startsWith('everything,'))).toBe(true);
  await page
    .getByRole('button', { name: /^Open the group/ })
    .first()
    .click();
  const code = /MF-\d{4}-\d{4}/;
  const onScreen = (await rowsShown(page).allTextContents()).flatMap((t) => code.exec(t)?.[0] ?? []).slice(0, 8);
  expect(lines.slice(1, 9).map((l) => code.exec(l)?.[0])).toEqual(onScreen);

  // another person finds it, and may not change it
  const other = await (await browser.newContext({ baseURL: baseURL! })).newPage();
  await signIn(other, 'Nell');
  await other.goto('/entry/lot_intake');
  await pickWord(other, 'View', /^Heavy lots/);
  await expect(other.getByText(`${found} found`)).toBeVisible();
  await other.getByRole('button', { name: 'about this view…' }).click();
  await expect(other.getByRole('button', { name: 'Remove Heavy lots' })).toHaveCount(0);
  await other.context().close();
  // removed, and put back
  await page.getByRole('button', { name: 'about this view…' }).click();
  await page.getByRole('button', { name: 'Remove Heavy lots' }).click();
  await expect(page.getByText('Heavy lots was removed.')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'View: Heavy lots' })).toBeVisible();
});

test('a view is printed whole: every row, its groups and sums, however long the list', async ({ page }) => {
  await signIn(page, 'Maud');
  await page.goto('/entry/lot_intake');
  await pickWord(page, 'Grouped by', 'Status');
  await pickWord(page, 'Add a sum', 'sum of Quantity, g');
  await expect(page.getByText(/sum of Quantity, g [\d,.]+/).first()).toBeVisible();
  const all = Number(/(\d+) records/.exec((await page.getByText(/\d+ records/).textContent()) ?? '')![1]);
  await page.getByRole('link', { name: 'Print…' }).click();
  await expect(page.getByRole('button', { name: 'Print', exact: true })).toBeEnabled();
  const sheet = rowsShown(page);
  await expect(sheet.filter({ has: page.getByText(/^MF-/) })).not.toHaveCount(0);
  const heads = sheet.filter({ has: page.locator('.muted') });
  const groups = await heads.count();
  expect(groups).toBeGreaterThan(2);
  expect(await sheet.count()).toBe(all + groups);
  await expect(page.getByRole('group', { name: 'The view' })).toContainText('grouped by Status, sum of Quantity, g');
  // narrowed here, it is the sheet that follows
  await page.getByRole('button', { name: 'Leave out the sum of Quantity, g' }).click();
  await pickWord(page, 'Grouped by', 'nothing');
  await expect(heads).toHaveCount(0);
  await expect(sheet).toHaveCount(all);
  // on paper stands the sheet and none of the screen's controls
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByRole('button', { name: 'Print', exact: true })).toBeHidden();
  await expect(page.getByRole('navigation').first()).toBeHidden();
  await expect(sheet.last()).toBeVisible();
});

test('on a calendar a record goes to another day through its form: refused by a check it stays, moved it can be moved back', async ({ page, request }) => {
  await signInHttp(request, 'nell@marrowfen.example');
  const { rows } = (await (await request.get('/api/forms/lot_intake/records?limit=50&descending=1')).json()) as { rows: { row: { id: number; code: string; collected_on: string; status: string } }[] };
  const lot = rows.find((r) => r.row.status === 'registered' && r.row.collected_on)!.row;
  const day = async (): Promise<string> =>
    ((await (await request.get(`/api/forms/lot_intake/records/${lot.id}`)).json()) as { record: { values: { collected_on: string } } }).record.values.collected_on;
  await signIn(page, 'Nell');
  await page.goto(`/entry/lot_intake?as=calendar&day=${lot.collected_on}`);
  const event = page.locator(`[data-record="${lot.id}"]`);
  await expect(event).toBeVisible();
  await event.focus();
  await page.keyboard.press('Alt+ArrowLeft');
  await expect(page.getByText(new RegExp(`${lot.code}.* stands on`))).toBeVisible();
  expect(await day()).not.toBe(lot.collected_on);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(day).toBe(lot.collected_on);
  await expect(page.getByText(/ stands on/)).toHaveCount(0);
  // by the mouse: dragged onto another day that has been
  const to = (await page.locator('.fc-daygrid-day').evaluateAll((cells, own) => {
    const days = cells.map((c) => (c as HTMLElement).dataset.date ?? '');
    const today = new Date().toISOString().slice(0, 10);
    return days.filter((d) => d < own).at(-1) ?? days.find((d) => d > own && d <= today);
  }, lot.collected_on))!;
  await event.dragTo(page.locator(`.fc-daygrid-day[data-date="${to}"]`));
  await expect(page.getByText(new RegExp(`${lot.code}.* stands on`))).toBeVisible();
  await expect.poll(day).toBe(to);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(day).toBe(lot.collected_on);
  // no lot is collected in the future: a week at a time until it would be
  for (let weeks = 0; weeks < 60; weeks++) {
    const refused = page.getByText(/stays where it was: A lot cannot be collected in the future\./);
    if (await refused.isVisible()) break;
    await event.focus();
    await page.keyboard.press('Alt+ArrowDown');
    await expect(refused.or(page.getByText(/ stands on/)).first()).toBeVisible();
    // where it stands now may be another month
    if (!(await event.isVisible()) && !(await refused.isVisible())) await page.getByRole('button', { name: 'Forward' }).click();
  }
  await expect(page.getByText(/stays where it was: A lot cannot be collected in the future\./)).toBeVisible();
  expect((await day()) <= new Date().toISOString().slice(0, 10)).toBe(true);
  // a day that is pressed begins an entry with it
  await page.getByRole('button', { name: 'Back' }).click();
  const cell = page.locator('.fc-daygrid-day').nth(10);
  const date = (await cell.getAttribute('data-date'))!;
  await cell.locator('.fc-daygrid-day-number').click();
  await expect(page).toHaveURL(new RegExp(`/new\\?collected_on=${date}`));
  await expect(field(page, 'collected_on')).toBeVisible();
}); // prettier-ignore

test('records are chosen, one field of them changed after it was seen what that does, and all is taken back', async ({ page }) => {
  await signIn(page, 'Maud');
  await page.goto('/entry/lot_intake?step=registered');
  await expect(page.getByText(/\d+ found/)).toBeVisible();
  await page.getByRole('button', { name: 'Choose several…' }).click();
  for (const n of [0, 1, 2]) await table(page).getByRole('checkbox').nth(n).check();
  await expect(page.getByText('3 records chosen')).toBeVisible();
  await page.getByRole('button', { name: 'Change a field…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Change a field of 3 records' });
  await dialog.getByRole('combobox', { name: 'Which field' }).click();
  await page.getByRole('option', { name: 'Quantity, g' }).click();
  await dialog.locator('[data-field="quantity_g"] input').fill('-3');
  await dialog.locator('[data-field="quantity_g"] input').press('Tab');
  await dialog.getByRole('button', { name: 'See what would change' }).click();
  await expect(dialog.getByText('3 records would stay as they are')).toBeVisible();
  await expect(dialog.getByRole('button', { name: 'Change 0 records' })).toBeDisabled();
  await dialog.locator('[data-field="quantity_g"] input').fill('31.5');
  await dialog.locator('[data-field="quantity_g"] input').press('Tab');
  await dialog.getByRole('button', { name: 'See what would change' }).click();
  await expect(dialog.getByText(/3 records would change/)).toBeVisible();
  await dialog.getByRole('button', { name: 'Change 3 records' }).click();
  await expect(page.getByText('3 records changed: Quantity, g.')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('3 records as before.')).toBeVisible();
});

test('records are deleted and put back', async ({ page }) => {
  await signIn(page, 'Maud');
  await page.goto('/entry/seed_request');
  await expect(page.getByRole('table', { name: 'Seed request' })).toBeVisible();
  const count = Number(/(\d+) records/.exec((await page.getByRole('status').filter({ hasText: 'records' }).textContent()) ?? '')![1]);
  await page.getByRole('button', { name: 'Choose several…' }).click();
  await page.getByRole('checkbox').first().check();
  await page.getByRole('checkbox').nth(1).check();
  await page.getByRole('group', { name: 'Chosen records' }).getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByText('2 records deleted.')).toBeVisible();
  await expect(page.getByText(`${count - 2} records`, { exact: false }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('2 records restored.')).toBeVisible();
  await expect(page.getByText(`${count} records`).first()).toBeVisible();
});

test('a thousand rows are pasted: what fills in and what is wrong is seen, one is mended in place, those that pass are saved', async ({ page, request }) => {
  test.slow();
  await signInHttp(request, 'ida@marrowfen.example');
  const total = async (): Promise<number> => ((await (await request.get('/api/forms/lot_intake/records?limit=1')).json()) as { total: number }).total;
  const before = await total();
  await signIn(page, 'Ida');
  await page.goto('/entry/lot_intake/many');
  const species = ['Quercus robur', 'Betula pubescens', 'Rosa canina'];
  const rows = Array.from({ length: 1000 }, (_, i) => [species[i % 3], 'North Marrow', 'Bittern Reach', '2025-10-0' + (1 + (i % 9)), String(1 + (i % 400) / 10)]);
  rows[4]![2] = 'Bittern Rech';
  rows[17]![4] = 'much';
  rows[900]![0] = 'Quercus nonsensica';
  await page.getByRole('textbox', { name: /^Paste rows here/ }).fill(['Species\tRegion\tSite\tCollected on\tQuantity, g', ...rows.map((r) => r.join('\t'))].join('\n'));
  await page.getByRole('button', { name: 'Take these rows' }).click();
  await expect(page.getByText('997 rows pass')).toBeVisible({ timeout: 120_000 });
  await expect(page.getByText('3 do not')).toBeVisible();
  await page.getByRole('checkbox', { name: /only those that do not/ }).check();
  const sheet = page.getByRole('table', { name: 'The rows' });
  await expect(sheet.getByText('“Bittern Rech” is not offered here.')).toBeVisible();
  await expect(sheet.getByText('“much” is not a number.', { exact: false })).toBeVisible();
  // mended by keys alone
  await sheet.getByText('Bittern Rech', { exact: true }).click();
  await page.getByRole('textbox', { name: 'Site, row 5' }).fill('Bittern Reach');
  await page.keyboard.press('Enter');
  await expect(page.getByText('998 rows pass')).toBeVisible();
  // looked at something else in between: the rows stand there still
  await page.reload();
  await expect(page.getByText('998 rows pass')).toBeVisible({ timeout: 120_000 });
  await page.getByRole('button', { name: 'Save the 998 that pass' }).click();
  await expect(page.getByText('998 records saved.')).toBeVisible({ timeout: 180_000 });
  expect(await total()).toBe(before + 998);
  await expect(page.getByText('2 do not')).toBeVisible();
}); // prettier-ignore

test('a record that was deleted from its page is put back from the list; its last change is taken back from its history', async ({
  page,
  request,
}) => {
  await signInHttp(request, 'maud@marrowfen.example');
  const lot = await lotAt(request, 'registered');
  await signIn(page, 'Maud');
  await page.goto('/entry/seed_request');
  const first = page.getByRole('table', { name: 'Seed request' }).getByRole('link').first();
  const id = await first.textContent();
  await first.click();
  await page.getByRole('button', { name: 'Delete' }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByText(`Record ${id} was deleted.`)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('heading', { name: `record ${id}` })).toBeVisible();

  await page.goto(`/entry/lot_intake/${lot}`);
  const was = await control(page, 'quantity_g').inputValue();
  await control(page, 'quantity_g').fill('44');
  await control(page, 'quantity_g').press('Control+s');
  await expect(page).toHaveURL(/\/entry\/lot_intake(\?|$)/);
  await page.goto(`/entry/lot_intake/${lot}`);
  await expect(control(page, 'quantity_g')).toHaveValue('44.00');
  await page.getByRole('button', { name: 'History' }).click();
  await page.getByRole('button', { name: 'Undo this change' }).click();
  await expect(control(page, 'quantity_g')).toHaveValue(was);
  // one before the last, too, where it still stands
  for (const [key, value] of [
    ['germination_days', '31'],
    ['tsw_g', '8.5'],
  ] as const) {
    await page.goto(`/entry/lot_intake/${lot}`);
    await control(page, key).fill(value);
    await control(page, key).press('Control+s');
    await expect(page).toHaveURL(/\/entry\/lot_intake(\?|$)/);
  }
  await page.goto(`/entry/lot_intake/${lot}`);
  await expect(control(page, 'germination_days')).toHaveValue('31');
  await page.getByRole('button', { name: 'History' }).click();
  const change = page.getByRole('region', { name: 'History' }).getByRole('listitem').filter({ hasText: /→ 31/ }).filter({ has: page.getByRole('button') }); // prettier-ignore
  await change.getByRole('button', { name: 'Undo this change' }).click();
  await expect(control(page, 'germination_days')).not.toHaveValue('31');
  await expect(control(page, 'tsw_g')).toHaveValue(/^8\.5/);
});

test('labels have a code each, of records and of rows for a new entry; a code of a row opens an entry with it', async ({ page }) => {
  await signIn(page, 'Ida');
  await page.goto('/entry/lot_intake/labels?ids=3,4,5');
  await expect(page.getByRole('img', { name: /^Code that leads to/ })).toHaveCount(3);
  await pickWord(page, 'Labels of what', 'the rows of Species, for a new entry');
  const codes = page.getByRole('img', { name: /^Code that leads to/ });
  await expect(codes.nth(20)).toBeVisible();
  const address = /leads to (.*)$/.exec((await codes.nth(5).getAttribute('alt')) ?? '')![1]!;
  const name = decodeURIComponent(new URL(address).searchParams.get('species') ?? '');
  await page.goto(address);
  expect(name.length).toBeGreaterThan(3);
  await expect(control(page, 'species')).toHaveValue(name);
});
