import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';

/*
 * From the request that publishes a form until an open entry of somebody else says so, on another screen: the demo's form of lots, another
 * formula published each time. Beside it, how long the publishing itself takes.
 */
const PORT = '3189';
const root = process.cwd();
const at = (ms: readonly number[], share: number): number => [...ms].sort((a, b) => a - b)[Math.floor((ms.length - 1) * share)] ?? 0;
const said = (name: string, ms: readonly number[]): void =>
  console.log(
    `  ${name.padEnd(52)} median ${at(ms, 0.5).toFixed(0).padStart(5)} ms   95 % ${at(ms, 0.95).toFixed(0).padStart(5)} ms   (${ms.length})`,
  );

export default async function run(): Promise<void> {
  const data = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const server = spawn(process.execPath, [`${root}/.output/server/index.mjs`], {
    stdio: 'ignore',
    env: { ...process.env, PORT, NITRO_HOST: '127.0.0.1', BRISK_DATA: data, BRISK_DEMO: `${root}/demo`, BRISK_DEMO_RECORDS: 'few', BRISK_PLAIN_HTTP: 'yes' },
  }); // prettier-ignore
  const address = `http://127.0.0.1:${PORT}`;
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    for (let i = 0; i < 600; i++) {
      if (await fetch(`${address}/api/session`).then((r) => r.ok, () => false)) break; // prettier-ignore
      await new Promise((resolve) => setTimeout(resolve, 300));
    }
    const page = await (await browser.newContext()).newPage();
    await page.goto(`${address}/sign-in`);
    await page.getByRole('button', { name: /^Ida Fenn/ }).click();
    await page.getByRole('heading', { name: /^Good day/ }).waitFor();
    const { request } = await browser.newContext();
    await request.post(`${address}/api/session`, { data: { email: 'maud@marrowfen.example', password: 'fen-and-marsh' } });
    await page.goto(`${address}/entry/lot_intake/new`);
    await page.getByRole('textbox').first().waitFor();
    const noticed: number[] = [];
    const published: number[] = [];
    for (let round = 0; round < 25; round++) {
      const { draft, revision } = (await (await request.get(`${address}/api/forms/lot_intake/draft`)).json()) as {
        draft: { fields: Record<string, { value: { formula: string } }> };
        revision: number;
      };
      draft.fields.germination_days!.value.formula = `species.germination_days + ${round}.${(round * 7919) % 1000}`;
      await request.put(`${address}/api/forms/lot_intake/draft`, { data: { draft, revision } });
      const newest = page.evaluate(
        (version) =>
          new Promise<number>((done) => {
            const look = (): void => {
              if (document.body.innerText.includes(`Version ${version} of this form was published`)) done(Date.now());
              else requestAnimationFrame(look);
            };
            look();
          }),
        round + 2,
      );
      const began = Date.now();
      const answer = await request.post(`${address}/api/forms/lot_intake/publish`, { data: { revision: revision + 1 } });
      if (!answer.ok()) throw new Error(await answer.text());
      const ended = Date.now();
      const seen = await newest;
      if (round < 5) continue;
      noticed.push(seen - began);
      published.push(ended - began);
    }
    console.log('\nPublishing the form of lots');
    said('the request, until it is answered', published);
    said('until another person’s open entry says so', noticed);
  } finally {
    await browser.close();
    server.kill();
    rmSync(data, { recursive: true, force: true });
  }
}
