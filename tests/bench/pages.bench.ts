import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Browser, type BrowserContext, chromium } from '@playwright/test';
import { goal } from './measure.ts';
import { requestWithLines } from '../e2e/helpers.ts';
import { type OwnServer, ready, startServer } from '../e2e/server.ts';

/*
 * Pages in a real browser: cold ones, with nothing kept from before, until their last field stands there; and a seed request with
 * thousands of lines. Beside them the bare page: an empty document of the same server, which is what browser and machine cost.
 */
const LINES = Number(process.env.BENCH_LINES ?? 2000);
const ROUNDS = 7;
/**
 * A window that was opened just now still draws itself, its address bar is a page of its own that takes both processors for a second; who
 * goes to a page has one open. Every other time it is let alone so long, in ms; both are measured, and both have the same to reach.
 */
const SETTLED = 1500;

const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0;
const ms = (n: number): string => `${n.toFixed(0).padStart(6)} ms`;
function said(what: string, list: readonly number[], most: number | null, more = ''): void {
  console.log(`  ${what.padEnd(58)} ${ms(median(list))}   ${more}`);
  if (most !== null) goal({ what, measured: median(list), unit: 'ms', most, beside: more });
}

async function signedIn(browser: Browser, url: string, name: string): Promise<Awaited<ReturnType<BrowserContext['storageState']>>> {
  const context = await browser.newContext({ baseURL: url });
  const page = await context.newPage();
  await page.goto('/sign-in');
  await page.getByRole('button', { name: new RegExp(`^${name}`) }).click();
  await page.getByRole('heading', { name: /^Good day/ }).waitFor();
  const state = await context.storageState();
  await context.close();
  return state;
}

async function cold(browser: Browser, url: string): Promise<void> {
  console.log('\nA cold page, from navigation until it is ready (a browser with nothing kept)');
  for (const [who, path, there, most] of [
    ['Ida Fenn', '/api/session', 'pre', null],
    ['Ida Fenn', '/entry/lot_intake/new', '[data-field="quantity_g"]', 800],
    ['Maud Alder', '/design/forms/lot_intake', '[data-row="quantity_g"]', 1200],
  ] as const) {
    const state = await signedIn(browser, url, who);
    const times: number[] = [];
    const atOnce: number[] = [];
    let requests = 0;
    let bytes = 0;
    let script = 0;
    for (let i = 0; i < 2 * ROUNDS; i++) {
      const context = await browser.newContext({ baseURL: url, viewport: { width: 1280, height: 800 }, storageState: state });
      const page = await context.newPage();
      const wire = await context.newCDPSession(page);
      await wire.send('Network.enable');
      requests = bytes = 0;
      const scripts = new Set<string>();
      script = 0;
      wire.on('Network.responseReceived', (e) => void (e.type === 'Script' && scripts.add(e.requestId)));
      wire.on('Network.loadingFinished', (e) => {
        requests++;
        bytes += e.encodedDataLength;
        if (scripts.has(e.requestId)) script += e.encodedDataLength;
      });
      if (i % 2 === 0) await page.waitForTimeout(SETTLED);
      const began = performance.now();
      await page.goto(path, { waitUntil: 'commit' });
      await page.locator(there).first().waitFor({ state: 'attached' });
      (i % 2 === 0 ? times : atOnce).push(performance.now() - began);
      await context.close();
    }
    said(`a cold page: ${path}`, times, most, `${requests} requests, ${(bytes / 1000).toFixed(0)} kB`);
    said(`the same in a window opened just now: ${path}`, atOnce, most);
    if (most !== null) goal({ what: `requests of ${path}`, measured: requests, unit: 'requests', most: 39 });
    if (path.startsWith('/entry')) goal({ what: `script of ${path}, compressed`, measured: script / 1000, unit: 'kB', most: 300 });
  }
}

