// npm run screenshots: makes docs/screenshots/ from the demo data, on a server and a database of its own.
import { spawn } from 'node:child_process';
import { mkdtempSync, mkdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium } from '@playwright/test';
import { buildIfNeeded, installIfNeeded } from './build.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
installIfNeeded(root);
buildIfNeeded(root);
const data = mkdtempSync(join(tmpdir(), 'brisk-acorn-shots-'));
const port = '3177';
const server = spawn(process.execPath, [`${root}.output/server/index.mjs`], {
  stdio: 'ignore',
  env: { ...process.env, PORT: port, NITRO_HOST: '127.0.0.1', BRISK_DATA: data, BRISK_DEMO: `${root}demo`, BRISK_PLAIN_HTTP: 'yes' },
}); // prettier-ignore
const address = `http://127.0.0.1:${port}`;
for (let i = 0; i < 600; i++) {
  if (await fetch(`${address}/api/session`).then((r) => r.ok, () => false)) break; // prettier-ignore
  await new Promise((resolve) => setTimeout(resolve, 200));
}
const folder = `${root}docs/screenshots`;
mkdirSync(folder, { recursive: true });
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
const as = async (name, viewport = { width: 1280, height: 800 }, colorScheme = 'light') => {
  const page = await (await browser.newContext({ viewport, colorScheme })).newPage();
  await page.goto(`${address}/sign-in`);
  if (!name) return page;
  await page.getByRole('button', { name: new RegExp(`^${name}`) }).click();
  await page.getByRole('heading', { name: /^Good day/ }).waitFor();
  return page;
};
const shot = async (page, name) => {
  await page.waitForTimeout(500);
  await page.screenshot({ path: `${folder}/${name}.png` });
  console.log(`docs/screenshots/${name}.png`);
};
const control = (page, key) => page.locator(`[data-field="${key}"] :is(input, textarea)`).first();
const choose = async (page, key, text) => {
  await control(page, key).click();
  await page.keyboard.type(text);
  await page.waitForTimeout(150);
  await page.keyboard.press('Enter');
  await page.waitForTimeout(150);
};

let page = await as('Maud Alder');
await shot(page, 'home');
await page.goto(`${address}/design/tables/species`);
await shot(page, 'table');
await page.goto(`${address}/design/tables/import`);
await page.getByLabel('File to import').setInputFiles(`${root}demo/tools.csv`);
await page.getByText('still open').waitFor();
await shot(page, 'import');
await page.goto(`${address}/design/forms/lot_intake`);
await choose(page, 'species', 'robur');
await choose(page, 'region', 'north');
await control(page, 'quantity_g').fill('412.5');
await control(page, 'quantity_g').blur();
await page.locator('[data-row="species"] .name').click();
await page.locator('.live').evaluate((e) => (e.scrollTop = 0));
await shot(page, 'form-design');
await page.locator('[data-row="seeds"] .name').click();
await page.getByRole('button', { name: /Seeds, estimated: formula/ }).click();
await page.getByRole('button', { name: 'Fields and names' }).click();
await page.waitForTimeout(300);
await shot(page, 'formula-editor');
await page.getByRole('button', { name: 'Cancel' }).click();
await page.goto(`${address}/design/forms/lot_intake/cascades`);
await page.getByRole('tab', { name: /Region/ }).click();
await shot(page, 'cascades');
await page.goto(`${address}/design/forms/lot_intake/rules?rule=protected`);
await page.getByText('Just now').or(page.getByText('show Permit')).first().waitFor();
await shot(page, 'rules');
await page.goto(`${address}/design/forms/lot_intake/steps?move=release`);
await page.getByRole('region', { name: 'Move Release' }).waitFor();
await shot(page, 'steps');
await page.goto(`${address}/design/forms/lot_intake/backfill`);
await page.getByLabel(/^Status/).check();
await page.getByRole('button', { name: 'Preview' }).click();
await page.getByRole('region', { name: 'What it does' }).getByRole('row').nth(2).waitFor();
await shot(page, 'backfill');
// a draft that changes a prefill, narrows a list and asks for more
await page.evaluate(async () => {
  const { draft, revision } = await (await fetch('/api/forms/lot_intake/draft')).json();
  draft.fields.storage_c.value.formula = 'IF(species.protected, species.storage_c - 2, species.storage_c)';
  draft.fields.site.source.where = 'choice.region = region AND choice.active AND choice.name <> "Far Dunes"';
  draft.fields.quantity_g.checks.push({ when: 'quantity_g > 600', message: 'More than a box holds.', severity: 'error' });
  draft.fields.germination_days.required = 'storage_c < 0';
  const headers = { 'content-type': 'application/json' };
  await fetch('/api/forms/lot_intake/draft', { method: 'PUT', headers, body: JSON.stringify({ draft, revision }) });
});
await page.goto(`${address}/design/forms/lot_intake/publish`);
await page.getByText(/records looked through/).waitFor();
await page.getByRole('list', { name: 'Rehearsals' }).getByLabel('as expected').first().waitFor();
await page.getByRole('button', { name: /no longer offered/ }).click();
await shot(page, 'publish');
await page.goto(`${address}/design/lists/purposes`);
await shot(page, 'list');
await page.goto(`${address}/design/feeds/weather`);
await page
  .getByRole('button', { name: /^Ask|^Try/ })
  .first()
  .click();
