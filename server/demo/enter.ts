import type { ChoiceHow } from '../../core/evidence/entryUse.ts';
import type { Edit } from '../../core/engine/state.ts';
import { dateToDays, daysToDate } from '../../core/values/dates.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { allRows, rowById, updateRow } from '../database/rows';
import { type Account, accountByEmail } from '../database/accounts';
import { writeEntryCounts } from '../services/entryUse';
import { type Saved, saveEntry } from '../services/entries';
import { storeFile } from '../services/files';
import { Workspace } from '../services/workspace';

/** How many records the demo has: those of demo.md, or fewer where tests need only some. */
export interface DemoSize {
  readonly lots: number;
  readonly tests: number;
  readonly requests: number;
  readonly tasks: number;
}
export const FULL_DEMO: DemoSize = { lots: 400, tests: 650, requests: 150, tasks: 120 };
export const SMALL_DEMO: DemoSize = { lots: 50, tests: 20, requests: 12, tasks: 8 };

/** The smallest file that is a PDF by its content. */
const PERMIT = Buffer.from(
  '%PDF-1.4\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj 2 0 obj<</Type/Pages/Kids[]/Count 0>>endobj\ntrailer<</Root 1 0 R>>\n%%EOF\n',
);

/** Enters the demo's records through its forms, as its clerks did over the months before: every fill runs as it does for them. */
export async function enterRecords(ws: Workspace, size: DemoSize): Promise<void> {
  await new Entering(ws, await people(ws)).all(size);
}

interface Staff {
  readonly ida: Account;
  readonly tom: Account;
  readonly nell: Account;
}
async function people(ws: Workspace): Promise<Staff> {
  const by = async (name: string): Promise<Account> => (await accountByEmail(ws.db, `${name}@marrowfen.example`)) as Account;
  return { ida: await by('ida'), tom: await by('tom'), nell: await by('nell') };
}

class Entering {
  private readonly random = seeded(7);
  /** what clerks do out of habit, drawn apart so that all else stays as it was */
  private readonly habit = seeded(11);
  /** how they choose, drawn apart for the same reason */
  private readonly manner = seeded(13);
  private readonly today: string;
  private moment: string;
  /** the same workspace on the day of each record, so that "today" was then */
  private readonly then: Workspace;

  constructor(
    private readonly ws: Workspace,
    private readonly staff: Staff,
  ) {
    this.moment = ws.clock.now();
    this.today = this.moment.slice(0, 10);
    this.then = new Workspace(ws.db, { now: () => this.moment }, ws.files);
  }

  async all(size: DemoSize): Promise<void> {
    await this.lots(size.lots);
    await this.tests(size.tests);
    await this.requests(size.requests);
    await this.tasks(size.tasks);
    await this.plantFlaws();
    await writeEntryCounts(this.then);
    for (const table of ['lots', 'germination_tests', 'requests', 'request_lines', 'bench_tasks']) this.ws.rowsChanged(table);
  }

  private one<T>(list: readonly T[]): T {
    return list[Math.floor(this.random() * list.length)] as T;
  }
  /** the species by number */
  private names: ReadonlyMap<number, string> = new Map();
  private rows = async (table: string): Promise<Row[]> => allRows(this.ws.db, await this.ws.modelTable(table));
  /** Goes to a day before today. */
  private go(daysAgo: number): string {
    const day = new Date(Date.parse(`${this.today}T00:00:00Z`) - daysAgo * 86_400_000).toISOString().slice(0, 10);
    this.moment = `${day}T${String(8 + Math.floor(this.random() * 9)).padStart(2, '0')}:${String(Math.floor(this.random() * 60)).padStart(2, '0')}:00`;
    return day;
  }
  private async save(by: Account, form: string, values: Record<string, Datum>, number: number, more: readonly Edit[] = []): Promise<Saved> {
    const edits = Object.entries(values).map(([field, value]): Edit => ({ kind: 'set', field, value }));
    const how = { seconds: 25 + Math.floor(this.manner() ** 3 * 240) + 2 * edits.length, choices: this.choices(values) };
    const request = { version: 1, edits: [...edits, ...more], revision: null, request: `demo ${form} ${number}`, how };
    return saveEntry(this.then, by, form, null, request);
  }
  /** How species and sites were chosen: by the first letters, a species now and then sought by a name that the list does not know. */
  private choices({ species, site, purity }: Record<string, Datum>): ChoiceHow[] {
    const found: ChoiceHow[] = [];
    const name = typeof species === 'number' ? this.names.get(species) : undefined;
    const at = (): number => Math.floor(this.manner() ** 3 * 7);
    if (name !== undefined) {
      if (this.manner() < 0.12)
        found.push({ field: 'species', offered: this.names.size, at: null, searched: this.manner() < 0.6 ? 'willow' : 'heather' });
      found.push({ field: 'species', offered: this.names.size, at: at(), searched: name.slice(0, 3 + Math.floor(this.manner() * 3)) });
    }
    if (typeof site === 'number')
      found.push({ field: 'site', offered: 4 + Math.floor(this.manner() * 3), at: Math.floor(this.manner() * 4), searched: '' });
    if (typeof purity === 'string')
      found.push({ field: 'purity', offered: 4, at: ['clean', 'chaff', 'mixed'].indexOf(purity), searched: '' });
    return found;
  }
  /** Goes on with a record on a later day: by whom, and what they do. */
  private async goOn(by: Account, form: string, { id, revision }: Saved, edits: readonly Edit[]): Promise<Saved> {
    const request = { version: 1, edits, revision, request: `demo ${form} ${id} ${revision}` };
    return saveEntry(this.then, by, form, id, request);
  }

