import { readFileSync, readdirSync } from 'node:fs';
import type { Browser, Locator, Page } from '@playwright/test';
import { demoFolder, expect, test } from './workspace';
import { cell, choose, control, field, formulaText, formulaWord, pressField, signIn, wiringOf } from './helpers';
import { type OwnServer, ready, startServer } from './server';

/*
 * Nobody's typing is ever overwritten by an answer, a redraw or a save: on every screen where something is edited, with a server
 * that takes its time, somebody goes on typing while what they typed before is being saved.
 */

let server: OwnServer;
test.beforeAll(async () => {
  server = await startServer(demoFolder());
  await ready(server);
});
test.afterAll(async () => {
  await server.stop();
});

const SLOW = 700;
/** A page of somebody signed in, on which every change takes the server a while; what is read comes at once. */
async function slowPage(browser: Browser, account: number): Promise<Page> {
  const context = await browser.newContext({ baseURL: server.url });
  const page = await context.newPage();
  await page.request.post('/api/session', { data: { demo: account } });
  await page.route('**/api/**', async (route) => {
    if (route.request().method() !== 'GET') await new Promise((resolve) => setTimeout(resolve, SLOW));
    await route.continue().catch(() => undefined);
  });
  return page;
}
const TEXTS =
  'input[type="text"]:visible:not([readonly], [disabled], [role="combobox"], [role="spinbutton"], [type="search"]), input:not([type]):visible:not([readonly], [disabled], [role="combobox"], [role="spinbutton"]), textarea:visible:not([readonly], [disabled])';

/** Types into one field after the other, without waiting for anything, and looks after each letter that it stands there. */
async function typeEverywhere(page: Page, scope: Locator, most: number): Promise<number> {
  let typed = 0;
  // counted anew: a field may bring others, or take them away
  for (let i = 0; i < most && i < (await scope.locator(TEXTS).count()); i++, typed++) {
    const input = scope.locator(TEXTS).nth(i);
    const name = (await input.getAttribute('aria-label')) ?? (await input.getAttribute('id')) ?? `field ${i}`;
    await input.focus();
    await page.keyboard.press('Control+End');
    let expected = await input.inputValue();
    for (const letter of 'ab 7c') {
      await page.keyboard.type(letter);
      expected += letter;
      await page.waitForTimeout(90);
      // the limit of a field's length is the field's own
      const most = Number((await input.getAttribute('maxlength')) ?? Infinity);
      expect(await input.inputValue(), name).toBe(expected.slice(0, most));
    }
    // left, so that it is saved; the next is typed into while that goes on
    await input.blur();
  }
  return typed;
}

test('lists', async ({ browser }) => {
  const page = await slowPage(browser, 1);
  await page.goto('/design/lists/purposes');
  const main = page.getByRole('main');
  await expect(main.locator(TEXTS).first()).toBeVisible();
  expect(await typeEverywhere(page, main, 14)).toBeGreaterThan(8);
  const typed = await main.locator(TEXTS).evaluateAll((all) => all.map((e) => (e as HTMLInputElement).value));
  await expect(page.locator('#bar-end [role="status"]').first()).toHaveText('saved');
  await page.reload();
  await expect(main.locator(TEXTS).first()).toHaveValue(typed[0] ?? '');
  expect(await main.locator(TEXTS).evaluateAll((all) => all.map((e) => (e as HTMLInputElement).value))).toEqual(typed);
});

test('feeds', async ({ browser }) => {
  const page = await slowPage(browser, 1);
  await page.goto('/design/feeds/weather');
  const main = page.getByRole('main');
  const label = main.getByLabel('Label of the feed');
  await expect(label).toBeVisible();
  // typed, left, and typed on while it is being saved
  await label.fill('Weather of the');
  await label.blur();
  await page.waitForTimeout(600);
  await label.focus();
  await page.keyboard.press('End');
  for (const letter of ' station') {
    await page.keyboard.type(letter);
    await page.waitForTimeout(100);
  }
  await expect(label).toHaveValue('Weather of the station');
  await label.blur();
  await expect(page.locator('#bar-end [role="status"]').first()).toHaveText('saved');
  await page.reload();
  await expect(label).toHaveValue('Weather of the station');
  expect(await typeEverywhere(page, main, 14)).toBeGreaterThan(8);
});

