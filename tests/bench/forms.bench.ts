import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ready, signedIn, startServer } from '../e2e/server.ts';
import { goal } from './measure.ts';
import { blocksOf, told } from './mixed.bench.ts';
import { type Client, client } from './saves.bench.ts';

/*
 * A workspace of many forms: copies of the demo's largest, every other one published; then, with another server, one of many tables, people and
 * versions and a long list. What is told of all of them, and what is changed in all of them, once and again: how long it takes, and the longest
 * time in which the server’s main thread did nothing else.
 */
const FORMS = 150;
const [TABLES, VALUES, VERSIONS, ACCOUNTS] = [250, 10_000, 100, 300];

type Measured = (name: string, who: Client, method: string, path: string, body?: unknown) => Promise<number>;

export default async function run(): Promise<void> {
  await served('A workspace of many forms', manyForms);
  await served('A workspace of many tables, people and versions, and a long list', manyElse);
}

/** Starts a server with the demo, and stops it; gives the longest block of what was measured. */
async function served(
  title: string,
  work: (as: (person: number) => Promise<Client>, measured: Measured, longest: () => number) => Promise<void>,
): Promise<void> {
  const data = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const file = join(data, 'blocks.json');
  const args = ['--import', join(process.cwd(), 'tests/bench/blocks.mjs')];
  const server = await startServer(data, { BRISK_CHECK_ANSWERS: 'no', BENCH_BLOCKS: file }, args);
  try {
    await ready(server);
    const clients: Client[] = [];
    const as = async (person: number): Promise<Client> => {
      clients.push(client(server.url, await signedIn(server, person), 4));
      return clients.at(-1)!;
    };
    console.log(`\n${title}`);
    let longest = 0;
    const measured: Measured = async (name, who, method, path, body) => {
      await blocksOf(server.process, file);
      const began = performance.now();
      await told(who, method, path, body);
      const took = performance.now() - began;
      const block = (await blocksOf(server.process, file)).longest;
      longest = Math.max(longest, block);
      console.log(`  ${name.padEnd(46)} ${took.toFixed(0).padStart(6)} ms   the main thread blocked for ${block.toFixed(0).padStart(4)} ms at most`); // prettier-ignore
      return took;
    };
    await work(as, measured, () => longest);
    for (const c of clients) c.close();
  } finally {
    await server.stop();
    rmSync(data, { recursive: true, force: true });
  }
}

const TEXT = { type: 'text', target: null, decimals: null, length: null };
const EXTRA = { key: 'extra', label: 'Extra', ...TEXT };

async function manyForms(as: (person: number) => Promise<Client>, measured: Measured, longest: () => number): Promise<void> {
  const [maud, ida] = [await as(1), await as(2)];
  for (let i = 0; i < FORMS; i++) {
    const { key } = await told(maud, 'POST', '/api/forms/lot_intake/copy', { label: `Intake ${i}` });
    if (i % 2) await told(maud, 'POST', `/api/forms/${String(key)}/publish`, { revision: 1 });
  }
  await measured('the forms, with what is wrong with each', maud, 'GET', '/api/forms');
  const again: number[] = [];
  for (let i = 0; i < 5; i++) again.push(await measured('the same again', maud, 'GET', '/api/forms'));
  await measured('the rules of all', maud, 'GET', '/api/rules');
  await measured('formulas that use a name', maud, 'GET', '/api/formulas?names=lots.species');
  await measured('the first screen of who builds', maud, 'GET', '/api/home');
  await measured('the first screen of who enters', ida, 'GET', '/api/home');
  await measured('a column is added', maud, 'POST', '/api/tables/lots/columns', EXTRA); // prettier-ignore
  await measured('the forms, since', maud, 'GET', '/api/forms');
  await measured('a column gets another name', maud, 'POST', '/api/tables/lots/columns/purity/name', { name: 'pureness' });
  goal({ what: `${FORMS} forms: others wait while all are told or changed, at most`, measured: longest(), unit: 'ms', most: 50 });
  goal({ what: `${FORMS} forms: told again`, measured: again.sort((a, b) => a - b)[2]!, unit: 'ms', most: 100 });
}

async function manyElse(as: (person: number) => Promise<Client>, measured: Measured, longest: () => number): Promise<void> {
  const [maud, peg] = [await as(1), await as(5)];
  const keys: string[] = [];
  for (let i = 0; i < TABLES; i++) {
    const columns: object[] = Array.from({ length: 10 }, (_, k) => ({ key: `c${k}`, label: `Column ${k}`, ...TEXT }));
    if (i) columns.push({ key: 'up', label: 'Up', ...TEXT, type: 'link', target: keys[(i * 7) % i] });
    const { key } = await told(maud, 'POST', '/api/tables', { label: `Ledger ${i}`, shown: 'c0', columns });
    keys.push(String(key));
  }
  const outline = Array.from({ length: VALUES }, (_, i) => `${i % 20 ? '  ' : ''}Value ${i}`).join('\n');
  await told(maud, 'POST', '/api/lists', { label: 'Long list', outline });
  for (let i = 0; i < VERSIONS; i++) {
    const { draft, revision } = (await told(maud, 'GET', '/api/forms/lot_intake/draft')) as { draft: object; revision: number };
    await told(maud, 'PUT', '/api/forms/lot_intake/draft', { draft: { ...draft, label: `Lot intake ${i}` }, revision });
    await told(maud, 'POST', '/api/forms/lot_intake/publish', { revision: revision + 1 });
  }
  for (let i = 0; i < ACCOUNTS; i++)
    await told(peg, 'POST', '/api/accounts', {
      person: null,
      name: `Person ${i}`,
      email: `p${i}@marrowfen.example`,
      team: null,
      roles: ['clerk'],
    });
  const looks: [string, Client, string][] = [
    ['all tables', maud, '/api/tables'],
    ['all lists', maud, '/api/lists'],
    ['all accounts', peg, '/api/accounts'],
    ['the versions of a form', maud, '/api/forms/lot_intake/versions'],
    ['a form to be built', maud, '/api/forms/lot_intake/draft'],
    ['a form to be entered', maud, '/api/forms/lot_intake/entry'],
  ];
  for (const [name, who, path] of [...looks, ...looks]) await measured(name, who, 'GET', path);
  const table = `/api/tables/${keys[20]}`;
  await measured('a column is added', maud, 'POST', `${table}/columns`, EXTRA);
  await measured('it gets another name', maud, 'POST', `${table}/columns/extra/name`, { name: 'other' });
  const number = { type: 'number', target: null, decimals: null, preview: false, mayLose: true };
  await measured('it becomes another type', maud, 'POST', `${table}/columns/other/type`, number);
  await measured('it is deleted', maud, 'DELETE', `${table}/columns/other`);
  await measured('a column that a form names gets another name', maud, 'POST', '/api/tables/lots/columns/purity/name', {
    name: 'pureness',
  });
  await measured('a table gets another name', maud, 'POST', `${table}/name`, { name: 'ledger_of_old' });
  goal({
    what: `${TABLES} tables, ${VALUES} values, ${VERSIONS} versions: others wait at most`,
    measured: longest(),
    unit: 'ms',
    most: 50,
  });
}