  /**
   * What the records are to say of the form: lots are mostly entered some days after they were collected, and those from the salt
   * marshes of one region are kept at 4 °C, whatever is usual for their species. Of the small demo these would be too few.
   */
  private habits(day: string, isSalt: boolean): Record<string, Datum> {
    const before = [0, 0, 1, 2, 3, 3, 3, 3, 4][Math.floor(this.habit() * 9)] ?? 0;
    return {
      ...(before > 0 ? { collected_on: daysToDate(dateToDays(day) - before) } : {}),
      ...(isSalt && this.habit() < 0.82 ? { storage_c: 4 } : {}),
    };
  }
  private async lots(count: number): Promise<void> {
    const species = (await this.rows('species')).filter((s) => s.active === true);
    this.names = new Map(species.map((s) => [s.id, String(s.name)]));
    const sites = (await this.rows('sites')).filter((s) => s.active === true);
    const { ida, tom, nell } = this.staff;
    const saltings = (await this.rows('regions')).find((r) => r.name === 'Saltings Coast')?.id;
    const permit = Number((await storeFile(this.ws, ida, 'permit MF-17.pdf', PERMIT)).id);
    for (let i = 0; i < count; i++) {
      const ago = Math.round(300 - (i * 294) / count);
      const day = this.go(ago);
      const site = this.one(sites);
      const plant = this.one(species);
      const purity = this.one(['clean', 'clean', 'chaff', 'mixed']);
      // the older ones are in quarantine, or the Lab has judged them
      const judged = i < count * 0.8 && this.random() < 0.75;
      const lot = await this.save(
        i % 2 ? tom : ida,
        'lot_intake',
        {
          species: plant.id,
          region: site.region ?? null,
          site: site.id,
          quantity_g: (Math.round(this.random() * 60_000) + 50) / 100,
          purity,
          ...(this.random() < 0.8 ? { tsw_g: (Math.round(this.random() * 4000) + 50) / 1000 } : {}),
          ...(plant.protected === true ? { permit } : {}),
          ...(purity === 'mixed' ? { remark: 'sieve again' } : {}),
          ...this.habits(day, count > SMALL_DEMO.lots && site.region === saltings),
        },
        i,
        judged || i % 3 === 0 ? [{ kind: 'move', field: 'status', move: 'quarantine' }] : [],
      );
      if (!judged) continue;
      this.go(Math.max(1, ago - 3));
      const move = this.one(['release', 'release', 'release', 'release', 'release', 'reject', null, null]);
      await this.goOn(nell, 'lot_intake', lot, [
        { kind: 'set', field: 'viability', value: 45 + Math.floor(this.random() * 55) },
        ...(move === null ? [] : [{ kind: 'move', field: 'status', move } as const]),
      ]);
    }
  }

  private async tests(count: number): Promise<void> {
    const lots = (await this.rows('lots')).filter((l) => l.status === 'released' || l.status === 'in quarantine');
    for (let i = 0; i < count && lots.length; i++) {
      this.go(Math.round(200 - (i * 198) / count));
      const lot = this.one(lots);
      const sown = this.one([25, 50, 50, 100]);
      const germinated = this.random() < 0.9 ? Math.floor(sown * (0.4 + this.random() * 0.6)) : null;
      const values = { species: lot.species ?? null, lot: lot.id, count_sown: sown, germinated };
      await this.save(this.one([this.staff.nell, this.staff.ida]), 'germination_test', values, i);
    }
  }

