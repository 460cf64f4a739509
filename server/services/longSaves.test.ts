import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Edit } from '../../core/engine/state.ts';
import type { Row } from '../../core/values/types.ts';
import { type Account, accountByEmail } from '../database/accounts';
import { closeDatabase, openDatabase } from '../database/connection';
import { historyOf } from '../database/history';
import { allRows } from '../database/rows';
import { nextNumber } from '../database/series';
import { FeedFailure } from '../feeds/request';
import { FIXED, NOW, demoFile, refusal } from '../testing/workspace';
import { threadsOf } from '../testing/threads';
import { type Saved, saveEntry } from './entries';
import { storedRecord } from './opening';
import { publishedForm } from './forms';
import { type Played, WITH_NOTHING, replay } from './judging';
import { workedOut } from './longSaves';
import { Pace } from './pace';
import type { Outside } from './wants';
import { type WorkedOut, outOf } from './workedOut';
import { Workspace } from './workspace';

/* Saves with very many lines: worked out in a thread they come to what they come to here, and are written so. */

let ws: Workspace;
let ida: Account;
let lots: readonly Row[];
let address: Row;
let intake: Edit[];
beforeAll(async () => {
  const file = await demoFile();
  const files = join(tmpdir(), 'brisk-acorn-files');
  ws = new Workspace(await openDatabase(file), FIXED, files, await threadsOf(file, files));
  ida = (await accountByEmail(ws.db, 'ida@marrowfen.example')) as Account;
  const rows = async (table: string): Promise<readonly Row[]> => allRows(ws.db, await ws.modelTable(table));
  const species = (await rows('species')).filter((s) => s.active && !s.protected);
  const active = new Set(species.map((s) => s.id));
  lots = (await rows('lots')).filter((l) => l.status === 'released' && Number(l.viability) >= 60 && active.has(Number(l.species)));
  address = (await rows('partner_addresses'))[0] as Row;
  const site = (await rows('sites')).find((s) => s.active) as Row;
  intake = [set('species', species[0]?.id), set('region', site.region), set('site', site.id), set('quantity_g', 5)];
}, 60_000);
afterAll(async () => {
  await ws.work.close();
  await closeDatabase(ws.db);
});

const set = (field: string, value: unknown, line?: number): Edit => ({ kind: 'set', field, value: value as never, ...(line === undefined ? {} : { line }) }); // prettier-ignore
const line = (n: number, { lot = n, packets = 1 + (n % 4), price = Number((2 + ((n * 7.313) % 9)).toFixed(2)) }: { lot?: number; packets?: number; price?: number } = {}): Edit[] => {
  const taken = lots[lot % lots.length] as Row;
  return [
    ...(n > 1 ? [{ kind: 'addLine', field: 'packets', line: -n } as const] : []),
    set('packets.species', taken.species, -n), set('packets.lot', taken.id, -n), set('packets.packets', packets, -n), set('packets.price', price, -n),
  ];
}; // prettier-ignore
const request = (lines: number, more: readonly Edit[] = []): Edit[] => [
  set('partner', address.partner),
  set('address', address.id),
  set('detail', 'germination'),
  set('method', 'post'),
  ...Array.from({ length: lines }, (_, i) => line(i + 1)).flat(),
  ...more,
];

let saves = 0;
const save = (form: string, edits: readonly Edit[], before: Pick<Saved, 'id' | 'revision'> | null = null): Promise<Saved> =>
  saveEntry(ws, ida, form, before?.id ?? null, { version: 1, edits, revision: before?.revision ?? null, request: `long ${++saves}` });

/** What the same comes to where it is saved and here, and how often a thread was asked for it. */
async function both(form: string, edits: readonly Edit[], id: number | null = null, outside: Partial<Outside> = {}): Promise<{ aside: WorkedOut; here: WorkedOut; runs: number }> {
  const { plan, version } = await publishedForm(ws, form);
  const played: Played = { record: id === null ? null : (await storedRecord(ws, plan, id, ida)).record, edits, opened: WITH_NOTHING, now: NOW, outside };
  const published = { form, plan, version, typedOn: version };
  const { run } = ws.work;
  let runs = 0;
  ws.work.run = ((...asked: Parameters<typeof run>) => {
    if (asked[0] === 'save') runs++;
    return run.apply(ws.work, asked);
  }) as typeof run;
  try {
    const aside = await workedOut(ws, ida, published, played);
    return { aside, here: await new Pace().through(outOf(await replay(ws, ida, published, played))), runs };
  } finally {
    ws.work.run = run;
  }
} // prettier-ignore

