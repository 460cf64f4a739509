import type { Page } from '@playwright/test';
import { expect, test } from './workspace';
import { choose, control, field, formulaText, formulaWord, pressField, signIn, wiringOf } from './helpers';

/* What can be reached, seen and heard by those who see, point or type otherwise. */

/** Targets that are reached within less than 24 px, or drawn as if they were. */
const smallTargets = (page: Page): Promise<string[]> =>
  page.evaluate(() => {
    const found: string[] = [];
    for (const e of document.querySelectorAll<HTMLElement>('button, a[href], [role="option"], [role="tab"], input, textarea')) {
      const box = e.getBoundingClientRect();
      const style = getComputedStyle(e);
      // what is only there for those who do not see, or lies in a larger control or beside the word that presses it
      if (
        !box.width ||
        !box.height ||
        style.visibility === 'hidden' ||
        style.opacity === '0' ||
        e.closest('.sr, label, .p-hidden-accessible')
      )
        continue;
      if (e.tagName === 'INPUT' && e.parentElement!.getBoundingClientRect().height >= 24) continue;
      const after = getComputedStyle(e, '::after');
      const reach = (side: 'width' | 'height'): number => Math.max(box[side], after.position === 'absolute' ? parseFloat(after[side]) : 0);
      if (reach('width') < 23.5 || reach('height') < 23.5)
        found.push(
          `${Math.round(box.width)}×${Math.round(box.height)} ${e.tagName} ${e.getAttribute('aria-label') ?? e.textContent ?? ''}`.trim(),
        );
    }
    return [...new Set(found)];
  });

test('targets are reached within 24 px at least', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  for (const [path, ready] of [
    ['/', 'Lot intake'],
    ['/design/tables', 'Species'],
    ['/design/tables/species', 'Columns'],
    ['/design/lists', 'Purposes'],
    ['/design/feeds', 'Name check'],
    ['/design/forms/lot_intake', 'Lot code'],
    ['/design/forms/seed_request', 'Subtotal'],
    ['/design/forms/lot_intake/publish', 'Nothing has changed'],
    ['/design/forms/lot_intake/versions', 'in use'],
    ['/design/forms/lot_intake/rehearsals', 'A common oak'],
    ['/design/forms/lot_intake/records-say', 'Take it into the draft'],
    ['/entry/lot_intake/print', 'records'],
    ['/entry/lot_intake', 'Lot code'],
    ['/entry/lot_intake?as=calendar', 'on these days'],
    ['/entry/lot_intake/many', 'Take these rows'],
    ['/entry/lot_intake/labels?ids=1,2', 'The code opens the record'],
    ['/entry/lot_intake/7', 'Lot code'],
    ['/entry/seed_request/new', 'Partner'],
    ['/guide', 'Make a cascade'],
  ] as const) {
    await page.goto(path);
    await expect(page.locator('main').getByText(ready).filter({ visible: true }).first()).toBeVisible();
    await page.waitForLoadState('networkidle');
    expect(await smallTargets(page), path).toEqual([]);
  }
});

test('forced colours show the option the keys are on, what is chosen and where the focus is', async ({ page }) => {
  await page.emulateMedia({ forcedColors: 'active' });
  await signIn(page, 'Ida Fenn');
  await page.goto('/entry/lot_intake/new');
  await control(page, 'family').click();
  await expect(page.getByRole('option').first()).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  const outlines = await page
    .getByRole('option')
    .evaluateAll((all) => all.map((o) => (getComputedStyle(o).outlineStyle === 'none' ? 0 : parseFloat(getComputedStyle(o).outlineWidth))));
  expect(
    outlines.filter((w) => w >= 2),
    'one option is outlined',
  ).toHaveLength(1);
  const marked = page.getByRole('option').nth(outlines.findIndex((w) => w >= 2));
  const id = await marked.getAttribute('id');
  expect(await control(page, 'family').getAttribute('aria-activedescendant')).toBe(id);
  await expect(page.locator('[role="option"][aria-selected="true"]'), 'nothing is chosen yet').toHaveCount(0);
  await page.keyboard.press('Enter');
  await control(page, 'quantity_g').focus();
  const focused = await control(page, 'quantity_g').evaluate((e) => {
    const s = getComputedStyle(e);
    return s.outlineStyle !== 'none' && parseFloat(s.outlineWidth) >= 1;
  });
  expect(focused, 'the focus has an outline').toBe(true);
});

test('what fills in, fails or offers nothing is announced once, and shown at its field', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  let failing = false;
  await page.route('**/wants', (route) =>
    failing && route.request().postData()?.includes('"kind":"feed"')
      ? route.fulfill({ status: 502, body: 'bad gateway' })
      : route.continue(),
  );
  await page.goto('/entry/lot_intake/new');
  const told = page.locator('[aria-live="polite"]', { hasText: /filled/ });
  await choose(page, 'species', 'Quercus robur');
  await expect(told.first()).toContainText('Family filled: Fagaceae');
  failing = true;
  await page.goto('/entry/lot_intake/new');
  await choose(page, 'species', 'Rosa canina');
  await expect(field(page, 'accepted_name')).toContainText('Try again');
  await expect(page.locator('[aria-live="polite"]', { hasText: /Accepted name/ }).first()).toBeAttached();
  failing = false;
  await field(page, 'accepted_name').getByRole('button', { name: 'Try again' }).click();
  await expect(field(page, 'accepted_name')).not.toContainText('Try again');
});

