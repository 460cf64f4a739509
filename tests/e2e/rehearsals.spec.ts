import { expect, test } from './workspace';
import { choose, control, pickOne, pickWord, signIn, signInHttp } from './helpers';

/* What must come of what is done in a form is kept, run, told before publishing, and mended by one press. */

test('a rehearsal is written as sentences, step by step, and removed', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake/rehearsals');
  await expect(page.getByText(/4 as expected/)).toBeVisible();
  await page.getByRole('button', { name: 'New rehearsal' }).click();
  await expect(page.getByLabel('What it is called')).toHaveValue('Rehearsal 5');
  await page.getByLabel('What it is called').fill('Betula');
  await page.keyboard.press('Tab');
  await expect(page.getByRole('list', { name: 'Rehearsals' })).toContainText('Betula');
  await expect(page.getByText(/as expected/).first(), 'what was changed has been run').toBeVisible();
  const more = page.getByRole('form', { name: 'A step more' });
  await pickOne(more, 'Field', 'Genus');
  await more.getByLabel('Value', { exact: true }).fill('Betula');
  await more.getByRole('button', { name: 'Add' }).click();
  const steps = page.getByRole('list', { name: 'Steps' }).getByRole('listitem');
  await expect(steps).toHaveCount(1);
  await pickWord(more, 'What is done or expected', /^expect a value/);
  await pickOne(more, 'Field', 'Family');
  await more.getByLabel('Value', { exact: true }).fill('Rosaceae');
  await more.getByRole('button', { name: 'Add' }).click();
  await expect(steps.nth(1)).toContainText('found: Family is Betulaceae');
  await expect(steps.nth(0).getByLabel('as expected', { exact: true })).toBeVisible();
  await steps
    .nth(1)
    .getByLabel(/^Value of step 2/)
    .fill('Betulaceae');
  await page.keyboard.press('Enter');
  await expect(steps.nth(1).getByLabel('as expected', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Remove this rehearsal' }).click();
  const list = page.getByRole('list', { name: 'Rehearsals' });
  await expect(list.getByRole('listitem')).toHaveCount(4);
  // what was removed comes back with its steps; so does what a step was
  await page.getByText('“Betula” was removed.').getByRole('button', { name: 'Undo' }).click();
  await expect(list).toContainText('Betula');
  await expect(steps).toHaveCount(2);
  await page.locator('h1').click();
  await page.keyboard.press('Control+z');
  await expect(steps.nth(1)).toContainText('found: Family is Betulaceae');
  await page.keyboard.press('Control+Shift+z');
  await expect(steps.nth(1).getByLabel('as expected', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Remove this rehearsal' }).click();
  await expect(list.getByRole('listitem')).toHaveCount(4);
});

test('what was tried is kept as a rehearsal; a formula that breaks it is seen before publishing, refused, mended and published', async ({
  page,
  request,
}) => {
  await signInHttp(request, 'maud@marrowfen.example');
  const change = async (formula: string): Promise<void> => {
    const { draft, revision } = (await (await request.get('/api/forms/lot_intake/draft')).json()) as { draft: { fields: Record<string, { value: { formula: string } }> }; revision: number }; // prettier-ignore
    draft.fields.germination_days!.value.formula = formula;
    expect((await request.put('/api/forms/lot_intake/draft', { data: { draft, revision } })).status()).toBe(200);
  };
  await signIn(page, 'Maud Alder');
  await test.step('kept from what was tried', async () => {
    await page.goto('/design/forms/lot_intake');
    await choose(page, 'species', 'Quercus robur');
    await expect(control(page, 'germination_days')).not.toHaveValue('');
    await page.getByRole('button', { name: 'What would saving say?' }).click();
    const dialog = page.getByRole('dialog', { name: 'What saving would say' });
    await dialog.getByLabel('What the rehearsal is called').fill('An oak, as Maud');
    await dialog.getByRole('button', { name: 'Keep as a rehearsal' }).click();
    await expect(page.getByRole('heading', { name: 'Rehearsals' })).toBeVisible();
    await expect(page.getByText(/5 as expected/)).toBeVisible();
    const steps = page.getByRole('list', { name: 'Steps' });
    await expect(steps.getByRole('listitem').first()).toContainText('choose Species:');
    await expect(steps).toContainText('Germination days is');
    await expect(steps.getByLabel(/^Value of step \d+: Genus is/)).toHaveValue('Quercus');
  });
  const rehearsals = page.getByRole('list', { name: 'Rehearsals' });
  await test.step('a formula that breaks it: told before publishing, and refused where the form says so', async () => {
    await pickWord(page, 'While one fails', /^the form is not published/);
    await expect(page.getByRole('main').getByText('the form is not published')).toBeVisible();
    await expect(page.locator('body')).not.toContainText('saving…');
    await page.waitForTimeout(600);
    await change('species.germination_days + 5');
    await page.goto('/design/forms/lot_intake/publish');
    await expect(page.getByText('1 rehearsal fails.')).toBeVisible();
    await expect(page.getByText('This form is not published while one does.')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Publish version 2' })).toBeDisabled();
    await expect(rehearsals).toContainText(/expected: Germination days is \d+; found: Germination days is \d+/);
    await expect(page.getByRole('table', { name: 'What it does, field by field' })).toContainText('Germination days');
    const { revision } = (await (await request.get('/api/forms/lot_intake/draft')).json()) as { revision: number };
    const refused = await request.post('/api/forms/lot_intake/publish', { data: { revision } });
    expect(refused.status()).toBe(422);
    expect(await refused.json()).toMatchObject({ code: 'rehearsals', message: expect.stringContaining('An oak, as Maud') });
  });
  await test.step('expected by one press, then published', async () => {
    await rehearsals.getByRole('link', { name: 'An oak, as Maud' }).click();
    await expect(page.getByText('1 fails')).toBeVisible();
    await page.getByRole('button', { name: 'Expect that' }).click();
    await expect(page.getByText(/^5 as expected/)).toBeVisible();
    await page.goto('/design/forms/lot_intake/publish');
    await expect(rehearsals.getByLabel('as expected').first()).toBeVisible();
    await page.getByRole('button', { name: 'Publish version 2' }).click();
    await expect(page.getByText('Version 2 is published.')).toBeVisible();
  });
});

test('rehearsals are for those who design; bad ones are refused with where', async ({ request }) => {
  await signInHttp(request, 'ida@marrowfen.example');
  expect((await request.get('/api/forms/lot_intake/rehearsals')).status()).toBe(403);
  for (const path of ['rehearsals', 'rehearsals/run', 'rehearsals/keep'])
    expect((await request.post(`/api/forms/lot_intake/${path}`, { data: {} })).status(), path).toBe(403);
  await signInHttp(request, 'maud@marrowfen.example');
  const add = (rehearsal: object) => request.post('/api/forms/lot_intake/rehearsals', { data: { rehearsal } });
  const wrong = await add({ label: 'x', at: '2026-03-10T09:00:00', steps: [{ do: 'jump', field: 'genus' }] });
  expect(wrong.status()).toBe(400);
  expect(JSON.stringify(await wrong.json())).toContain('rehearsal.steps.0');
  expect((await add({ label: 'x', at: 'yesterday', steps: [] })).status()).toBe(400);
  expect((await request.put('/api/forms/lot_intake/rehearsals/999', { data: { rehearsal: { label: 'x', at: '2026-03-10T09:00:00', steps: [] } } })).status()).toBe(404); // prettier-ignore
});
