import { z } from 'zod';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { parseForm } from '../../core/form/schemas.ts';
import { workspaceSchema } from '../../core/contract/people.ts';
import { feedSchema } from '../../core/model/schemas.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { addColumns, createTable } from '../database/model';
import { allRows, insertRow, updateRow } from '../database/rows';
import type { Role } from '../../core/contract/define.ts';
import { addAccount, hasAccounts } from '../database/accounts';
import { addForm } from '../services/forms';
import { publish } from '../services/publishing';
import { guessImport } from '../services/importGuess';
import { type ImportPlan, runImport } from '../services/imports';
import { openImport } from '../imports/files';
import { createFeed } from '../services/feeds';
import { createList } from '../services/lists';
import { changeSettings } from '../services/settings';
import { saveSubsets } from '../services/structure';
import { rehearsalSchema } from '../../core/form/rehearsalSchemas.ts';
import { addRehearsal } from '../services/rehearsals';
import type { Workspace } from '../services/workspace';
import { type DemoSize, FULL_DEMO, enterRecords } from './enter';

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
  'price_bands',
  'holidays',
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
  'tools',
] as const;

/** Fills an empty workspace with the demo scenario, through the same services people use. Does nothing when there is data. */
export async function loadDemo(
  ws: Workspace,
  folder: string,
  hash: (password: string) => Promise<string>,
  size: DemoSize = FULL_DEMO,
): Promise<void> {
  if (await hasAccounts(ws.db)) return;
  const read = (name: string): Promise<string> => readFile(join(folder, name), 'utf8');
  await loadPeople(ws, await read('people.csv'), hash);
  for (const name of TABLES) {
    const text = await read(`${name}.csv`);
    const file = await openImport(`${name}.csv`, { text });
    const guess = await guessImport(ws, file);
    const repairs = name === 'plots' ? await plotRepairs(ws) : name === 'tools' ? await toolRepairs(ws) : {};
    await runImport(ws, null, { ...guess, repairs }, file);
  }
  await changeSettings(ws, workspaceSchema.parse({ name: 'Marrow Fen Seed Bank', holidays: { table: 'holidays', column: 'day' } }));
  await createList(ws, null, 'Purposes', await read('purposes.txt'));
  for (const feed of JSON.parse(await read('feeds.json')) as object[])
    await createFeed(ws, null, feedSchema.parse({ key: 'new', ...feed }));
  await saveSubsets(ws, 'sites', [{ key: 'in_use', label: 'In use', condition: 'choice.active' }]);
  await saveSubsets(ws, 'species', [
    { key: 'active', label: 'Active', condition: 'choice.active' },
    { key: 'protected', label: 'Protected', condition: 'choice.protected AND choice.active' },
  ]);
  for (const [key, label, form] of [
    ['lots', 'Lots', 'lot_intake'],
    ['germination_tests', 'Germination tests', 'germination_test'],
    ['requests', 'Requests', 'seed_request'],
    ['bench_tasks', 'Bench tasks', 'bench_task'],
  ] as const) {
    await createTable(ws.db, { key, label, shown: null, columns: [] });
    ws.modelChanged();
    if (key === 'requests') {
      const columns = [
        columnSchema.parse({ key: 'request', label: 'Request', type: 'link', target: 'requests' }),
        columnSchema.parse({ key: 'place', label: 'Place', type: 'number', decimals: 0 }),
      ];
      await createTable(ws.db, { key: 'request_lines', label: 'Request lines', shown: null, columns });
      ws.modelChanged();
    }
    await addForm(ws, null, parseForm(JSON.parse(await read(`forms/${form}.json`))));
    await publish(ws, null, form, null);
  }
  for (const rehearsal of z.array(rehearsalSchema).parse(JSON.parse(await read('rehearsals/lot_intake.json'))))
    await addRehearsal(ws, null, 'lot_intake', rehearsal);
  await enterRecords(ws, size);
}

/** What somebody decided about the two sites in the file of plots that match none: one was given up, one misspelled. */
async function plotRepairs(ws: Workspace): Promise<ImportPlan['repairs']> {
  const kelter = (await allRows(ws.db, await ws.modelTable('sites'))).find((s) => s.name === 'Kelter Bog');
  return { site: { 'Old Decoy': { empty: true }, 'Kelter  Bog': { to: kelter?.id ?? 0 } } };
}

/** The three holders that the file of tools misspells. */
async function toolRepairs(ws: Workspace): Promise<ImportPlan['repairs']> {
  const people = await allRows(ws.db, await ws.modelTable('people'));
  const to = (name: string) => ({ to: people.find((p) => p.name === name)?.id ?? 0 });
  return { holder: { 'Ida  Fenn': to('Ida Fenn'), 'Tom Read': to('Tom Reed'), 'Nell-Carr': to('Nell Carr') } };
}

async function loadPeople(ws: Workspace, text: string, hash: (password: string) => Promise<string>): Promise<void> {
  await addColumns(ws.db, await ws.modelTable('people'), [columnSchema.parse({ key: 'manager', label: 'Manager', type: 'person' })]);
  ws.modelChanged();
  const people = await ws.modelTable('people');
  const lines: (readonly string[])[] = [];
  for await (const batch of (await openImport('people.csv', { text })).lines()) lines.push(...batch);
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
    await addAccount(ws.db, { email, passwordHash, roles: [role], person: ids.get(name) as number, demo: true });
  }
  ws.rowsChanged('people');
}