test('tables: label, columns, subsets, cells', async ({ browser }) => {
  const page = await slowPage(browser, 1);
  await page.goto('/design/tables/regions');
  await expect(cell(page, 0, 1)).toBeVisible();
  expect(await typeEverywhere(page, page.locator('main header, main').first(), 1)).toBe(1);
  await page.getByRole('button', { name: 'Columns' }).click();
  const columns = page.getByRole('dialog');
  // a dialog takes the focus once, when it has opened
  await expect(columns.locator(':focus')).toHaveCount(1);
  expect(await typeEverywhere(page, columns, 3)).toBeGreaterThan(1);
  await page.keyboard.press('Escape');
  // one cell after the other, faster than the server
  await cell(page, 0, 1).click();
  for (const text of ['one', 'two', 'three']) {
    await page.keyboard.type(text);
    await page.keyboard.press('Enter');
  }
  await expect(cell(page, 2, 1)).toHaveText('three');
  await expect(cell(page, 1, 1)).toHaveText('two');
  await expect(cell(page, 0, 1)).toHaveText('one');
});

test('a form being built: its wiring, its formula, the form that is tried', async ({ browser }) => {
  const page = await slowPage(browser, 1);
  await page.goto('/design/forms/lot_intake');
  for (const key of ['species', 'quantity_g']) {
    await page.locator(`[data-row="${key}"] .name`).click();
    const wiring = wiringOf(page);
    await expect(wiring).toBeVisible();
    expect(await typeEverywhere(page, wiring, 6), key).toBeGreaterThan(0);
  }
  // the formula editor
  await pressField(page, 'seeds');
  await formulaWord(wiringOf(page)).first().click();
  const editor = formulaText(page);
  await editor.click();
  await page.keyboard.press('Control+End');
  let expected = (await editor.textContent()) ?? '';
  for (const letter of ' + 12 + tsw_g') {
    await page.keyboard.type(letter);
    expected += letter;
    await page.waitForTimeout(120);
  }
  await page.keyboard.press('Escape');
  expect((await editor.textContent())?.trim()).toBe(expected.trim());
  // the form that is tried meanwhile
  const tried = control(page, 'quantity_g');
  await tried.click();
  await page.keyboard.type('12.5');
  await page.waitForTimeout(2 * SLOW);
  await expect(tried).toHaveValue('12.5');
});

