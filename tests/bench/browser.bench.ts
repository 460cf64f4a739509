import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Page, chromium } from '@playwright/test';

import { goal } from './measure.ts';

/*
 * In a real browser: from the key that chooses a parent until the child's choices are painted, with a million rows below;
 * from the key that enters a number until what follows is painted, in a form of 300 fields; opening that form.
 */
const SHEETS = Number(process.env.BENCH_SHEETS ?? 1_000_000);
const PORT = '3188';
const root = process.cwd();

const at = (list: readonly number[], share: number): number => [...list].sort((a, b) => a - b)[Math.floor((list.length - 1) * share)] ?? 0;
const said = (name: string, list: readonly number[]): void =>
  console.log(
    `  ${name.padEnd(62)} median ${at(list, 0.5).toFixed(1).padStart(7)} ms   95th percentile ${at(list, 0.95).toFixed(1).padStart(7)} ms   (${list.length})`,
  );

/** What the measured steps need in the page. */
const HELPERS = `
window.painted = () => new Promise((done) => requestAnimationFrame(() => { const c = new MessageChannel(); c.port1.onmessage = () => done(performance.now()); c.port2.postMessage(0); }));
window.inputOf = (key) => document.querySelector('[data-field="' + key + '"] :is(input, textarea)');
window.textOf = (key) => inputOf(key)?.value ?? document.querySelector('[data-field="' + key + '"]')?.textContent ?? '';
window.key = (e, k) => e.dispatchEvent(new KeyboardEvent('keydown', { key: k, bubbles: true, cancelable: true }));
window.typed = (e, text) => { e.focus(); e.value = text; e.dispatchEvent(new Event('input', { bubbles: true })); };
window.until = (test) => new Promise((done, fail) => { const began = performance.now(); const look = () => { const found = test(); if (found) done(found); else if (performance.now() - began > 20000) fail(new Error('waited too long for ' + test)); else requestAnimationFrame(look); }; look(); });
window.optionsOf = (key) => { const panel = document.getElementById(inputOf(key)?.getAttribute('aria-controls') ?? ''); return panel ? [...panel.querySelectorAll('[role="option"]')] : []; };
window.choose = async (key, text) => { const e = inputOf(key); typed(e, text); await until(() => optionsOf(key).length === 1 && optionsOf(key)[0].textContent.includes(text)); const from = performance.now(); window.key(e, 'Enter'); return from; };
`;

async function parents(page: Page, address: string): Promise<void> {
  await page.goto(`${address}/entry/sheet_loan/new`);
  await page.locator('[data-field="cabinet"] input').waitFor();
  await page.evaluate(HELPERS);
  const times = await page.evaluate(async () => {
    const w = window as unknown as {
      choose(key: string, text: string): Promise<number>;
      inputOf(key: string): HTMLInputElement;
      key(e: Element, k: string): void;
      typed(e: Element, t: string): void;
      until<T>(test: () => T): Promise<T>;
      optionsOf(key: string): HTMLElement[];
      painted(): Promise<number>;
    };
    await w.choose('cabinet', 'Cabinet C');
    await w.until(() => !w.inputOf('drawer').disabled);
    const drawer = w.inputOf('drawer');
    drawer.focus();
    await w.until(() => {
      if (!w.optionsOf('drawer').length) w.key(drawer, 'ArrowDown');
      return w.optionsOf('drawer').length > 1;
    });
    await w.choose('drawer', w.optionsOf('drawer')[0]!.textContent!.trim());
    const folder = w.inputOf('folder');
    folder.focus();
    await w.until(() => {
      if (!w.optionsOf('folder').length) w.key(folder, 'ArrowDown');
      return w.optionsOf('folder').length > 5;
    });
    // every folder of the drawer once: what was chosen before is known, and would be no question of speed
    const [first, second] = w.optionsOf('folder').map((o) => Number(/\d+/.exec(o.textContent ?? '')?.[0]));
    const spent: number[] = [];
    for (let round = 0; round < 50; round++) {
      const from = await w.choose('folder', String(first! + (second! - first!) * round).padStart(5, '0'));
      const sheet = w.inputOf('sheet');
      const before = w.optionsOf('sheet')[0];
      sheet.focus();
      w.key(sheet, 'ArrowDown');
      await w.until(() => w.optionsOf('sheet').length > 1 && w.optionsOf('sheet')[0] !== before);
      if (round >= 5) spent.push((await w.painted()) - from);
      w.key(sheet, 'Escape');
    }
    return spent;
  });
  said(`parent chosen → child's choices painted, ${SHEETS.toLocaleString('en')} rows`, times);
  goal({
    what: `parent chosen → child painted, ${SHEETS.toLocaleString('en')} rows, 95th percentile`,
    measured: at(times, 0.95),
    unit: 'ms',
    most: 60,
  });
}

