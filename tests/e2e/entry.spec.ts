import { expect, test } from './workspace';
import { control, field, lotAt, signIn } from './helpers';

test('a clerk enters records by keyboard alone, changes a parent, saves, reopens, edits', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake/new');
  const type = async (text: string): Promise<void> => {
    await page.keyboard.type(text);
    await page.keyboard.press('Enter');
  };

  await test.step('the first: every list narrows, what is known is filled and skipped', async () => {
    await expect(control(page, 'family')).toBeFocused();
    await type('fagac');
    await expect(control(page, 'genus')).toBeFocused();
    await type('querc');
    await expect(control(page, 'species')).toBeFocused();
    await type('robur');
    await expect(control(page, 'storage_c')).toHaveValue('2');
    await expect(field(page, 'storage_c')).toContainText('from Species');
    await expect(control(page, 'region')).toBeFocused();
    await type('north');
    await expect(control(page, 'site')).toBeFocused();
    await type('bittern');
    await expect(control(page, 'plot')).toBeFocused();
    await type('bittern reach 1');
    await expect(control(page, 'habitat')).not.toHaveValue('');
    await expect(field(page, 'habitat')).toContainText('from Plot');
    await expect(control(page, 'collector')).toHaveValue('Ida Fenn');
    await expect(field(page, 'collector')).toContainText('default');
    // kept at 2 °C, so only the store of that temperature is offered; only boxes with room
    await expect(control(page, 'store')).toBeFocused();
    await type('damp');
    await expect(control(page, 'shelf')).toBeFocused();
    await type('C2');
    await expect(control(page, 'box')).toBeFocused();
    await type('C2-');
    await expect(control(page, 'quantity_g')).toBeFocused();
    await type('412.5');
    await expect(control(page, 'tsw_g')).toBeFocused();
    await type('3200');
    await expect(control(page, 'seeds')).toHaveValue('129');
    await expect(control(page, 'purity')).toBeFocused();
    await type('clean');
    // the label text and the accepted name have filled themselves
    await expect(control(page, 'description')).toHaveValue(/Quercus robur/);
    await expect(control(page, 'accepted_name')).toBeFocused();
    await page.keyboard.press('Tab');
    await expect(page.getByRole('button', { name: 'Save and next' })).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('status').filter({ hasText: 'saved' })).toContainText('is saved');
    await expect(control(page, 'family')).toBeFocused();
    await expect(control(page, 'species')).toHaveValue('');
  });

  await test.step('the second: species first, parents fill up; another family clears the stale child', async () => {
    await page.keyboard.press('Tab');
    await page.keyboard.press('Tab');
    await expect(control(page, 'species')).toBeFocused();
    await type('Rosa canina');
    await expect(control(page, 'genus')).toHaveValue('Rosa');
    await expect(control(page, 'family')).toHaveValue('Rosaceae');
    await expect(field(page, 'family')).toContainText('filled in from Genus');
    // the place was carried over from the lot before, so the clerk stands further down
    await expect(field(page, 'site')).toContainText('kept');
    const focused = () => page.evaluate(() => document.activeElement?.closest<HTMLElement>('[data-field]')?.dataset.field);
    for (let i = 0; i < 12 && (await focused()) !== 'family'; i++) await page.keyboard.press('Shift+Tab');
    await expect(control(page, 'family')).toBeFocused();
    await page.keyboard.press('Control+a');
    await type('betulac');
    await expect(control(page, 'genus')).toHaveValue('');
    await expect(control(page, 'species')).toHaveValue('');
    await expect(field(page, 'genus')).toContainText('cleared with Family');
    await expect(control(page, 'storage_c')).toHaveValue('');
    await expect(control(page, 'genus')).toBeFocused();
    await type('betula');
    await type('pendula');
    // region and site were carried over: the next to fill is the plot; another region clears the site
    await expect(control(page, 'plot')).toBeFocused();
    await control(page, 'region').click();
    await type('great');
    await expect(control(page, 'site')).toBeFocused();
    await type('birch bottom');
    await expect(control(page, 'plot')).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(control(page, 'habitat')).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(control(page, 'store')).toBeFocused();
    await page.keyboard.press('Enter');
    await expect(control(page, 'quantity_g')).toBeFocused();
    await type('20');
    await page.keyboard.press('Control+s');
    await expect(page).toHaveURL(/\/entry\/lot_intake$/);
  });

  await test.step('reopened: the stored values stand, defaults do not run again', async () => {
    await page.getByRole('row').nth(1).getByRole('link').click();
    await expect(control(page, 'species')).toHaveValue('Betula pendula');
    await expect(field(page, 'species')).toContainText('saved');
    await expect(control(page, 'purity')).toHaveValue('');
    await control(page, 'collector').fill('');
    await control(page, 'collector').blur();
    await page.keyboard.press('Control+s');
    await expect(page).toHaveURL(/\/entry\/lot_intake$/);
    await page.getByRole('row').nth(1).getByRole('link').click();
    await expect(control(page, 'species')).toHaveValue('Betula pendula');
    await expect(control(page, 'collector')).toHaveValue('');
  });

  await test.step('typed over is kept, marked, and can be given back; the change is in the history', async () => {
    await control(page, 'storage_c').fill('-18');
    await control(page, 'storage_c').blur();
    await expect(field(page, 'storage_c')).toContainText('typed');
    await expect(field(page, 'storage_c')).toContainText(/Suggested: −(20|5)/);
    await page.getByRole('button', { name: 'Use it' }).click();
    await expect(field(page, 'storage_c')).toContainText('from Species');
    await control(page, 'quantity_g').fill('25,5');
    await control(page, 'quantity_g').blur();
    await expect(control(page, 'quantity_g')).toHaveValue('25.50');
    await page.keyboard.press('Control+s');
    await expect(page).toHaveURL(/\/entry\/lot_intake$/);
    await page.getByRole('row').nth(1).getByRole('link').click();
    await page.getByText('History').click();
    await expect(page.getByRole('region', { name: 'History' })).toContainText('20.00 → 25.50');
    await expect(page.getByRole('region', { name: 'History' })).toContainText('created by Ida Fenn');
  });

  await test.step('why, by keyboard', async () => {
    await control(page, 'site').focus();
    await page.keyboard.press('Alt+w');
    await expect(page.getByRole('complementary')).toContainText('Why Site is Birch Bottom');
    await expect(page.getByRole('complementary')).toContainText('all rows of Sites');
    await page.keyboard.press('Escape');
    await expect(page.getByRole('complementary')).toHaveCount(0);
  });
});