test('an entry: answers that come late change nothing that is being typed', async ({ browser }) => {
  const page = await slowPage(browser, 2);
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeVisible();
  const species = control(page, 'species');
  await species.click();
  await page.keyboard.type('Quercus robur');
  await expect(page.getByRole('option', { name: /^Quercus robur/ }).first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(species).toHaveValue(/Quercus robur/);
  for (const [key, text] of [
    ['quantity_g', '12.25'],
    ['code', 'MF-2026-9999'],
    ['tsw_g', '3.125'],
  ] as const) {
    const input = control(page, key);
    await input.click();
    await page.keyboard.press('Control+a');
    for (let i = 0; i < text.length; i++) {
      await page.keyboard.type(text[i] ?? '');
      await page.waitForTimeout(80);
      expect(await input.inputValue(), key).toBe(text.slice(0, i + 1));
    }
  }
  // saving is asked for while the last is typed on: what was typed stays, and is saved or said to be open
  await page.keyboard.press('Control+Enter');
  const remark = control(page, 'tsw_g');
  await remark.focus();
  await page.keyboard.press('End');
  await page.keyboard.type('9');
  await page.waitForTimeout(2 * SLOW);
  await expect(field(page, 'tsw_g')).toContainText('Weight of 1000 seeds');
  expect(['3.1259', '']).toContain(await control(page, 'tsw_g').inputValue());
});

test('what cannot be read is not saved as empty: it stays as typed, and is said at its field', async ({ browser }) => {
  const page = await slowPage(browser, 2);
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeVisible();
  const fill = async (key: string, text: string): Promise<void> => {
    await control(page, key).click();
    await page.keyboard.press('Control+a');
    await page.keyboard.type(text);
    await page.keyboard.press('Tab');
  };
  await choose(page, 'species', 'Quercus robur');
  await choose(page, 'region', 'Tarn Fells');
  await choose(page, 'site', 'Ash Ghyll');
  await fill('quantity_g', '12,5x');
  await fill('collected_on', '31.2.2026');
  let asked = 0;
  page.on('request', (r) => (asked += r.method() === 'POST' && r.url().endsWith('/records') ? 1 : 0));
  await page.keyboard.press('Control+Enter');
  await expect(field(page, 'quantity_g')).toContainText(/number/i);
  await expect(field(page, 'collected_on')).toContainText(/date|day/i);
  await page.waitForTimeout(SLOW);
  expect(asked).toBe(0);
  await expect(page.getByText(/is saved/)).toHaveCount(0);
  await expect(control(page, 'quantity_g')).toHaveValue('12,5x');
  await expect(control(page, 'collected_on')).toHaveValue('31.2.2026');
  // set right, it is saved
  await fill('quantity_g', '12.5');
  await fill('collected_on', '1.2.2026');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText(/is saved/)).toBeVisible();
  expect(asked).toBe(1);
});

test('kept edits are offered to whoever typed them, and to nobody else on the same browser; a lost answer makes no second record', async ({
  browser,
}) => {
  const context = await browser.newContext({ baseURL: server.url });
  const page = await context.newPage();
  const as = (account: number) => page.request.post('/api/session', { data: { demo: account } });
  await as(2);
  await page.goto('/entry/lot_intake/new');
  await control(page, 'quantity_g').click();
  await page.keyboard.type('77');
  await page.keyboard.press('Tab');
  await page.waitForTimeout(600);
  // the next person at the same desk
  await as(3);
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeVisible();
  await page.waitForTimeout(500);
  await expect(page.getByText(/unsaved change/)).toHaveCount(0);
  await expect(control(page, 'quantity_g')).toHaveValue('');
  // and whoever typed it finds it again, also when they typed something else beside it meanwhile
  await as(2);
  await page.goto('/entry/lot_intake/new');
  await expect(page.getByText(/You have 1 unsaved change/)).toBeVisible();
  await control(page, 'tsw_g').click();
  await page.keyboard.type('3');
  await page.keyboard.press('Tab');
  await page.waitForTimeout(600);
  await page.reload();
  await page.getByRole('button', { name: 'discard' }).click();
  await expect(page.getByText(/You have 1 unsaved change/)).toBeVisible();
  await page.getByRole('button', { name: 'Restore' }).click();
  await expect(control(page, 'quantity_g')).toHaveValue(/^77(\.00)?$/);

  // the answer to a save is lost, the page is loaded again, and saved again: one record
  await choose(page, 'species', 'Quercus robur');
  await choose(page, 'region', 'Tarn Fells');
  await choose(page, 'site', 'Ash Ghyll');
  const total = async (): Promise<number> => ((await (await page.request.get('/api/forms/lot_intake/records?limit=1')).json()) as { total: number }).total; // prettier-ignore
  const before = await total();
  await page.route('**/api/forms/lot_intake/records', async (route) => {
    await route.fetch();
    await route.abort();
  });
  await page.keyboard.press('Control+Enter');
  await expect.poll(total).toBe(before + 1);
  // until then it is tried again by itself, and must get through at no time
  await page.reload();
  await page.getByRole('button', { name: 'Restore' }).click();
  await page.unroute('**/api/forms/lot_intake/records');
  await expect(control(page, 'quantity_g')).toHaveValue(/^77(\.00)?$/);
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText(/is saved/)).toBeVisible();
  expect(await total()).toBe(before + 1);
});