/** 100 numbers that are typed and 200 calculations over them. */
function wideForm(key: string, table: string): object {
  const fields: Record<string, object> = {};
  const number = (label: string, formula: string | null) => ({
    label,
    type: 'number',
    column: null,
    value: formula && { kind: 'calculation', formula },
  });
  for (let i = 0; i < 100; i++) {
    fields[`n${i}`] = number(`Number ${i}`, null);
    fields[`d${i}`] = number(`Double ${i}`, `n${i} * 2`);
    fields[`s${i}`] = number(`Sum ${i}`, i ? `COALESCE(s${i - 1}, 0) + COALESCE(d${i}, 0)` : 'COALESCE(d0, 0)');
  }
  const keys = Object.keys(fields);
  const sections = Array.from({ length: 10 }, (_, i) => ({
    id: `s${i}`,
    label: `Section ${i + 1}`,
    fields: keys.slice(i * 30, (i + 1) * 30),
  }));
  return { key, label: 'Wide', table, pages: [{ id: 'p', label: '', sections }], fields };
}

async function wide(page: Page, address: string): Promise<void> {
  const { key } = (await (await page.request.post(`${address}/api/forms`, { data: { label: 'Wide', table: null } })).json()) as {
    key: string;
  };
  const { draft, revision } = (await (await page.request.get(`${address}/api/forms/${key}/draft`)).json()) as {
    draft: { table: string };
    revision: number;
  };
  const put = await page.request.put(`${address}/api/forms/${key}/draft`, { data: { draft: wideForm(key, draft.table), revision } });
  if (!put.ok()) throw new Error(await put.text());
  const published = await page.request.post(`${address}/api/forms/${key}/publish`, { data: { revision: revision + 1 } });
  if (!published.ok()) throw new Error(await published.text());

  const opened: number[] = [];
  for (let i = 0; i < 7; i++) {
    await page.goto(`${address}/entry/${key}/new`);
    await page.locator('[data-field="s99"]').waitFor();
    // since navigation began
    const ready = await page.evaluate(() => performance.now());
    if (i >= 2) opened.push(ready);
  }
  said('opening an entry of 300 fields, from navigation to the last field', opened);
  goal({ what: 'opening a form of 300 fields', measured: at(opened, 0.5), unit: 'ms', most: 500 });
  await page.evaluate(HELPERS);
  for (const [name, field, watched] of [
    ['first number entered → its 101 dependents painted', 'n0', 's99'],
    ['last number entered → its two dependents painted', 'n99', 's99'],
  ] as const) {
    const times: number[] = [];
    for (let round = 1; round <= 45; round++) {
      await page.locator(`[data-field="${field}"] input`).click();
      await page.keyboard.press('Control+a');
      await page.keyboard.type(String(round));
      // timed in the page: from the key until the last dependent is painted; it listens before the key comes
      await page.evaluate((last) => {
        const w = window as unknown as {
          spent?: Promise<number>;
          textOf(key: string): string;
          until<T>(test: () => T): Promise<T>;
          painted(): Promise<number>;
        };
        const before = w.textOf(last);
        const pressed = new Promise<number>((done) =>
          document.addEventListener('keydown', () => done(performance.now()), { capture: true, once: true }),
        );
        w.spent = pressed.then(async (from) => {
          await w.until(() => w.textOf(last) !== before);
          return (await w.painted()) - from;
        });
      }, watched);
      await page.keyboard.press('Enter');
      const spent = await page.evaluate(() => (window as unknown as { spent: Promise<number> }).spent);
      if (round > 5) times.push(spent);
    }
    said(name, times);
  }
}

export default async function run(): Promise<void> {
  const data = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const server = spawn(process.execPath, [`${root}/.output/server/index.mjs`], {
    stdio: 'ignore',
    env: { ...process.env, PORT, NITRO_HOST: '127.0.0.1', BRISK_DATA: data, BRISK_DEMO: `${root}/demo`, BRISK_DEMO_RECORDS: 'few', BRISK_SCALE: String(SHEETS), BRISK_PLAIN_HTTP: 'yes' },
  }); // prettier-ignore
  const address = `http://127.0.0.1:${PORT}`;
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    for (let i = 0; i < 600; i++) {
      const up = await fetch(`${address}/api/session`).then((r) => r.ok, () => false); // prettier-ignore
      if (up) break;
      await new Promise((resolve) => setTimeout(resolve, 300));
    }
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await page.goto(`${address}/sign-in`);
    await page.getByRole('button', { name: /^Maud Alder/ }).click();
    await page.getByRole('heading', { name: /^Good day/ }).waitFor();
    console.log('\nIn Chromium, headless');
    await parents(page, address);
    await wide(page, address);
  } finally {
    await browser.close();
    server.kill();
    rmSync(data, { recursive: true, force: true });
  }
}
