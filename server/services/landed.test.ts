import { mkdtempSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gunzipSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { recordOfTold } from '../../core/engine/told.ts';
import { openDatabase } from '../database/connection';
import { accountByEmail, wholeAccount } from '../database/accounts';
import { saveEntry } from './entries';
import { openForEntry } from './opening';
import { countFills } from './evidence';
import { UNWATCHED } from './jobs';
import { listRecords, viewsOf } from './views';
import { formSummaries } from './forms';
import { verifyPassword } from './passwords';
import { savedOnce } from './requests';
import { Workspace } from './workspace';

/* Databases as earlier versions left them: a small one of each landed state, opened, migrated and worked with. */

const FOLDER = fileURLToPath(new URL('../../tests/fixtures/databases', import.meta.url));
const fixtures = readdirSync(FOLDER).filter((f) => f.endsWith('.sqlite.gz'));

async function openFixture(name: string) {
  const file = join(mkdtempSync(join(tmpdir(), 'brisk-acorn-landed-')), 'brisk-acorn.sqlite');
  writeFileSync(file, gunzipSync(readFileSync(join(FOLDER, name))));
  const ws = new Workspace(await openDatabase(file));
  const account = (email: string) => accountByEmail(ws.db, `${email}@marrowfen.example`);
  return { ws, maud: (await account('maud'))!, ida: (await account('ida'))! };
}

describe.each(fixtures)('%s', (name) => {
  const opened = openFixture(name);

  test('its people sign in with the passwords they had', async () => {
    const { ws, ida } = await opened;
    const { passwordHash } = (await wholeAccount(ws.db, ida.id))!;
    expect(await verifyPassword(passwordHash, 'fen-and-marsh')).toBe(true);
    expect(await verifyPassword(passwordHash, 'fen and marsh')).toBe(false);
  });

  test('every form is there, opens new and on its records, and saves', async () => {
    const { ws, maud, ida } = await opened;
    const forms = await formSummaries(ws);
    expect(forms.length).toBeGreaterThanOrEqual(4);
    for (const { key, broken } of forms) {
      expect(broken ?? null, key).toBeNull();
      const entry = await openForEntry(ws, ida, key, null);
      expect(entry.form.key).toBe(key);
      const { rows } = await listRecords(ws, ida, key, { search: '', sort: null, descending: false, offset: 0, limit: 5 });
      for (const { row, revision } of rows) {
        expect((await openForEntry(ws, ida, key, row.id)).record?.revision, key).toBe(revision);
        // saved unchanged, it stays what it was
        const saved = await saveEntry(ws, maud, key, row.id, {
          version: entry.version,
          edits: [],
          revision,
          request: `landed ${name} ${key} ${row.id}`,
        }).catch((e: { status?: number }) => e);
        expect([undefined, 422], JSON.stringify(saved)).toContain((saved as { status?: number }).status);
      }
    }
  });

  test('a request that was answered before is still answered so, and only to whom it was', async () => {
    const { ws } = await opened;
    const rows = (await ws.db('requests').where('form_key', '')) as { key: string; account_id: number; answer: string }[];
    for (const { key, account_id, answer } of rows.slice(0, 5)) {
      const asked = { key, account: account_id, form: 'lot_intake', body: 'anything' };
      expect(await savedOnce(ws.db, asked, async () => 'anew')).toEqual(JSON.parse(answer));
      await expect(savedOnce(ws.db, { ...asked, account: account_id + 1 }, async () => 'anew')).rejects.toMatchObject({ status: 409 });
    }
  });
});

test('there is one of each landed state', () => {
  expect(fixtures).toEqual([
    '0005-lists-values.sqlite.gz',
    '0006-sessions-requests.sqlite.gz',
    '0007-repairs.sqlite.gz',
    '0008-people.sqlite.gz',
    '0009-proving.sqlite.gz',
    '0010-views.sqlite.gz',
    '0011-gave.sqlite.gz',
    '0012-entry.sqlite.gz',
    '0013-changes.sqlite.gz',
    '0014-lines-alike.sqlite.gz',
    '0014-requests-at.sqlite.gz',
  ]);
});

test('a record saved before, sent again by a client that never heard the answer, is not saved twice', async () => {
  const { ws, maud } = await openFixture('0006-sessions-requests.sqlite.gz');
  const sent = {
    version: 1,
    edits: [{ kind: 'set', field: 'task', value: 'Sweep the drying room' }],
    revision: null,
    request: 'fixture-bench-1',
    opened: { parent: null, url: {} },
  } as const;
  const before = await ws.rowCount('bench_tasks');
  expect(await saveEntry(ws, maud, 'bench_task', null, sent)).toMatchObject({ id: 9, revision: 1, version: 1 });
  expect(await ws.rowCount('bench_tasks')).toBe(before);
  const other = { ...sent, edits: [{ kind: 'set', field: 'task', value: 'Air the drying room' }] } as const;
  await expect(saveEntry(ws, maud, 'bench_task', null, other)).rejects.toMatchObject({ status: 409, code: 'requestReused' });
});

test('where the values of lines came from is known, noted line by line as before or once for all that are alike', async () => {
  for (const name of ['0013-changes.sqlite.gz', '0014-requests-at.sqlite.gz', '0014-lines-alike.sqlite.gz']) {
    const { ws, maud } = await openFixture(name);
    const { record, form } = await openForEntry(ws, maud, 'seed_request', 1);
    const { packets } = recordOfTold(record!).lines!;
    expect(packets!.length, name).toBeGreaterThan(2);
    const { lot, packets: many, price } = Object.fromEntries(Object.keys(form.lines.packets!.fields).map((key) => [key, packets!.map((l) => l.origins?.[`packets.${key}`]?.kind)])); // prettier-ignore
    expect([lot, many, price], name).toEqual(['chosen', 'typed', 'prefill'].map((kind) => packets!.map(() => kind)));
  }
});

test('a view that was kept before shows its records', async () => {
  const { ws, maud } = await openFixture('0010-views.sqlite.gz');
  const { views } = await viewsOf(ws, maud, 'lot_intake');
  expect(views.map((v) => [v.label, v.shared])).toEqual([['Waiting for the lab', true]]);
  const page = await listRecords(ws, maud, 'lot_intake', {
    view: views[0]!.view,
    search: '',
    sort: null,
    descending: false,
    offset: 0,
    limit: 50,
    whole: true,
  });
  expect(page.rows.length).toBeGreaterThan(0);
  expect(page.whole!.groups!.reduce((n, g) => n + g.count, 0)).toBe(page.total);
  expect(page.rows.every((r) => r.colour !== null)).toBe(true);
});

test('records saved before it was noted what a fill had given are counted all the same', async () => {
  for (const name of ['0009-proving.sqlite.gz', '0011-gave.sqlite.gz', '0012-entry.sqlite.gz']) {
    const { ws } = await openFixture(name);
    const use = await countFills(ws, 'lot_intake', { since: null, version: null, step: null }, UNWATCHED);
    expect(use.records, name).toBeGreaterThan(40);
    expect(use.fields.find((f) => f.field === 'germination_days')!.counts.kept, name).toBeGreaterThan(20);
  }
});
