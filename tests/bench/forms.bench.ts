import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ready, signedIn, startServer } from '../e2e/server.ts';
import { goal } from './measure.ts';
import { blocksOf, told } from './mixed.bench.ts';
import { type Client, client } from './saves.bench.ts';

/*
 * A workspace of many forms: copies of the demo's largest, every other one published. What is told of all of them, and what is changed in all of
 * them, once and again: how long it takes, and the longest time in which the server’s main thread did nothing else.
 */
const FORMS = 150;

export default async function run(): Promise<void> {
  const data = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const file = join(data, 'blocks.json');
  const args = ['--import', join(process.cwd(), 'tests/bench/blocks.mjs')];
  const server = await startServer(data, { BRISK_CHECK_ANSWERS: 'no', BENCH_BLOCKS: file }, args);
  try {
    await ready(server);
    const maud = client(server.url, await signedIn(server, 1), 4);
    const ida = client(server.url, await signedIn(server, 2), 4);
    console.log(`\nA workspace of ${FORMS} forms more`);
    for (let i = 0; i < FORMS; i++) {
      const { key } = await told(maud, 'POST', '/api/forms/lot_intake/copy', { label: `Intake ${i}` });
      if (i % 2) await told(maud, 'POST', `/api/forms/${String(key)}/publish`, { revision: 1 });
    }
    let longest = 0;
    const measured = async (name: string, who: Client, method: string, path: string, body?: unknown): Promise<number> => {
      await blocksOf(server.process, file);
      const began = performance.now();
      await told(who, method, path, body);
      const took = performance.now() - began;
      const block = (await blocksOf(server.process, file)).longest;
      longest = Math.max(longest, block);
      console.log(`  ${name.padEnd(46)} ${took.toFixed(0).padStart(6)} ms   the main thread blocked for ${block.toFixed(0).padStart(4)} ms at most`); // prettier-ignore
      return took;
    };
    await measured('the forms, with what is wrong with each', maud, 'GET', '/api/forms');
    const again: number[] = [];
    for (let i = 0; i < 5; i++) again.push(await measured('the same again', maud, 'GET', '/api/forms'));
    await measured('the rules of all', maud, 'GET', '/api/rules');
    await measured('formulas that use a name', maud, 'GET', '/api/formulas?names=lots.species');
    await measured('the first screen of who builds', maud, 'GET', '/api/home');
    await measured('the first screen of who enters', ida, 'GET', '/api/home');
    await measured('a column is added', maud, 'POST', '/api/tables/lots/columns', { key: 'extra', label: 'Extra', type: 'text', target: null, decimals: null, length: null }); // prettier-ignore
    await measured('the forms, since', maud, 'GET', '/api/forms');
    await measured('a column gets another name', maud, 'POST', '/api/tables/lots/columns/purity/name', { name: 'pureness' });
    goal({ what: `${FORMS} forms: others wait while all are told or changed, at most`, measured: longest, unit: 'ms', most: 50 });
    goal({ what: `${FORMS} forms: told again`, measured: again.sort((a, b) => a - b)[2]!, unit: 'ms', most: 100 });
    for (const c of [maud, ida]) c.close();
  } finally {
    await server.stop();
    rmSync(data, { recursive: true, force: true });
  }
}
