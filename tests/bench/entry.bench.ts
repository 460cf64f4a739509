import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Page, chromium } from '@playwright/test';
import { startServer } from '../e2e/server.ts';

/*
 * Entering the demo's standard lot (27 fields) in a real browser: what each key that leads on makes somebody wait, what a save does,
 * opening a record, and the memory of a screen that stays open for a thousand entries.
 */
const ENTRIES = Number(process.env.BENCH_ENTRIES ?? 1000);

const at = (list: readonly number[], share: number): number => [...list].sort((a, b) => a - b)[Math.floor((list.length - 1) * share)] ?? 0;
const said = (name: string, list: readonly number[]): void =>
  console.log(
    `  ${name.padEnd(62)} median ${at(list, 0.5).toFixed(1).padStart(7)} ms   95th percentile ${at(list, 0.95).toFixed(1).padStart(7)} ms   (${list.length})`,
  );

/** Waits, in the page, until the keys are in another field than `from` and that is painted. */
const leftField = (page: Page, from: string): Promise<unknown> =>
  page.evaluate(
    (key) =>
      new Promise<void>((done, fail) => {
        const until = performance.now() + 15_000;
        const look = (): void => {
          const field = document.activeElement?.closest<HTMLElement>('[data-field]')?.dataset.field;
          if (field !== undefined && field !== key) requestAnimationFrame(() => done());
          else if (performance.now() > until)
            fail(new Error(`The keys stay in ${key}: ${document.querySelector('.p-message')?.textContent ?? ''}`));
          else requestAnimationFrame(look);
        };
        look();
      }),
    from,
  );
const here = (page: Page): Promise<string> =>
  page.evaluate(() => document.activeElement?.closest<HTMLElement>('[data-field]')?.dataset.field ?? '');

interface Spent {
  readonly on: number[];
  readonly save: number[];
  readonly lot: number[];
}
/** One lot by keys; another plant and another quantity each time. */
async function lot(page: Page, nth: number, spent: Spent): Promise<void> {
  const plants = ['robur', 'canina', 'aucuparia', 'acaule', 'fistulosa', 'aquaticus'];
  const paper: Record<string, string> = {
    species: plants[nth % plants.length]!,
    region: 'nor',
    site: 'bit',
    quantity_g: String(1 + ((nth * 7.313) % 900)).slice(0, 7),
  };
  const began = performance.now();
  let waited = 0;
  for (let stops = 0; stops < 20; stops++) {
    const field = await here(page);
    const text = paper[field];
    if (text !== undefined) {
      await page.keyboard.type(text);
      if (field === 'quantity_g') break;
      await page.locator('[role="option"]').first().waitFor();
    }
    const pressed = performance.now();
    await page.keyboard.press('Enter');
    await leftField(page, field);
    waited = performance.now() - pressed;
    spent.on.push(waited);
  }
  const pressed = performance.now();
  await page.keyboard.press('Control+Enter');
  await leftField(page, 'quantity_g');
  spent.save.push(performance.now() - pressed);
  spent.lot.push(performance.now() - began);
}

export default async function run(): Promise<void> {
  const data = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const server = await startServer(data);
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    for (let i = 0; i < 600; i++) {
      const up = await fetch(`${server.url}/api/session`).then((r) => r.ok, () => false); // prettier-ignore
      if (up) break;
      await new Promise((resolve) => setTimeout(resolve, 300));
    }
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await page.goto(`${server.url}/sign-in`);
    await page.getByRole('button', { name: /^Ida/ }).click();
    await page.getByRole('heading', { name: /^Good day/ }).waitFor();
    console.log('\nIn Chromium, headless, what goes to and fro between the test and the browser included');

    const opened: number[] = [];
    const records = (await (await page.request.get(`${server.url}/api/forms/lot_intake/records?limit=20`)).json()) as {
      rows: { row: { id: number } }[];
    };
    for (const { row } of records.rows) {
      await page.goto(`${server.url}/entry/lot_intake/${row.id}`);
      await page.locator('[data-field="purity"]').waitFor();
      opened.push(await page.evaluate(() => performance.now()));
    }
    said('opening a record, from navigation to its fields', opened.slice(2));

    await page.goto(`${server.url}/entry/lot_intake/new`);
    await page.locator('[data-field="family"] input').waitFor();
    await leftField(page, '');
    const cdp = await page.context().newCDPSession(page);
    const spent: Spent = { on: [], save: [], lot: [] };
    for (let i = 0; i <= ENTRIES; i++) {
      if ([20, 100, 300, ENTRIES].includes(i)) {
        await cdp.send('HeapProfiler.collectGarbage');
        const { usedSize } = await cdp.send('Runtime.getHeapUsage');
        const { nodes, jsEventListeners } = await cdp.send('Memory.getDOMCounters');
        console.log(
          `  after ${String(i).padStart(5)} entries: ${(usedSize / 1e6).toFixed(1)} MB, ${nodes} nodes, ${jsEventListeners} listeners`,
        );
      }
      if (i < ENTRIES) await lot(page, i, spent);
    }
    said('Enter until the next field is painted', spent.on.slice(50));
    said('save until the next entry is ready', spent.save.slice(5));
    said('a lot, typed without a pause', spent.lot.slice(5));
  } finally {
    await browser.close();
    await server.stop();
    rmSync(data, { recursive: true, force: true });
  }
}
