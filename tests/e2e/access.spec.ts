import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, test } from './workspace';
import { control, formulaText, formulaWord, pickWord, pressField, signIn, signInAtHome, signInHttp, wiringOf } from './helpers';

/** What of the axe rules hangs on colours: the only ones that dark can answer otherwise than light. */
const ON_COLOURS = ['color-contrast', 'link-in-text-block'];

/** Of what is as it should be, axe tells each rule once: it takes long to tell every place. No page has frames, so that none is opened to put theirs together: two thirds of the time. */
const builder = (page: Page): AxeBuilder => new AxeBuilder({ page }).setLegacyMode().options({ resultTypes: ['violations'] });

/** What axe finds: every rule in light, and in dark what hangs on colours. */
async function noViolations(page: Page, name: string): Promise<void> {
  const light = await builder(page).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze();
  await inScheme(page, 'dark');
  const dark = await builder(page).withRules(ON_COLOURS).analyze();
  await inScheme(page, 'light');
  const told = [...light.violations.map((v) => ({ ...v, scheme: 'light' })), ...dark.violations.map((v) => ({ ...v, scheme: 'dark' }))].map(
    (v) =>
      `${v.scheme}: ${v.id} (${v.impact ?? '?'}): ${v.help}: ${v.nodes
        .slice(0, 3)
        .map((n) => n.html.slice(0, 160))
        .join(' | ')}`,
  );
  expect(told, name).toEqual([]);
  expect(light.passes.length, name).toBeGreaterThan(5);
  expect(dark.passes.length, name).toBeGreaterThan(0);
}

/** The page in another scheme, with its colours where they stay: a colour on its way to another is neither. */
async function inScheme(page: Page, colorScheme: 'light' | 'dark'): Promise<void> {
  await page.emulateMedia({ colorScheme });
  // the page hears of it a moment later; an empty one has no scheme
  await page.waitForFunction((scheme) => (document.documentElement.getAttribute('data-scheme') ?? scheme) === scheme, colorScheme);
  await page.evaluate(() => Promise.allSettled(document.getAnimations().map((a) => (a instanceof CSSTransition ? a.finished : null))));
}