  private async requests(count: number): Promise<void> {
    const addresses = await this.rows('partner_addresses');
    const lots = (await this.rows('lots')).filter((l) => l.status === 'released' && Number(l.viability) >= 60);
    const active = new Set((await this.rows('species')).filter((s) => s.active === true && s.protected !== true).map((s) => s.id));
    const offered = lots.filter((l) => active.has(l.species as number) && Number(l.quantity_g) > 20);
    const purposes = [...((await this.ws.lists()).get('purposes')?.items ?? [])].filter((i) => i.depth === 1 && !i.retired);
    for (let i = 0; i < count && offered.length; i++) {
      const ago = Math.round(160 - (i * 158) / count);
      this.go(ago);
      const address = this.one(addresses);
      const lines: Edit[] = [];
      const many = 1 + Math.floor(this.random() * 6);
      for (let n = 1; n <= many; n++) {
        const lot = this.one(offered);
        if (n > 1) lines.push({ kind: 'addLine', field: 'packets', line: -n });
        lines.push({ kind: 'set', field: 'packets.species', line: -n, value: lot.species ?? null });
        lines.push({ kind: 'set', field: 'packets.lot', line: -n, value: lot.id });
        lines.push({ kind: 'set', field: 'packets.packets', line: -n, value: 1 + Math.floor(this.random() * 4) });
      }
      const detail = this.one(purposes).value;
      const values = {
        partner: address.partner ?? null,
        address: address.id,
        detail,
        method: this.one(['post', 'post', 'tracked', 'courier', 'collect']),
      };
      let request = await this.save(this.one([this.staff.tom, this.staff.ida]), 'seed_request', values, i, lines);
      // the older, the further on
      const far = ago > 20 ? this.one([4, 4, 4, 4, 3, 2]) : this.one([0, 1, 1, 2, 3]);
      const { nell, tom, ida } = this.staff;
      const way = far === 3 ? [[nell, 'decline'] as const] : [[nell, 'approve'] as const, [tom, 'pack'] as const, [ida, 'send'] as const].slice(0, far); // prettier-ignore
      for (const [n, [by, move]] of way.entries()) {
        this.go(Math.max(1, ago - 2 * (n + 1)));
        request = await this.goOn(by, 'seed_request', request, [{ kind: 'move', field: 'step', move }]);
      }
    }
  }

  private async tasks(count: number): Promise<void> {
    const people = await this.rows('people');
    const field = people.filter((x) => x.team === 'Field');
    const sites = (await this.rows('sites')).filter((s) => s.active === true);
    const work = [
      'Prick out seedlings',
      'Pot on and label',
      'Sow tray',
      'Clean the corers',
      'Check the data loggers',
      'Turn the drying trays',
    ];
    for (let i = 0; i < count; i++) {
      const day = this.go(Math.round(90 - (i * 88) / count));
      const task = this.one(work);
      const site = this.one(sites);
      const benchWork = /prick out|pot on|sow/i.test(task);
      const values = {
        task,
        owner: (benchWork ? this.one(field) : this.one(people)).id,
        bench: `B${1 + Math.floor(this.random() * 6)}`,
        day,
        site: site.id,
      };
      await this.save(this.one([this.staff.tom, this.staff.ida]), 'bench_task', values, i);
    }
  }

  /** Planted: a species that lots have is retired, a request whose stored total no longer equals its lines, lots without a status. */
  private async plantFlaws(): Promise<void> {
    const stamp = { at: this.ws.clock.now(), account: null, form: null, formVersion: null };
    const change = async (table: string, id: number, values: Record<string, Datum>): Promise<void> => {
      const model = await this.ws.modelTable(table);
      const record = await rowById(this.ws.db, model, id);
      if (record) await updateRow(this.ws.db, model, id, record.revision, values, stamp);
    };
    const used = new Set((await this.rows('lots')).map((l) => l.species));
    const last = (await this.rows('species')).filter((s) => used.has(s.id)).sort((a, b) => (String(a.name) < String(b.name) ? 1 : -1))[0];
    if (last) await change('species', last.id, { active: false });
    for (const lot of (await this.rows('lots')).slice(1, 4)) await change('lots', lot.id, { status: null });
    // two old lots that would be quarantined before they were collected: no check forbids it yet
    const held = (await this.rows('lots')).filter((l) => l.quarantine_from !== null);
    for (const lot of held.length > 100 ? [held[40]!, held[71]!] : [])
      await change('lots', lot.id, { collected_on: daysToDate(dateToDays(String(lot.quarantine_from)) + 12) });
    const [request] = await this.rows('requests');
    if (request) await change('requests', request.id, { to_pay: Number(request.to_pay ?? 0) + 5 });
  }
}

function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
}