describe('a save with very many lines', () => {
  test('comes in a thread to what it comes to here, new or changed', async () => {
    const saved = await save('seed_request', request(90));
    const ids = (saved.lines.packets ?? []).map((l) => l.id);
    expect(ids).toHaveLength(90);
    const change = fc.record({ at: fc.nat(), packets: fc.integer({ min: 1, max: 4 }), what: fc.constantFrom('change', 'remove', 'move') });
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 75, max: 130 }), fc.array(change, { maxLength: 12 }), async (lines, changes) => {
        const fresh = await both('seed_request', request(lines));
        expect(fresh.aside).toEqual(fresh.here);
        expect([fresh.runs, fresh.aside.lines.packets?.length]).toEqual([1, lines]);
        const there = [...ids];
        const edits = changes.flatMap(({ at, packets, what }): Edit[] => {
          const id = there[at % there.length] as number;
          if (what === 'change') return [set('packets.packets', packets, id)];
          if (what === 'move') return [{ kind: 'moveLine', field: 'packets', line: id, to: 0 }];
          there.splice(there.indexOf(id), 1);
          return [{ kind: 'removeLine', field: 'packets', line: id }];
        });
        const changed = await both('seed_request', [...edits, ...Array.from({ length: 70 }, (_, i) => line(i + 2)).flat()], saved.id);
        expect(changed.aside).toEqual(changed.here);
        expect([changed.runs, changed.aside.lines.packets?.length]).toEqual([1, there.length + 70]);
      }),
      { numRuns: 12 },
    );
  }, 60_000);

  test('a short one is worked out here', async () => {
    expect((await both('seed_request', request(3))).runs).toBe(0);
  });

  test('is written as it was worked out: lines, where they came from, history', async () => {
    const saved = await save('seed_request', request(101));
    const { plan } = await publishedForm(ws, 'seed_request');
    const { record } = await storedRecord(ws, plan, saved.id, ida);
    const told = saved.lines.packets ?? [];
    expect(record.lines?.packets?.map((l) => l.id)).toEqual(told.map((l) => l.id));
    for (const [i, l] of (record.lines?.packets ?? []).entries()) {
      expect(l.values).toMatchObject(told[i]?.values ?? {});
      expect(l.origins?.['packets.lot']).toEqual({ kind: 'chosen' });
    }
    const [made] = await historyOf(ws.db, 'requests', saved.id);
    expect(made?.changes.packets).toEqual([null, '101 lines (101 added)']);
  });

  test('is refused as it is here, and nothing is written', async () => {
    const before = await ws.db('data_requests').count({ n: '*' });
    const edits = request(80, [{ kind: 'clear', field: 'packets.packets', line: -7 } as const, { kind: 'clear', field: 'method' }]);
    const refused = await refusal(save('seed_request', edits));
    expect(refused).toMatchObject({ status: 422, code: 'fields' });
    const { plan, version } = await publishedForm(ws, 'seed_request');
    const here = await refusal(
      replay(ws, ida, { plan, version, typedOn: version }, { record: null, edits, opened: WITH_NOTHING, now: NOW }),
    );
    expect(refused.details).toEqual(here.details);
    expect(await ws.db('data_requests').count({ n: '*' })).toEqual(before);
  });

  test('takes the numbers of series that it counts on, among others that save', async () => {
    const next = (): Promise<number> => nextNumber(ws.db, 'lots 2026');
    const first = await next();
    const long = [...intake, ...Array.from({ length: 320 }, (_, i) => set('quantity_g', Number((1 + i / 7).toFixed(2))))];
    const saved = await Promise.all(Array.from({ length: 9 }, (_, i) => save('lot_intake', i % 3 ? intake : long)));
    const codes = saved.map((s) => String(s.values.code)).sort();
    expect(codes).toEqual(Array.from({ length: 9 }, (_, i) => `MF-2026-${String(first + i).padStart(4, '0')}`));
    expect(await next()).toBe(first + 9);
  });

  test('asks services where their answers are kept; one that fails is said as it is here', async () => {
    const asked: string[] = [];
    const elsewhere = request(80, [set('elsewhere', true), set('postcode', 'MF9')]);
    const items: Outside['items'] = async (feed, params) => {
      asked.push(`${feed} ${String(params.code)}`);
      return [{ id: 1, value: 'Sluice Lane', label: 'Sluice Lane' }] as unknown as readonly Row[];
    };
    const one = await both('seed_request', elsewhere, null, { items });
    expect(one.aside).toEqual(one.here);
    expect(new Set(asked)).toEqual(new Set(['postcode MF9']));
    expect(asked.length).toBeGreaterThanOrEqual(2);
    const failing = both('seed_request', elsewhere, null, { items: () => Promise.reject(new FeedFailure('It does not answer.', true)) });
    expect(await refusal(failing)).toMatchObject({ status: 422, code: 'fields' });
  });

  test('where a number cannot be had, who saves is told, and the next is saved', async () => {
    const long = [...intake, ...Array.from({ length: 320 }, (_, i) => set('quantity_g', Number((1 + i / 7).toFixed(2))))];
    await expect(both('lot_intake', long, null, { number: () => Promise.reject(new Error('no number')) })).rejects.toThrow('no number');
    expect((await both('lot_intake', long)).runs).toBe(1);
  });
});
