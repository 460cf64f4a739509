import { expect, test } from './workspace';
import { control, signIn, signInHttp } from './helpers';

/* What the records of a form say: how well its fills work. */

test('what clerks do out of habit is seen: what is typed over, with what, and what is never chosen', async ({ page }) => {
  await signIn(page, 'Maud');
  await page.goto('/design/forms/lot_intake');
  await page.getByRole('link', { name: 'What the records say' }).click();
  await expect(page.getByText(/\d+ records: .*keys each, the fills save \d+/)).toBeVisible();
  const table = page.getByRole('table', { name: 'How well it fills' });
  const collected = table.getByRole('row').filter({ hasText: 'Collected on' });
  await expect(collected).toContainText('typed over, mostly 3 days before');
  await expect(collected.getByRole('img', { name: 'mostly not kept' })).toBeVisible();
  await expect(page.getByText(/Purity: Whole seed heads/)).toBeVisible();
  await collected.getByRole('button', { name: 'Collected on' }).press('Enter');
  const aside = page.getByRole('complementary', { name: 'Collected on' });
  await expect(aside).toContainText('Typed over with');
  await expect(aside).toContainText(/3 days before\s*\d+ of \d+/);
  // of fewer records
  await page.getByRole('button', { name: /^At which step/ }).click();
  await page.getByRole('option', { name: 'now Registered' }).click();
  await expect(page).toHaveURL(/step=registered/);
  await expect(page.getByText(/\d+ records: .*keys each/)).toBeVisible();
  await page.goto('/design/forms/lot_intake/records-say?version=1&span=month');
  await expect(page.getByText(/record|No record was saved so/).first()).toBeVisible();
});

test('a clerk is told nothing of it', async ({ page, request }) => {
  await signInHttp(request, 'ida@marrowfen.example');
  expect((await request.post('/api/forms/lot_intake/evidence/fills', { data: {} })).status()).toBe(403);
  await signIn(page, 'Ida');
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeVisible();
});
