import { execFileSync } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Page, chromium } from '@playwright/test';
import { expect, test } from './workspace';
import { choose, control, field, lotAt, signIn } from './helpers';

/* Where clerks stumbled: text that is no choice, drafts, sessions that end, two people on a record, the keys. */

const unsaved = (page: Page, count: number) => page.getByText(`You have ${count} unsaved ${count === 1 ? 'change' : 'changes'} from`);

test('text that is no choice stays, marked, with what is near; it is not saved over', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake/new');
  await control(page, 'region').click();
  await page.keyboard.type('North Marow');
  await page.keyboard.press('Enter');
  await expect(control(page, 'region')).toHaveValue('North Marow');
  await expect(field(page, 'region')).toContainText('“North Marow” is not one of the choices.');
  await expect(control(page, 'region')).toHaveAttribute('aria-invalid', 'true');
  await page.keyboard.press('Control+s');
  const summary = page.getByRole('alert').filter({ hasText: 'Not saved.' });
  await expect(summary).toContainText('Region: “North Marow” is not one of the choices.');
  await field(page, 'region').getByRole('button', { name: 'North Marrow' }).click();
  await expect(control(page, 'region')).toHaveValue('North Marrow');
  // over a choice that is there, the old one can be kept
  await control(page, 'region').click();
  await page.keyboard.type('zzz');
  await control(page, 'germination_days').click();
  await field(page, 'region').getByRole('button', { name: 'keep North Marrow' }).click();
  await expect(control(page, 'region')).toHaveValue('North Marrow');
  await expect(field(page, 'region')).not.toContainText('not one of the choices');
});

test('a refused save lists its fields with links, and the keys go on', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeFocused();
  await page.keyboard.press('Control+s');
  const summary = page.getByRole('alert').filter({ hasText: 'Not saved.' });
  await expect(summary).toContainText(/\d fields must be corrected first/);
  await expect(control(page, 'species')).toBeFocused();
  await expect(control(page, 'species')).toHaveAttribute('aria-invalid', 'true');
  await summary.getByRole('button', { name: 'Site', exact: true }).click();
  await expect(control(page, 'site')).toBeFocused();
  // a save that cannot reach the server leaves the keys where they were
  await choose(page, 'species', 'Quercus robur');
  await choose(page, 'region', 'North Marrow');
  await control(page, 'site').click();
  await page.getByRole('option').first().click();
  await control(page, 'quantity_g').fill('12');
  await page.route('**/api/forms/lot_intake/records', (route) => route.abort());
  await control(page, 'germination_days').focus();
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Not sent yet: the server cannot be reached.')).toBeVisible();
  await expect(control(page, 'germination_days')).toBeFocused();
});

test('two windows keep each their own; what came by the link or was kept over is nobody’s typing', async ({ page, context }) => {
  await signIn(page, 'Tom Reed');
  await page.goto('/entry/bench_task/new?site=Adder Carr');
  await expect(control(page, 'site')).toHaveValue('Adder Carr');
  await page.reload();
  await expect(control(page, 'site')).toHaveValue('Adder Carr');
  await expect(page.getByText(/unsaved change/)).toHaveCount(0);
  await page.goto('/entry/bench_task/new?colour=red');
  await expect(page.getByText('The link names “colour”, which this form does not have.')).toBeVisible();
  await page.goto('/entry/lot_intake/new');
  await control(page, 'germination_days').fill('41');
  const other = await context.newPage();
  await other.goto('/entry/lot_intake/new');
  await expect(control(other, 'family')).toBeFocused();
  await expect(other.getByText(/unsaved change/), 'it is open in a window').toHaveCount(0);
  await control(other, 'germination_days').fill('42');
  await control(other, 'germination_days').blur();
  await expect(control(page, 'germination_days')).toHaveValue('41');
  await other.waitForTimeout(700);
  await other.close();
  await page.reload();
  await expect(unsaved(page, 1)).toBeVisible();
  await page.getByRole('button', { name: 'Restore' }).click();
  const first = await control(page, 'germination_days').inputValue();
  await expect(unsaved(page, 1)).toBeVisible();
  await page.getByRole('button', { name: 'Restore' }).click();
  const second = await control(page, 'germination_days').inputValue();
  expect([first, second].sort()).toEqual(['41', '42']);
});

test('a browser that is killed loses nothing that was typed', async ({ baseURL }) => {
  const folder = mkdtempSync(join(tmpdir(), 'brisk-acorn-killed-'));
  const launch = () =>
    chromium.launchPersistentContext(folder, {
      baseURL,
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
    });
  const before = await launch();
  const page = await before.newPage();
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake/new');
  await choose(page, 'species', 'Quercus robur');
  await choose(page, 'region', 'Tarn Fells');
  for (let i = 1; i <= 19; i++) {
    await control(page, 'quantity_g').fill(String(i));
    await control(page, 'quantity_g').blur();
  }
  await page.waitForTimeout(300);
  // under load the disk takes longer than people need to look up
  await page.waitForFunction(() => !Object.keys(localStorage).some((k) => k.startsWith('brisk-keeping ')));
  execFileSync('pkill', ['-9', '-f', folder]);
  await before.close().catch(() => {});
  const after = await launch();
  const again = await after.newPage();
  await signIn(again, 'Ida Fenn').catch(() => {});
  await again.goto('/entry/lot_intake/new');
  await expect(unsaved(again, 21)).toBeVisible();
  await again.getByRole('button', { name: 'Restore' }).click();
  await expect(control(again, 'quantity_g')).toHaveValue('19.00');
  await expect(control(again, 'species')).toHaveValue('Quercus robur');
  await after.close();
});

