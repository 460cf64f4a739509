import type { APIRequestContext } from '@playwright/test';
import { expect, test } from './workspace';
import { choose, control, field, signIn, signInHttp } from './helpers';

/* What a change does is known before anybody is affected; publishing it is told to open screens, and can be taken back. */

interface Draft {
  fields: Record<string, { label: string; value: Record<string, unknown>; checks: object[] }>;
}
/** Changes the draft of lots as somebody else's window would. */
async function changeDraft(request: APIRequestContext, to: (draft: Draft) => void): Promise<void> {
  const { draft, revision } = (await (await request.get('/api/forms/lot_intake/draft')).json()) as { draft: Draft; revision: number };
  to(draft);
  expect((await request.put('/api/forms/lot_intake/draft', { data: { draft, revision } })).status()).toBe(200);
}

test('what a draft does to every record is seen first; published with a note, an open entry takes it with what was typed; then it is taken back', async ({
  page,
  browser,
  request,
}) => {
  await signInHttp(request, 'maud@marrowfen.example');
  const clerk = await (await browser.newContext()).newPage();
  await signIn(clerk, 'Ida Fenn');
  await clerk.goto('/entry/lot_intake/new');
  await choose(clerk, 'species', 'Quercus robur');
  await control(clerk, 'quantity_g').fill('12');
  await expect(control(clerk, 'germination_days')).not.toHaveValue('');
  const days = Number(await control(clerk, 'germination_days').inputValue());
  await changeDraft(request, ({ fields }) => {
    fields.germination_days!.value.formula = 'species.germination_days + 2';
    fields.quantity_g!.label = 'Weight, g';
  });
  await signIn(page, 'Maud Alder');
  await test.step('what is different, and what it does, record by record', async () => {
    await page.goto('/design/forms/lot_intake');
    await page.getByRole('button', { name: /^2 changes not published/ }).click();
    await page.getByRole('link', { name: /^What stood there before/ }).click();
    const different = page.getByRole('list', { name: 'What is different' });
    await expect(different).toContainText('species.germination_days + 2');
    await expect(different.locator('del').first()).toContainText('species.germination_days');
    const bars = page.getByRole('table', { name: 'What it does, field by field' });
    await expect(bars).toContainText('Germination days');
    await expect(bars.getByRole('row')).toHaveCount(2);
    await expect(page.getByRole('table', { name: 'Records' }).getByRole('row').nth(1)).toContainText('MF-');
    await expect(page.getByText(/^\d+ records looked through in/)).toBeVisible();
  });
  await test.step('published with a note: the clerk’s window is told, and takes it', async () => {
    await page.getByPlaceholder(/^What is this version for/).fill('Two days more for sowing');
    await page.getByRole('button', { name: 'Publish version 2' }).click();
    await expect(page.getByText('Version 2 is published.')).toBeVisible();
    const told = clerk.getByText(/^Version 2 of this form was published meanwhile/);
    await expect(told).toBeVisible();
    await clerk.getByRole('button', { name: 'Use it now' }).click();
    await expect(told).toHaveCount(0);
    await expect(field(clerk, 'quantity_g')).toContainText('Weight, g');
    await expect(control(clerk, 'quantity_g')).toHaveValue(/^12/);
    await expect(control(clerk, 'species')).toHaveValue('Quercus robur');
    await expect(control(clerk, 'germination_days')).toHaveValue(String(days + 2));
  });
  await test.step('versions: who, when, what for; gone back to', async () => {
    await page.getByRole('link', { name: 'Versions', exact: true }).click();
    const versions = page.getByRole('table', { name: 'Published versions, newest first' });
    await expect(versions.getByRole('row').nth(1)).toContainText('Two days more for sowing');
    await expect(versions.getByRole('row').nth(1)).toContainText('by Maud Alder');
    await expect(page.getByRole('list', { name: 'What is different' })).toContainText('Weight, g');
    await versions.getByRole('button', { name: 'Go back to it…' }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Publish version 1 again' }).click();
    await expect(versions.getByRole('row').nth(1)).toContainText('Back to version 1.');
    await expect(clerk.getByText(/^Version 3 of this form was published meanwhile/)).toBeVisible();
    await clerk.getByRole('button', { name: 'Use it now' }).click();
    await expect(field(clerk, 'quantity_g')).toContainText('Quantity, g');
    await expect(control(clerk, 'germination_days')).toHaveValue(String(days));
  });
  await clerk.close();
});

test('published and backfilled in one go: exactly the records that were found', async ({ page, request }) => {
  await signInHttp(request, 'maud@marrowfen.example');
  await changeDraft(request, ({ fields }) => void (fields.germination_days!.value.formula = 'IF(species.protected, 99, species.germination_days)')); // prettier-ignore
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake/publish');
  const button = page.getByRole('button', { name: /^Publish and backfill \d+ values?…/ });
  const values = Number(/\d+/.exec(await button.innerText())?.[0]);
  expect(values).toBeGreaterThan(0);
  await button.click();
  await expect(page.getByRole('heading', { name: 'Backfill' })).toBeVisible();
  await expect(page.getByText('only those that were found to change before publishing')).toBeVisible();
  const found = page.getByRole('region', { name: 'What it does' });
  await expect(found.getByRole('status').first()).toContainText(`${values} record`);
  await page.getByRole('button', { name: /^Apply to/ }).click();
  await expect(found.getByRole('status').first()).toContainText('changed');
});

test('a form is copied, kept as a file and brought in again; what is no form, or lacks something here, is said', async ({
  page,
  request,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms');
  const row = page.getByRole('row').filter({ hasText: 'Seed request' });
  await row.getByRole('button', { name: 'Copy…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('textbox')).toHaveValue('Seed request, copy');
  await dialog.getByRole('button', { name: 'Make the copy' }).click();
  await expect(page).toHaveURL(/\/design\/forms\/seed_request_copy$/);
  await signInHttp(request, 'maud@marrowfen.example');
  const answer = await request.get('/api/forms/seed_request/file');
  expect(answer.headers()['content-disposition']).toContain('seed_request.json');
  const file = await answer.text();
  await page.goto('/design/forms');
  await page.getByRole('button', { name: 'From a file…' }).click();
  const input = page.getByLabel('The form’s file');
  const give = (name: string, text: string) => input.setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(text) });
  await give('notes.json', 'no json');
  await expect(page.getByRole('alert')).toContainText('notes.json is no JSON file.');
  await give('elsewhere.json', file.replaceAll('"partners"', '"buyers"'));
  await expect(page.getByRole('alert')).toContainText('There is no table “buyers”');
  await give('seed_request.json', file);
  await expect(page.getByRole('status').filter({ hasText: 'is in.' })).toContainText('There is a form “seed_request” already');
});

test('news, versions, impacts and files of forms are for those who may', async ({ request }) => {
  await signInHttp(request, 'ida@marrowfen.example');
  for (const path of ['versions', 'impacts', 'file', 'impacts/1', 'impacts/1/export'])
    expect((await request.get(`/api/forms/lot_intake/${path}`)).status(), path).toBe(403);
  for (const path of ['lot_intake/impacts', 'lot_intake/versions/1/back', 'file', 'lot_intake/copy'])
    expect((await request.post(`/api/forms/${path}`, { data: { file: {}, label: 'x' } })).status(), path).toBe(403);
  await request.delete('/api/session');
  expect((await request.get('/api/news')).status()).toBe(401);
});

test('whoever has the form open is told when somebody else publishes it', async ({ page, request }) => {
  await signInHttp(request, 'maud@marrowfen.example');
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await expect(control(page, 'code')).toBeVisible();
  await changeDraft(request, ({ fields }) => void (fields.quantity_g!.label = 'Weight now, g'));
  const { revision } = (await (await request.get('/api/forms/lot_intake/draft')).json()) as { revision: number };
  expect((await request.post('/api/forms/lot_intake/publish', { data: { revision } })).status()).toBe(200);
  const told = page.getByText(/^Version \d+ was published meanwhile/);
  await expect(told).toBeVisible();
  await told.getByRole('button', { name: 'Compare with it' }).click();
  await expect(told).toHaveCount(0);
  await expect(page.locator('[data-row="quantity_g"]')).toContainText('Weight now, g');
});