test('a formula that is applied gives the focus back to its word', async ({ page }) => {
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake');
  await pressField(page, 'seeds');
  const word = formulaWord(wiringOf(page)).first();
  await word.focus();
  await page.keyboard.press('Enter');
  await expect(formulaText(page)).toBeFocused();
  await page.keyboard.press('Control+End');
  await page.keyboard.type(' + 1');
  await page.keyboard.press('Control+Enter');
  await expect(word).toContainText('+ 1');
  await expect(word).toBeFocused();
});

test('on a phone the next field is never under the bar, also above a keyboard, and a line is a card', async ({ page }) => {
  await signIn(page, 'Ida');
  for (const height of [700, 400]) {
    await page.setViewportSize({ width: 390, height });
    await page.goto('/entry/seed_request/new');
    await expect(control(page, 'partner')).toBeFocused();
    const seen = new Set<string>();
    for (let stops = 0; stops < 12; stops++) {
      const at = await page.evaluate(() => {
        const here = document.activeElement as HTMLElement;
        const [own, bar] = [here.getBoundingClientRect(), document.querySelector('.sheet footer')!.getBoundingClientRect()];
        return { field: here.closest<HTMLElement>('[data-field]')?.dataset.field ?? '', right: own.right, top: own.top, bottom: own.bottom, bar: bar.top };
      }); // prettier-ignore
      if (at.field === '') break;
      seen.add(at.field);
      expect(at.bottom, at.field).toBeLessThanOrEqual(at.bar);
      expect(at.top, at.field).toBeGreaterThan(40);
      expect(at.right, at.field).toBeLessThanOrEqual(390);
      await page.keyboard.press('Enter');
      await expect.poll(() => page.evaluate(() => document.activeElement?.closest<HTMLElement>('[data-field]')?.dataset.field ?? '')).not.toBe(at.field); // prettier-ignore
    }
    expect([...seen].some((f) => f.startsWith('packets.'))).toBe(true);
    expect(seen.size).toBeGreaterThan(6);
  }
  // under their names, each as wide as fits
  const line = page.locator('[data-lines="packets"] [data-line]').first();
  const places = await line.locator('[data-label]').evaluateAll((cells) => cells.map((c) => Math.round(c.getBoundingClientRect().top)));
  expect(new Set(places).size).toBeGreaterThan(2);
});

test('a cold page asks for few files, brings no styles of its parts with the script, and every part of it is styled', async ({
  page,
  baseURL,
}) => {
  await signIn(page, 'Maud Alder');
  const state = await page.context().storageState();
  for (const [path, there] of [
    ['/entry/lot_intake/new', '[data-field="quantity_g"]'],
    ['/design/forms/lot_intake', '[data-row="quantity_g"]'],
    ['/design/tables/species', '[role="row"]'],
    ['/design/lists', 'main a'],
  ] as const) {
    const context = await page.context().browser()!.newContext({ storageState: state, baseURL });
    const cold = await context.newPage();
    let asked = 0;
    cold.on('request', () => asked++);
    const scripts: Promise<number>[] = [];
    cold.on('requestfinished', (r) => {
      if (r.resourceType() === 'script') scripts.push(r.sizes().then((s) => s.responseBodySize));
    });
    await cold.goto(path);
    await cold.locator(there).first().waitFor();
    expect(asked, path).toBeLessThan(40);
    // as it travels, compressed: who only enters records reads nothing of what forms are built with
    const script = (await Promise.all(scripts)).reduce((a, b) => a + b, 0);
    expect(script, path).toBeGreaterThan(100_000);
    if (path.startsWith('/entry')) expect(script, path).toBeLessThan(300_000);
    const unstyled = await cold.evaluate(() => {
      const rules = [...document.styleSheets].flatMap((s) => [...s.cssRules]).map((r) => r.cssText).join(' '); // prettier-ignore
      const names = [...document.querySelectorAll('[data-pc-name]')].map((e) => `p-${(e as HTMLElement).dataset.pcName ?? ''}`);
      const missing = [...new Set(names)].filter((n) => document.querySelector(`.${n}`) && !rules.includes(`.${n}`));
      return [...missing, ...[...document.querySelectorAll('style[data-primevue-style-id]')].map((e) => `style ${(e as HTMLElement).dataset.primevueStyleId ?? ''}`)];
    }); // prettier-ignore
    expect(unstyled, path).toEqual([]);
    await context.close();
  }
});