test.describe('axe finds nothing', () => {
  test.beforeEach(({ page }) => inScheme(page, 'light'));

  test('where one signs in, at home and in the guide', async ({ page }) => {
    await page.goto('/sign-in');
    await expect(page.getByRole('heading', { name: 'Sign in', exact: true })).toBeVisible();
    await noViolations(page, 'sign in');
    await signInAtHome(page, 'Maud Alder');
    await noViolations(page, 'home');
    await page.goto('/guide');
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    await noViolations(page, 'guide');
  });

  test('on tables, and where files are brought in', async ({ page }) => {
    await signIn(page, 'Maud Alder');
    for (const [path, role] of [
      ['/design/tables', 'heading'],
      ['/design/tables/species', 'grid'],
      ['/design/tables/import', 'heading'],
    ] as const) {
      await page.goto(path);
      await expect(page.getByRole(role).first()).toBeVisible();
      await noViolations(page, path);
    }
    await page.getByLabel('File to import').setInputFiles('demo/tools.csv');
    await expect(page.getByText(/still open/)).toBeVisible();
    await noViolations(page, 'import, with mismatches');
    await page.goto('/design/tables/species');
    await page.getByRole('button', { name: 'Columns' }).click();
    await page.getByRole('button', { name: /^Name of Genus in formulas/ }).click();
    await expect(page.getByRole('textbox', { name: 'Name of Genus in formulas' })).toBeVisible();
    await noViolations(page, 'columns, with a name being changed');
  });

  test('before publishing, on versions and rehearsals', async ({ page, request }) => {
    await signInHttp(request, 'maud@marrowfen.example');
    const { draft, revision } = (await (await request.get('/api/forms/lot_intake/draft')).json()) as { draft: { fields: Record<string, { value: { formula: string } }> }; revision: number }; // prettier-ignore
    // so that there is a change to look at
    draft.fields.germination_days!.value.formula = 'species.germination_days + 1';
    await request.put('/api/forms/lot_intake/draft', { data: { draft, revision } });
    await signIn(page, 'Maud Alder');
    await page.goto('/design/forms/lot_intake/publish');
    await expect(page.getByRole('table', { name: 'Records' })).toBeVisible();
    await expect(page.getByRole('list', { name: 'Rehearsals' }).getByLabel('as expected').first()).toBeVisible();
    await noViolations(page, 'before publishing');
    await page.goto('/design/forms/lot_intake/versions');
    await expect(page.getByRole('list', { name: 'What is different' })).toBeVisible();
    await noViolations(page, 'versions');
    await page.goto('/design/forms/lot_intake/rehearsals');
    await expect(page.getByText(/as expected/).first()).toBeVisible();
    await noViolations(page, 'rehearsals');
    await page.goto('/design/forms/lot_intake/records-say?field=collected_on');
    await expect(page.getByRole('complementary', { name: 'Collected on' })).toBeVisible();
    await expect(page.getByRole('button', { name: 'Never' }).first()).toBeVisible();
    await noViolations(page, 'what the records say');
  });

  test('on forms and the form that is built', async ({ page }) => {
    await signIn(page, 'Maud Alder');
    await page.goto('/design/forms');
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    await noViolations(page, 'forms');
    await page.goto('/design/forms/lot_intake');
    await pressField(page, 'species');
    await expect(page.getByText('Choices are rows of')).toBeVisible();
    await noViolations(page, 'form design');
    await pressField(page, 'seeds');
    await formulaWord(wiringOf(page)).first().click();
    await expect(formulaText(page)).toBeVisible();
    await noViolations(page, 'form design, with the formula editor');
    await page.keyboard.press('Escape');
    const trace = page.getByRole('region', { name: 'Trace' });
    await trace
      .getByRole('button', { name: /^Show the form as it was/ })
      .nth(3)
      .click();
    await pickWord(trace, 'Stop and show when', 'Genus changes');
    await expect(trace.getByRole('group', { name: 'Stops' })).toBeVisible();
    await pickWord(trace, 'What is shown', 'where the time went in all');
    await noViolations(page, 'form design, at a moment, with times');
    await page.getByRole('button', { name: 'otherwise…' }).click();
    await page.getByRole('button', { name: 'situations…' }).click();
    await expect(page.getByLabel('What the situation is called')).toBeVisible();
    await noViolations(page, 'form design, with situations');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Create a link' }).click();
    await expect(page.getByRole('dialog').getByLabel('Quantity, g')).toBeVisible();
    await noViolations(page, 'form design, with a link');
  });

  test('on records and an entry', async ({ page }) => {
    await signIn(page, 'Maud Alder');
    for (const path of ['/entry', '/entry/lot_intake']) {
      await page.goto(path);
      await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
      await noViolations(page, path);
    }
    const view = { where: 'choice.quantity_g > 20', group: { column: 'status', by: 'value' }, colours: [{ where: 'TRUE', colour: 'moss', sign: '●', word: 'all' }] }; // prettier-ignore
    const shown = encodeURIComponent(JSON.stringify(view));
    await page.goto(`/entry/lot_intake?with=${shown}`);
    await page.getByRole('button', { name: 'in one colour' }).click();
    await page.getByRole('button', { name: 'Choose several…' }).click();
    await expect(page.getByRole('region', { name: 'Colours of this view' })).toBeVisible();
    await noViolations(page, 'records, in a view');
    for (const as of ['calendar', 'calendar agenda']) {
      await page.goto(`/entry/lot_intake?as=${as}&with=${shown}`);
      await expect(page.getByRole('status').filter({ hasText: 'on these days' })).toBeVisible();
      await page.waitForLoadState('networkidle');
      await noViolations(page, as);
    }
    await page.goto('/entry/lot_intake/many');
    await page.getByRole('textbox', { name: /^Paste rows here/ }).fill('Species\tRegion\nQuercus robur\tNorth Marow');
    await page.getByRole('button', { name: 'Take these rows' }).click();
    await expect(page.getByText('1 do not')).toBeVisible();
    await noViolations(page, 'many at once');
    await page.goto('/entry/lot_intake/labels?ids=1,2');
    await expect(page.getByRole('img', { name: /^Code/ }).first()).toBeVisible();
    await noViolations(page, 'labels');
    await page.goto('/entry/lot_intake/new');
    await expect(control(page, 'family')).toBeFocused();
    await page.keyboard.press('Alt+ArrowDown');
    await noViolations(page, 'entry, with an open list');
    await page.keyboard.press('Escape');
    await page.keyboard.press('Alt+w');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await noViolations(page, 'entry, with why and problems');
  });
});
