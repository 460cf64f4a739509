import { expect, test } from './workspace';
import { choose, control, field, pickWord, signIn, signInHttp } from './helpers';

/* A form that is built is tried as anybody, on anything, at any time; nothing of it is saved. */
test('the form is tried on a record found by its name, to be read, at another step; at another moment what was typed stays', async ({
  page,
}) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await expect(control(page, 'code')).toBeVisible();
  const bar = page.getByRole('main');
  await page.getByRole('button', { name: 'otherwise…' }).click();
  await test.step('another moment: defaults follow it, what was typed stays', async () => {
    await choose(page, 'genus', 'Achillea');
    await page.getByLabel(/^The moment it is taken to be/).fill('2027-03-01 08:00');
    await page.keyboard.press('Tab');
    await expect(control(page, 'collected_on')).toHaveValue('1 Mar 2027');
    await expect(control(page, 'genus')).toHaveValue('Achillea');
  });
  await test.step('services that fail: what the form says then', async () => {
    await pickWord(bar, 'How services answer', /^fail/);
    await expect(field(page, 'accepted_name')).toContainText('The service is tried as failing.');
    await expect(control(page, 'genus')).toHaveValue('Achillea');
    await pickWord(bar, 'How services answer', /^answer/);
    await expect(field(page, 'accepted_name')).not.toContainText('tried as failing');
  });
  await test.step('a record, as people find it', async () => {
    await page.getByRole('button', { name: /^What it is tried on/ }).click();
    await expect(page.getByRole('combobox', { name: 'What it is tried on' })).toBeFocused();
    await page.keyboard.type('MF-');
    const found = page.getByRole('option', { name: /^MF-/ }).first();
    const code = await found.innerText();
    await found.click();
    await expect(page.getByRole('button', { name: `What it is tried on: ${code}` })).toBeVisible();
    await expect(control(page, 'code')).toHaveValue(code);
    await pickWord(bar, 'At which step', 'the step In quarantine');
    await expect(control(page, 'status')).toHaveValue('In quarantine');
    await pickWord(bar, 'At which step', 'the step Released');
    await expect(control(page, 'status')).toHaveValue('Released');
    await pickWord(bar, 'How it is opened', 'be read');
    await page.getByRole('button', { name: 'less' }).click();
    await expect(page.getByRole('button', { name: /^to be read, at the step Released, 1 Mar 2027/ })).toBeVisible();
  });
  await page.getByRole('button', { name: /^What it is tried on/ }).click();
  await page.getByRole('button', { name: 'a new entry', exact: true }).click();
  await expect(page.getByRole('button', { name: 'What it is tried on: a new entry' })).toBeFocused();
  await expect(field(page, 'code')).toContainText('provisional');
});

test('what saving would say: what must be corrected, led to; then what would be stored; nothing is written', async ({ page, request }) => {
  await signInHttp(request, 'maud@marrowfen.example');
  const count = async (): Promise<number> =>
    ((await (await request.get('/api/forms/bench_task/records')).json()) as { total: number }).total;
  const before = await count();
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/bench_task');
  await expect(control(page, 'task')).toBeVisible();
  const dialog = page.getByRole('dialog', { name: 'What saving would say' });
  await page.getByRole('button', { name: 'What would saving say?' }).click();
  await expect(dialog).toContainText('Not saved: this must be corrected.');
  await dialog.getByRole('button', { name: 'Task' }).click();
  await expect(dialog).toHaveCount(0);
  await expect(control(page, 'task')).toBeFocused();
  await page.keyboard.type('sow two trays');
  await page.keyboard.press('Tab');
  await page.getByRole('button', { name: 'What would saving say?' }).click();
  await expect(dialog).toContainText('It would be saved, with');
  await expect(dialog).toContainText('sow two trays');
  await expect(dialog, 'the team follows the words, as the server has it').toContainText('Field');
  expect(await count()).toBe(before);
});

test('the trace is narrowed by kind, field and word, and folded by call', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=species');
  await choose(page, 'species', 'Quercus robur');
  const trace = page.getByRole('region', { name: 'Trace' });
  await expect(trace).toContainText('chose Species');
  await expect(trace).toContainText('Genus');
  await pickWord(trace, 'Which changes', 'lists');
  await expect(trace.locator('.line.change').first()).toContainText('list of');
  await expect(trace.locator('.line.change').filter({ hasNotText: 'list of' })).toHaveCount(0);
  await pickWord(trace, 'Which changes', 'all changes');
  await trace.getByRole('button', { name: 'of Species' }).click();
  await expect(trace.locator('.line.change').filter({ hasNotText: 'Species' })).toHaveCount(0);
  await trace.getByRole('button', { name: 'of Species' }).click();
  await trace.getByLabel('Find in what happened').fill('storage');
  await expect(trace.locator('.line.change').first()).toContainText('Storage, °C');
  await trace.getByLabel('Find in what happened').fill('');
  const lines = await trace.locator('.line.change').count();
  await trace.getByRole('button', { name: 'Fold its changes' }).first().click();
  await expect.poll(() => trace.locator('.line.change').count()).toBeLessThan(lines + 1);
  await expect(trace.getByRole('button', { name: /^Show its \d+ changes/ })).toHaveCount(1);
});
