import { expect, test } from './workspace';
import { choose, control, field, pickWord, signIn } from './helpers';

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