async function lines(browser: Browser, url: string): Promise<void> {
  const context = await browser.newContext({ baseURL: url, viewport: { width: 1280, height: 800 }, storageState: await signedIn(browser, url, 'Maud Alder') }); // prettier-ignore
  const page = await context.newPage();
  const id = await requestWithLines(page.request, LINES, (line) => 1 + ((line * 7) % 23));
  console.log(`\nA record with ${LINES.toLocaleString('en')} lines`);
  const opened: number[] = [];
  for (let i = 0; i < 5; i++) {
    await page.goto(`/entry/seed_request/${id}`);
    await page.locator('[data-line] input').first().waitFor();
    opened.push(await page.evaluate(() => performance.now()));
  }
  said(`${LINES.toLocaleString('en')} lines: opened, from navigation to the first live line`, opened, 800);
  await page.waitForTimeout(4000);
  await page.evaluate(
    'window.painted = () => new Promise((done) => requestAnimationFrame(() => { const c = new MessageChannel(); c.port1.onmessage = () => done(performance.now()); c.port2.postMessage(0); }))',
  );
  const edited: number[] = [];
  for (let i = 0; i < 9; i++) {
    const price = page.locator('[data-line]').nth((i * 397) % LINES).locator('[data-field^="packets.price"] input'); // prettier-ignore
    await page.locator('[data-line]').nth((i * 397) % LINES).scrollIntoViewIfNeeded(); // prettier-ignore
    await price.fill((1.37 + i * 0.73).toFixed(2));
    edited.push(
      await page.evaluate(async () => {
        const began = performance.now();
        (document.activeElement as HTMLElement).blur();
        return (await (window as unknown as { painted(): Promise<number> }).painted()) - began;
      }),
    );
  }
  said(`${LINES.toLocaleString('en')} lines: a price entered, another line each time, until painted`, edited, 16);
  const added: number[] = [];
  for (let i = 0; i < 7; i++) {
    const press = page.getByRole('button', { name: '+ line' });
    await press.scrollIntoViewIfNeeded();
    await page.waitForTimeout(300);
    added.push(
      await press.evaluate(async (button) => {
        const began = performance.now();
        (button as HTMLElement).click();
        return (await (window as unknown as { painted(): Promise<number> }).painted()) - began;
      }),
    );
  }
  said(`${LINES.toLocaleString('en')} lines: a line added, until painted`, added, 30);
  await context.close();
}

/** A request with so many lines, pasted from a spreadsheet into a new one as somebody would, and saved. */
async function saved(browser: Browser, url: string): Promise<void> {
  const context = await browser.newContext({ baseURL: url, viewport: { width: 1280, height: 800 }, storageState: await signedIn(browser, url, 'Maud Alder') }); // prettier-ignore
  const page = await context.newPage();
  const field = (key: string) => page.locator(`[data-field="${key}"] :is(input, textarea)`).first();
  const answer = (await (await page.request.get('/api/tables/species/rows?limit=200')).json()) as {
    rows: { row: Record<string, unknown> }[];
  };
  const species = answer.rows.map((r) => r.row).filter((s) => s.active && !s.protected);
  const rows = Array.from({ length: LINES }, (_, i) => `${String(species[i % species.length]!.name)}\t\t${1 + ((i * 7) % 23)}`);
  const [took, pasted]: [number[], number[]] = [[], []];
  for (let round = 0; round < 3; round++) {
    await page.goto('/entry/seed_request/new');
    for (const [key, text] of [['partner', 'Dunholm Primary'], ['detail', 'Genetics'], ['method', 'Post']] as const) {
      await field(key).click();
      await page.keyboard.type(text);
      await page.getByRole('option').first().waitFor();
      await page.keyboard.press('Enter');
    } // prettier-ignore
    await field('address').click();
    await page.getByRole('option').first().click();
    const pasting = performance.now();
    await page.locator('[data-field^="packets.species"] input').first().evaluate((input, text) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', text);
      input.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
    }, rows.map((r, i) => (i === round ? r.replace(/\d+$/, '24') : r)).join('\n')); // prettier-ignore
    await page.locator('[data-line]').nth(LINES - 1).waitFor({ state: 'attached', timeout: 120_000 }); // prettier-ignore
    pasted.push(performance.now() - pasting);
    await page.waitForTimeout(3000);
    // looked for before: among thousands of controls that alone takes a tenth of a second
    const press = (await page.getByRole('button', { name: 'Save', exact: true }).elementHandle())!;
    const began = performance.now();
    await press.evaluate((button) => (button as HTMLElement).click());
    await page.waitForURL(/\/entry\/seed_request$/, { timeout: 120_000 });
    took.push(performance.now() - began);
  }
  said(`${LINES.toLocaleString('en')} lines: pasted, until the last stands there`, pasted, null);
  said(`${LINES.toLocaleString('en')} lines: a new record saved, from the press until the list stands there`, took, 300);
  await context.close();
}

export default async function run(): Promise<void> {
  const data = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const server: OwnServer = await startServer(data, { BRISK_CHECK_ANSWERS: '', BRISK_DEMO_RECORDS: 'few' });
  const browser = await chromium.launch({ executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] }); // prettier-ignore
  try {
    await ready(server);
    const only = process.env.BENCH_ONLY;
    if (!only || only === 'cold') await cold(browser, server.url);
    if (!only || only === 'lines') await lines(browser, server.url);
    if (!only || only === 'saved') await saved(browser, server.url);
  } finally {
    await browser.close();
    await server.stop();
    rmSync(data, { recursive: true, force: true });
  }
}
