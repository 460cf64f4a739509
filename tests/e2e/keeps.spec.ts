import { expect, test } from './workspace';
import { choose, control, lotAt, signIn, signInHttp } from './helpers';

/* Nothing is lost, and few keys: text that was not finished, a save without a network, the value of the record before, who else is there. */

test('text in the field one was in is kept although it was never left, and stands there again', async ({ page, context }) => {
  await signIn(page, 'Tom');
  await page.goto('/entry/lot_intake/new');
  await control(page, 'quantity_g').click();
  await page.keyboard.type('12,7');
  await page.waitForTimeout(600);
  await page.close();
  const later = await context.newPage();
  await later.goto('/');
  await expect(later.getByRole('listitem').filter({ hasText: 'Lot intake, a new entry' })).toBeVisible();
  await later.goto('/entry/lot_intake/new');
  await later.getByRole('button', { name: 'Restore' }).click();
  await expect(control(later, 'quantity_g')).toBeFocused();
  await expect(control(later, 'quantity_g')).toHaveValue('12,7');
  // left, it counts as any typing
  await later.keyboard.press('Tab');
  await expect(control(later, 'quantity_g')).toHaveValue('12.70');
});

test('a save without a network waits, is seen to wait, and is sent by itself, once; the next entry repeats values of the one before', async ({
  page,
  request,
}) => {
  await signInHttp(request, 'ida@marrowfen.example');
  const total = async (): Promise<number> => ((await (await request.get('/api/forms/lot_intake/records?limit=1')).json()) as { total: number }).total; // prettier-ignore
  const before = await total();
  await signIn(page, 'Ida');
  await page.goto('/entry/lot_intake/new');
  await choose(page, 'species', 'Quercus robur');
  await choose(page, 'region', 'North Marrow');
  await choose(page, 'site', 'Bittern Reach');
  await control(page, 'quantity_g').fill('12');
  await control(page, 'quantity_g').press('Tab');
  // the request arrives, its answer does not: then nothing gets through at all
  let sent = 0;
  await page.route('**/api/forms/lot_intake/records', async (route) => {
    if (++sent === 1) await route.fetch();
    await route.abort();
  });
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText('Not sent yet: the server cannot be reached.')).toBeVisible();
  await expect(control(page, 'quantity_g')).toHaveValue('12.00');
  await expect.poll(() => sent, { timeout: 15_000 }).toBeGreaterThan(1);
  await page.unroute('**/api/forms/lot_intake/records');
  await expect(page.getByText(/is saved/)).toBeVisible({ timeout: 15_000 });
  expect(await total()).toBe(before + 1);
  // as in the record before
  await expect(control(page, 'quantity_g')).toHaveValue('');
  await control(page, 'quantity_g').focus();
  await page.keyboard.press('Alt+r');
  await expect(control(page, 'quantity_g')).toHaveValue(/^12/);
});

test('a choice of a short list is picked by its digit', async ({ page }) => {
  await signIn(page, 'Ida');
  await page.goto('/entry/lot_intake/new');
  await control(page, 'region').focus();
  await page.keyboard.press('Alt+ArrowDown');
  const second = (await page.getByRole('option').nth(1).textContent()) ?? '';
  await page.keyboard.press('Escape');
  await page.keyboard.press('2');
  await expect(control(page, 'region')).toHaveValue(/^[A-Z]/);
  expect(second).toContain(await control(page, 'region').inputValue());
  // where a text has a digit, it is searched for
  await choose(page, 'region', 'North Marrow');
  await choose(page, 'site', 'Bittern Reach');
  await control(page, 'plot').focus();
  await page.keyboard.press('2');
  await expect(page.getByRole('option')).toHaveCount(1);
  await expect(page.getByRole('option')).toContainText('Bittern Reach 2');
});

test('who else has a record open is shown; what they saved meanwhile is said, and taken in with what was typed on top', async ({
  page,
  browser,
  baseURL,
  request,
}) => {
  await signInHttp(request, 'nell@marrowfen.example');
  const lot = await lotAt(request, 'registered');
  const other = await (await browser.newContext({ baseURL: baseURL! })).newPage();
  await signIn(other, 'Tom');
  await other.goto(`/entry/lot_intake/${lot}`);
  await expect(control(other, 'quantity_g')).toBeVisible();
  await signIn(page, 'Nell');
  await page.goto(`/entry/lot_intake/${lot}`);
  await expect(page.getByText('Tom Reed has this record open too.')).toBeVisible({ timeout: 20_000 });
  await control(page, 'tsw_g').fill('7');
  await control(page, 'tsw_g').press('Tab');
  await control(other, 'quantity_g').fill('61');
  await control(other, 'quantity_g').press('Control+s');
  await expect(other).toHaveURL(/\/entry\/lot_intake(\?|$)/);
  await expect(page.getByText('Somebody else saved this record meanwhile.')).toBeVisible({ timeout: 25_000 });
  await page.getByRole('button', { name: 'Take their changes in' }).click();
  await expect(control(page, 'quantity_g')).toHaveValue(/^61/);
  await expect(control(page, 'tsw_g')).toHaveValue(/^7/);
  await other.context().close();
});