await page.waitForTimeout(800);
await shot(page, 'feed');
await page.goto(`${address}/design/forms/lot_intake/records-say?field=storage_c`);
await page.getByText('keys each').waitFor();
await page.getByRole('button', { name: 'Never' }).first().waitFor();
await shot(page, 'records-say');
page = await as('Peg Sluice');
await page.goto(`${address}/admin`);
await page.getByRole('row', { name: /Ida Fenn/ }).waitFor();
await shot(page, 'people');
page = await as('Ida Fenn');
await page.goto(`${address}/entry/lot_intake/new`);
await choose(page, 'species', 'robur');
await choose(page, 'region', 'north');
await control(page, 'site').click();
await shot(page, 'entry');
await page.keyboard.press('Escape');
await page.keyboard.press('Alt+w');
await shot(page, 'why');
const view = {
  where: 'choice.status IN ("registered", "in quarantine") AND choice.collected_on >= TODAY() - 200',
  columns: ['code', 'species', 'site', 'collected_on', 'quantity_g', 'collector'],
  group: { column: 'status', by: 'value' },
  sort: [{ column: 'collected_on', descending: false }],
  sums: [{ column: 'quantity_g', of: 'sum' }],
  colours: [
    { where: 'choice.collected_on < TODAY() - 100', colour: 'brick', sign: '▲', word: 'over 100 days' },
    { where: 'choice.collected_on < TODAY() - 30', colour: 'ochre', sign: '◆', word: 'over 30 days' },
    { where: 'TRUE', colour: 'moss', sign: '●', word: 'lately' },
  ],
};
const shown = encodeURIComponent(JSON.stringify(view));
await page.goto(`${address}/entry/lot_intake?with=${shown}`);
await page.getByRole('button', { name: 'in 3 colours' }).click();
await shot(page, 'records');
await page.goto(`${address}/entry/lot_intake?as=calendar&with=${shown}`);
await page.locator('[data-record]').first().waitFor();
await shot(page, 'calendar');
await page.goto(`${address}/entry/seed_request/new`);
await choose(page, 'partner', 'Dunholm Primary');
await choose(page, 'detail', 'Genetics');
await choose(page, 'packets.species#-1', 'Rosa canina');
await control(page, 'packets.packets#-1').fill('3');
await control(page, 'packets.packets#-1').press('Tab');
await page.getByRole('button', { name: '+ line' }).click();
await page.waitForTimeout(200);
await choose(page, 'packets.species#-2', 'Quercus robur');
await page.locator('[data-field="subtotal"]').scrollIntoViewIfNeeded();
await shot(page, 'lines');
await browser.close();
server.kill();
rmSync(data, { recursive: true, force: true });