test('a row that went away while it stood chosen is said to be no longer offered, and the list is without it', async ({ browser }) => {
  const page = await slowPage(browser, 2);
  await page.goto('/entry/lot_intake/new');
  await expect(control(page, 'family')).toBeVisible();
  await choose(page, 'species', 'Alnus glutinosa');
  await choose(page, 'region', 'Tarn Fells');
  await choose(page, 'site', 'Ash Ghyll');
  await control(page, 'quantity_g').fill('4');
  const maud = await (await browser.newContext({ baseURL: server.url })).newPage();
  await maud.request.post('/api/session', { data: { demo: 1 } });
  const found = (await (await maud.request.get('/api/tables/species/rows?search=Alnus+glutinosa')).json()) as { rows: { row: { id: number }; revision: number }[] }; // prettier-ignore
  const [alder] = found.rows;
  const retired = await maud.request.patch(`/api/tables/species/rows/${alder?.row.id}`, { data: { revision: alder?.revision, values: { active: false } } }); // prettier-ignore
  expect(retired.status()).toBe(200);
  await page.keyboard.press('Control+Enter');
  await expect(field(page, 'species')).toContainText(/no longer offered/);
  await expect(control(page, 'species')).toHaveValue('Alnus glutinosa');
  await control(page, 'species').click();
  await page.keyboard.press('Control+a');
  await page.keyboard.type('Alnus');
  await expect(page.getByRole('option', { name: 'Alnus incana' })).toBeVisible();
  await expect(page.getByRole('option', { name: 'Alnus glutinosa' })).toHaveCount(0);
});

test('who is quicker than the screen stays in the field they went into', async ({ page }) => {
  await signIn(page, 'Ida Fenn');
  // somebody presses into a field in the very moment it is there
  await page.addInitScript(() => {
    new MutationObserver((_, watching) => {
      const input = document.querySelector<HTMLInputElement>('[data-field="tsw_g"] input');
      if (!input) return;
      watching.disconnect();
      input.focus();
    }).observe(document, { childList: true, subtree: true });
  });
  await page.goto('/entry/lot_intake/7');
  await expect(control(page, 'species')).not.toHaveValue('');
  await expect(control(page, 'tsw_g')).toBeFocused();
  await page.keyboard.type('1.25');
  await expect(control(page, 'tsw_g')).toHaveValue('1.25');
});

test('what is typed while the formula editor is still on its way stands in it', async ({ page }) => {
  const built = '.output/public/_nuxt/';
  const editor = readdirSync(built).find((file) => file.endsWith('.js') && readFileSync(built + file, 'utf8').includes('Type a formula'));
  let arrive = (): void => undefined;
  const asked = new Promise<void>((resolve) => (arrive = resolve));
  await page.route(`**/${editor}`, async (route) => {
    await asked;
    await route.continue();
  });
  await signIn(page, 'Maud Alder');
  await page.goto('/design/forms/lot_intake?field=seeds');
  const word = formulaWord(wiringOf(page)).first();
  const before = (await word.textContent())!.trim();
  const begin = async (): Promise<void> => {
    await word.click();
    await expect(word).toBeHidden();
  };
  await begin();
  await page.keyboard.type(' + 33');
  await page.keyboard.press('Backspace');
  await page.keyboard.press('Control+Enter');
  await expect(word, 'applied before it was there').toHaveText(`${before} + 3`);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(word).toHaveText(before);
  await begin();
  await page.keyboard.type(' + 1 - 1');
  arrive();
  await expect(formulaText(page)).toHaveText(`${before} + 1 - 1`);
  await page.keyboard.type(' + 0');
  await page.keyboard.press('Control+Enter');
  await expect(word).toHaveText(`${before} + 1 - 1 + 0`);
  await page.getByRole('button', { name: 'Undo' }).click();
});
