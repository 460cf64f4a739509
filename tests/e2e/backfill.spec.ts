import { expect, test } from './workspace';
import { signIn, signInHttp } from './helpers';

test('records are given what the form gives now: looked at, applied, found in their history, undone', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await page.getByRole('link', { name: 'Backfill' }).click();
  await expect(page.getByRole('heading', { name: 'Backfill' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Preview' })).toBeDisabled();
  await page.getByLabel(/^Status/).check();
  await page.getByRole('button', { name: 'Preview' }).click();
  // the demo has three lots that were left without a status
  const found = page.getByRole('region', { name: 'What it does' });
  await expect(found.getByRole('status').first()).toContainText('3 records of');
  const rows = found.getByRole('row').filter({ hasText: 'Registered' });
  await expect(rows).toHaveCount(3);
  await expect(rows.first()).toContainText('empty');

  // asked differently, it must be looked at anew before it can be applied
  await page.getByLabel(/^Everything/).check();
  await expect(page.getByRole('button', { name: /^Apply to 3/ })).toBeDisabled();
  await page.getByLabel(/^Only where it is empty/).check();
  await page.getByRole('button', { name: /^Apply to 3/ }).click();
  await expect(found.getByRole('status').first()).toContainText('3 records changed');

  await rows.first().getByRole('link').click();
  await expect(page.getByRole('list', { name: 'Steps' }).locator('[aria-current="step"]')).toHaveText('Registered');
  await page.getByText('History', { exact: true }).click();
  await expect(page.getByText(/^Backfill \d+: Status as version 1/)).toBeVisible();

  await page.goto('/design/forms/lot_intake/backfill');
  await page.getByRole('button', { name: 'Open' }).click();
  await page.getByRole('button', { name: 'Undo it all' }).click();
  await expect(found.getByRole('status').first()).toContainText('3 records restored');
  await page.getByLabel(/^Status/).check();
  await page.getByRole('button', { name: 'Preview' }).click();
  await expect(found.getByRole('status').first()).toContainText('3 records of');
  await page.getByRole('button', { name: 'Discard' }).click();
  await expect(found).toContainText('Choose fields on the left');
});

test('backfills are for those who design', async ({ request }) => {
  await signInHttp(request, 'ida@marrowfen.example');
  expect((await request.get('/api/forms/lot_intake/backfills')).status()).toBe(403);
  expect((await request.post('/api/forms/lot_intake/backfills', { data: { fields: ['status'] } })).status()).toBe(403);
  expect((await request.post('/api/forms/lot_intake/backfills/1/apply', { data: {} })).status()).toBe(403);
  await signInHttp(request, 'maud@marrowfen.example');
  expect((await request.post('/api/forms/lot_intake/backfills', { data: { fields: ['status'], over: 'some' } })).status()).toBe(400);
  const gone = await request.get('/api/forms/lot_intake/backfills/999');
  expect(gone.status()).toBe(404);
  expect(await gone.json()).toMatchObject({ code: 'notFound' });
});
