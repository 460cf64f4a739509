import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Edit } from '../../core/engine/state.ts';
import { parseForm } from '../../core/form/definition.ts';
import { columnSchema } from '../../core/form/tables.ts';
import { addColumns, createTable } from '../database/model';
import { allRows, insertRow, updateRow } from '../database/rows';
import { type Account, type Role, accountByEmail, addAccount } from '../services/accounts';
import { saveEntry } from '../services/entries';
import { addForm, publish } from '../services/forms';
import { type ImportPlan, guessImport, parseCsv, runImport } from '../services/imports';
import { createList } from '../services/lists';
import { Workspace, type Clock } from '../services/workspace';

export const DEMO_PASSWORD = 'fen-and-marsh';
const ACCOUNTS: readonly (readonly [email: string, role: Role])[] = [
  ['maud@marrowfen.example', 'designer'],
  ['ida@marrowfen.example', 'clerk'],
  ['tom@marrowfen.example', 'clerk'],
  ['nell@marrowfen.example', 'reviewer'],
  ['peg@marrowfen.example', 'administrator'],
];
/** Parents first, so that links find their rows. */
const TABLES = [
  'families',
  'genera',
  'species',
  'regions',
  'sites',
  'plots',
  'stores',
  'shelves',
  'boxes',
  'partners',
  'partner_addresses',
] as const;

/** Fills an empty workspace with the demo scenario, through the same services people use. Does nothing when there is data. */
export async function loadDemo(ws: Workspace, folder: string, hash: (password: string) => Promise<string>): Promise<void> {
  if ((await ws.db('accounts').first()) !== undefined) return;
  const read = (name: string): Promise<string> => readFile(join(folder, name), 'utf8');
  await loadPeople(ws, await read('people.csv'), hash);
  for (const name of TABLES) {
    const text = await read(`${name}.csv`);
    const guess = await guessImport(ws, `${name}.csv`, text);
    const repairs = name === 'plots' ? await plotRepairs(ws) : {};
    await runImport(ws, null, { ...guess, repairs }, text);
  }
  await createList(ws, null, 'Purposes', await read('purposes.txt'));
  for (const [key, label, form] of [
    ['lots', 'Lots', 'lot_intake'],
    ['requests', 'Requests', 'seed_request'],
  ] as const) {
    // prettier-ignore
    await createTable(ws.db, { key, label, shown: null, columns: [] });
    ws.modelChanged();
    await addForm(ws, null, parseForm(JSON.parse(await read(`forms/${form}.json`))));
    await publish(ws, null, form, null);
  }
  await enterLots(ws);
}

/** What somebody decided about the two sites in the file of plots that match none: one was given up, one misspelled. */
async function plotRepairs(ws: Workspace): Promise<ImportPlan['repairs']> {
  const kelter = (await allRows(ws.db, await ws.modelTable('sites'))).find((s) => s.name === 'Kelter Bog');
  return { site: { 'Old Decoy': { empty: true }, 'Kelter  Bog': { to: kelter?.id ?? 0 } } };
}

async function loadPeople(ws: Workspace, text: string, hash: (password: string) => Promise<string>): Promise<void> {
  await addColumns(ws.db, await ws.modelTable('people'), [columnSchema.parse({ key: 'manager', label: 'Manager', type: 'person' })]);
  ws.modelChanged();
  const people = await ws.modelTable('people');
  const { lines } = parseCsv(text);
  const stamp = { at: ws.clock.now(), account: null, form: null, formVersion: null };
  const ids = new Map<string, number>();
  for (const [name = '', email = '', team = '', manager = ''] of lines) {
    ids.set(name, await insertRow(ws.db, people, { name, email, team, manager: ids.get(manager) ?? null }, stamp));
  }
  // managers further down the list
  for (const [name = '', , , manager = ''] of lines) {
    const id = ids.get(name) as number;
    await updateRow(ws.db, people, id, 1, { manager: ids.get(manager) ?? null }, stamp);
  }
  const passwordHash = await hash(DEMO_PASSWORD);
  for (const [email, role] of ACCOUNTS) {
    const name = lines.find((l) => l[1] === email)?.[0] ?? '';
    await addAccount(ws.db, { email, passwordHash, role, person: ids.get(name) as number, demo: true });
  }
  ws.rowsChanged('people');
}

/** About fifty lots of the months before, entered through the form by its clerks. */
async function enterLots(ws: Workspace): Promise<void> {
  const species = (await allRows(ws.db, await ws.modelTable('species'))).filter((s) => s.active === true);
  const sites = (await allRows(ws.db, await ws.modelTable('sites'))).filter((s) => s.active === true);
  const clerks = (await Promise.all(['ida@marrowfen.example', 'tom@marrowfen.example'].map((e) => accountByEmail(ws.db, e)))) as Account[];
  const today = ws.clock.now();
  const random = seeded(7);
  const purities = ['clean', 'clean', 'chaff', 'mixed'];
  for (let i = 0; i < 50; i++) {
    const daysAgo = 300 - i * 6;
    const day = new Date(Date.parse(`${today.slice(0, 10)}T00:00:00Z`) - daysAgo * 86_400_000).toISOString().slice(0, 10);
    const clock: Clock = { now: () => `${day}T10:${String(10 + (i % 50)).padStart(2, '0')}:00` };
    const at = new Workspace(ws.db, clock);
    const site = sites[Math.floor(random() * sites.length)];
    const plant = species[Math.floor(random() * species.length)];
    const purity = purities[Math.floor(random() * purities.length)] as string;
    const edits: Edit[] = [
      { kind: 'set', field: 'species', value: plant?.id ?? null },
      { kind: 'set', field: 'region', value: site?.region ?? null },
      { kind: 'set', field: 'site', value: site?.id ?? null },
      { kind: 'set', field: 'quantity_g', value: Math.round(random() * 60000) / 100 + 0.5 },
      { kind: 'set', field: 'purity', value: purity },
    ];
    if (random() < 0.8) edits.push({ kind: 'set', field: 'tsw_g', value: Math.round(random() * 4000) / 1000 + 0.05 });
    if (purity === 'mixed') edits.push({ kind: 'set', field: 'remark', value: 'sieve again' });
    await saveEntry(at, clerks[i % 2] as Account, 'lot_intake', null, { version: 1, edits, revision: null, request: `demo lot ${i}` });
  }
  await retireUsed(ws);
  ws.rowsChanged('lots');
}

/** Planted: a species that some of the lots have is retired afterwards. */
async function retireUsed(ws: Workspace): Promise<void> {
  const species = await ws.modelTable('species');
  const first = (await ws.db('data_lots').orderBy('id').first()) as { species: number };
  const stamp = { at: ws.clock.now(), account: null, form: null, formVersion: null };
  await updateRow(ws.db, species, first.species, 1, { active: false }, stamp);
}

function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
}