test('a session that ends: one signs in over the entry and goes on', async ({ page, context }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake/new');
  await choose(page, 'species', 'Quercus robur');
  await choose(page, 'region', 'North Marrow');
  await control(page, 'site').click();
  await page.getByRole('option').first().click();
  await control(page, 'quantity_g').fill('8');
  await context.clearCookies();
  await page.keyboard.press('Control+s');
  const dialog = page.getByRole('dialog', { name: 'Sign in to go on' });
  await expect(dialog).toContainText('What you typed is still here');
  await dialog.getByLabel('Password of Ida Fenn').fill('wrong');
  await page.keyboard.press('Enter');
  await expect(dialog.getByRole('alert')).toBeVisible();
  await dialog.getByLabel('Password of Ida Fenn').fill('fen-and-marsh');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/entry\/lot_intake$/);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
});

test('where two people changed one field both values are shown, and one chooses', async ({ page, browser }) => {
  await signIn(page, 'Ida Fenn');
  const lot = await lotAt(page.request, 'registered');
  await page.goto(`/entry/lot_intake/${lot}`);
  await expect(control(page, 'species')).not.toHaveValue('');
  const other = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await signIn(other, 'Tom Reed');
  await other.goto(`/entry/lot_intake/${lot}`);
  await control(other, 'quantity_g').fill('21');
  await control(other, 'tsw_g').fill('1.5');
  await control(other, 'tsw_g').blur();
  await other.keyboard.press('Control+s');
  await expect(other).toHaveURL(/\/entry\/lot_intake$/);
  await other.close();
  await control(page, 'quantity_g').fill('34');
  await control(page, 'germination_days').fill('33');
  await page.keyboard.press('Control+s');
  const dialog = page.getByRole('dialog', { name: 'Both of you changed this' });
  await expect(dialog.getByRole('row').nth(1)).toHaveText(/Quantity, g\s*21\.00\s*34\.00/);
  await expect(dialog.getByRole('button', { name: '1 still to choose' })).toBeDisabled();
  await dialog.getByRole('radio').nth(1).check();
  await dialog.getByRole('button', { name: 'Go on' }).click();
  await expect(control(page, 'quantity_g')).toHaveValue(/^34/);
  await expect(control(page, 'tsw_g')).toHaveValue('1.500');
  await expect(control(page, 'germination_days')).toHaveValue('33');
  await expect(control(page, 'quantity_g'), 'the keys are where the choice was').toBeFocused();
});

test('keys: nothing is a trap, and presses inside a field are reached', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeFocused();
  for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+Tab');
  expect(await page.evaluate(() => document.activeElement?.closest('[data-field]')?.getAttribute('data-field') ?? 'above')).toBe('above');
  await choose(page, 'species', 'Quercus robur');
  await control(page, 'storage_c').focus();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('-18');
  await expect(field(page, 'storage_c').getByRole('button', { name: 'Use it' })).toBeVisible();
  await page.keyboard.press('Tab');
  await expect(field(page, 'storage_c').getByRole('button', { name: 'Use it' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(control(page, 'storage_c')).not.toHaveValue('−18');
  await control(page, 'collected_on').focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(page.getByRole('dialog').or(page.locator('.p-datepicker')).first()).toBeVisible();
});

test('Back finds the list as it was left; a form that does not exist says so', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake');
  await page.getByLabel('Search the records').fill('Quercus');
  await expect(page).toHaveURL(/q=Quercus/);
  await page.getByRole('row').nth(1).getByRole('link').click();
  await expect(control(page, 'species')).toHaveValue(/Quercus/);
  await page.goBack();
  await expect(page.getByLabel('Search the records')).toHaveValue('Quercus');
  await expect(page.getByText(/\d+ found/)).toBeVisible();
  await page.goto('/entry/no_such_form/new');
  await expect(page.getByRole('alert')).toContainText('no_such_form');
  await page.goto('/entry/no_such_form');
  await expect(page.getByRole('alert')).toContainText('no_such_form');
});

test('nothing is wider than a narrow screen', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  for (const width of [320, 390]) {
    await page.setViewportSize({ width, height: 640 });
    for (const path of [
      '/',
      '/entry',
      '/entry/seed_request/new',
      '/entry/lot_intake/new',
      '/entry/lot_intake',
      '/entry/lot_intake/5',
      '/entry/lot_intake?as=calendar',
      '/entry/lot_intake/many',
      '/entry/lot_intake/labels?ids=1,2',
      '/entry/lot_intake/print',
      '/guide',
      '/guide/cascade',
    ]) {
      // prettier-ignore
      await page.goto(path);
      await page.waitForLoadState('networkidle');
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
      const main = await page.locator('main').evaluate((e) => e.scrollWidth - e.clientWidth);
      expect([wide, main], `${path} at ${width}`).toEqual([0, 0]);
    }
  }
  await page.setViewportSize({ width: 640, height: 400 });
  await page.goto('/entry/lot_intake/new');
  await control(page, 'quantity_g').scrollIntoViewIfNeeded();
  await control(page, 'quantity_g').fill('5');
  await page.keyboard.press('Control+s');
  await expect(control(page, 'species')).toBeInViewport();
});