test('what is missing or wrong is said at the field, and nothing is sent', async ({ page }) => {
  await signIn(page, 'Tom Reed');
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeFocused();
  await control(page, 'quantity_g').fill('a lot');
  await control(page, 'quantity_g').blur();
  await expect(field(page, 'quantity_g')).toContainText('“a lot” is not a number.');
  await control(page, 'quantity_g').fill('5');
  await control(page, 'collected_on').fill('1.1.2999');
  await control(page, 'collected_on').blur();
  await expect(field(page, 'collected_on')).toContainText('A lot cannot be collected in the future.');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('fields must be corrected first');
  await expect(field(page, 'species')).toContainText('Species is required.');
  await expect(control(page, 'species')).toBeFocused();
});

test('what was typed survives closing the page', async ({ page }) => {
  await signIn(page, 'Tom Reed');
  await page.goto('/entry/lot_intake/new');
  await control(page, 'quantity_g').fill('77');
  await control(page, 'quantity_g').blur();
  await page.reload();
  await expect(page.getByText('You have 1 unsaved change')).toBeVisible();
  await page.getByRole('button', { name: 'Restore' }).click();
  await expect(control(page, 'quantity_g')).toHaveValue('77.00');
  await page.evaluate(() => indexedDB.deleteDatabase('brisk-acorn'));
});

test('a record changed by somebody else is not overwritten', async ({ page, browser }) => {
  await signIn(page, 'Ida Fenn');
  const lot = await lotAt(page.request, 'registered');
  await page.goto(`/entry/lot_intake/${lot}`);
  await expect(control(page, 'species')).not.toHaveValue('');
  const other = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await signIn(other, 'Tom Reed');
  await other.goto(`/entry/lot_intake/${lot}`);
  await control(other, 'tsw_g').fill('1.25');
  await control(other, 'tsw_g').blur();
  await other.keyboard.press('Control+s');
  await expect(other).toHaveURL(/\/entry\/lot_intake$/);
  await control(page, 'quantity_g').fill('11');
  await control(page, 'quantity_g').blur();
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Somebody else changed this record meanwhile')).toBeVisible();
  await expect(control(page, 'tsw_g')).toHaveValue('1.250');
  await expect(control(page, 'quantity_g')).toHaveValue('11.00');
  await page.keyboard.press('Control+s');
  await expect(page).toHaveURL(/\/entry\/lot_intake$/);
  await other.close();
});

test('home tells what waits, what is not saved yet, and what one saved lately; a step leads to its records', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/bench_task/new');
  await control(page, 'task').fill('oil the hinges');
  await page.keyboard.press('Tab');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page).toHaveURL(/\/entry\/bench_task$/);
  await page.goto('/entry/bench_task/new');
  await control(page, 'task').fill('count the trays');
  await page.keyboard.press('Tab');
  await page.goto('/');
  const main = page.getByRole('main');
  await expect(main).toContainText('You saved lately');
  await expect(main.getByRole('link', { name: 'oil the hinges' })).toBeVisible();
  await expect(main).toContainText('Not saved yet');
  await main.getByRole('link', { name: 'Bench task, a new entry' }).first().click();
  await expect(page.getByText('count the trays').or(control(page, 'task')).first()).toBeVisible();

  await page.goto('/');
  const waits = main.getByRole('listitem').filter({ hasText: 'Send to quarantine' }).first();
  const records = Number(((await waits.getByRole('link').innerText()).match(/^[\d,]+/)?.[0] ?? '').replace(',', ''));
  await waits.getByRole('link').click();
  await expect(page).toHaveURL(/\/entry\/lot_intake\?step=registered$/);
  await expect(page.getByRole('group', { name: 'The view' })).toContainText('status is “registered”');
  await expect(page.getByText(`${records} found`)).toBeVisible();
  await page.getByRole('button', { name: 'Remove the condition on status' }).click();
  await expect(page).toHaveURL(/\/entry\/lot_intake$/);
  await expect(page.getByText(/^\d+ records$/)).toBeVisible();
});
