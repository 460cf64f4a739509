import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, test } from './workspace';
import { control, formulaText, formulaWord, pressField, signIn, wiringOf } from './helpers';

async function noViolations(page: Page, name: string): Promise<void> {
  const { violations, passes } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze();
  const told = violations.map(
    (v) =>
      `${v.id} (${v.impact ?? '?'}): ${v.help}: ${v.nodes
        .slice(0, 3)
        .map((n) => n.html.slice(0, 160))
        .join(' | ')}`,
  );
  expect(told, name).toEqual([]);
  expect(passes.length, name).toBeGreaterThan(5);
}

for (const scheme of ['light', 'dark'] as const) {
  test(`axe finds nothing on any screen (${scheme})`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: scheme });
    await page.goto('/sign-in');
    await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await noViolations(page, 'sign in');
    await signIn(page, 'Maud Alder');
    await noViolations(page, 'home');
    for (const path of [
      '/design/tables',
      '/design/tables/species',
      '/design/tables/import',
      '/design/forms',
      '/entry',
      '/entry/lot_intake',
      '/guide',
    ]) {
      await page.goto(path);
      await expect(page.locator('h1, [role="grid"], [role="tree"]').first()).toBeVisible();
      await noViolations(page, path);
    }
    await page.goto('/design/tables/import');
    await page.getByLabel('File to bring in').setInputFiles('demo/tools.csv');
    await expect(page.getByText(/still open/)).toBeVisible();
    await noViolations(page, 'import, with mismatches');
    await page.goto('/entry/lot_intake/new');
    await expect(control(page, 'family')).toBeFocused();
    await page.keyboard.press('Alt+ArrowDown');
    await noViolations(page, 'entry, with an open list');
    await page.keyboard.press('Escape');
    await page.keyboard.press('Alt+w');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await noViolations(page, 'entry, with why and problems');
    await page.goto('/design/forms/lot_intake');
    await pressField(page, 'species');
    await expect(page.getByText('Choices are rows of')).toBeVisible();
    await noViolations(page, 'form design');
    await pressField(page, 'seeds');
    await formulaWord(wiringOf(page)).first().click();
    await expect(formulaText(page)).toBeVisible();
    await noViolations(page, 'form design, with the formula editor');
  });
}
