import { dialectOf } from './dialect';
import fc from 'fast-check';
import { beforeAll, expect, test } from 'vitest';
import { columnSchema } from '../../core/model/schemas.ts';
import type { Row } from '../../core/values/types.ts';
import { NOW, type TestWorkspace, bareWorkspace } from '../testing/workspace';
import { createTable } from './model';
import { allRows, insertRow } from './rows';
import { type Onlooker, linesSeen, ownedRows } from './seen';

/* Whose rows are whose, over random rows, owners and onlookers: what SQL gives is what one would say of each row by itself. */
interface Job {
  readonly keeper: number | null;
  readonly helpers: readonly number[] | null;
  readonly crew: string | null;
  readonly by: number | null;
}
const COLUMNS = [
  { key: 'keeper', label: 'Keeper', type: 'person' },
  { key: 'helpers', label: 'Helpers', type: 'links', target: 'people' },
  { key: 'crew', label: 'Crew', type: 'text' },
].map((c) => columnSchema.parse(c));
const TEAMS = ['Lab', 'LAB', 'Field', 'Straße', 'L"ab', '%'];
const job = fc.record<Job>({
  keeper: fc.constantFrom(null, 1, 2),
  helpers: fc.constantFrom(null, [], [1], [2, 1]),
  crew: fc.constantFrom(null, ...TEAMS),
  by: fc.constantFrom(null, 1, 2),
});
const onlooker = fc.record<Onlooker>({
  account: fc.constantFrom(null, 1, 2, 3),
  person: fc.constantFrom(null, 1, 2, 12),
  team: fc.constantFrom(null, '', 'lab', ...TEAMS),
});
const folded = (text: string | null): string => (text ?? '').toUpperCase();

/** The same in plain words: nobody’s, or one of those asked for names this onlooker. */
function mine(of: Job, columns: readonly string[], creator: boolean, who: Onlooker): boolean {
  const empty = { keeper: of.keeper === null, helpers: !of.helpers?.length, crew: of.crew === null };
  if (columns.every((c) => empty[c as keyof typeof empty])) return true;
  return (
    (columns.includes('keeper') && of.keeper !== null && of.keeper === who.person) ||
    (columns.includes('helpers') && who.person !== null && (of.helpers ?? []).includes(who.person)) ||
    (columns.includes('crew') && of.crew !== null && Boolean(who.team) && folded(of.crew) === folded(who.team)) ||
    (creator && of.by !== null && of.by === who.account)
  );
}

let t: TestWorkspace;
let jobs: readonly (Job & { id: number })[] = [];
beforeAll(async () => {
  t = await bareWorkspace();
  const link = columnSchema.parse({ key: 'job', label: 'Job', type: 'link', target: 'jobs' });
  await createTable(t.ws.db, { key: 'jobs', label: 'Jobs', shown: null, columns: COLUMNS });
  await createTable(t.ws.db, { key: 'parts', label: 'Parts', shown: null, columns: [link] });
  t.ws.modelChanged();
  const [table, parts] = [await t.ws.modelTable('jobs'), await t.ws.modelTable('parts')];
  const made = fc.sample(job, { numRuns: 80, seed: 11 });
  const stamp = (account: number | null) => ({ at: NOW, account, form: null, formVersion: null });
  const found: (Job & { id: number })[] = [];
  for (const { by, ...values } of made) {
    const id = await insertRow(t.ws.db, table, values as unknown as Row, stamp(by));
    await insertRow(t.ws.db, parts, { job: id }, stamp(by));
    found.push({ ...values, by, id });
  }
  await insertRow(t.ws.db, parts, { job: null }, stamp(null));
  jobs = found;
});

test('whatever owners a form names and whoever asks, exactly the rows of theirs and of nobody’s are read; their lines with them', async () => {
  const [table, parts] = [await t.ws.modelTable('jobs'), await t.ws.modelTable('parts')];
  await fc.assert(
    fc.asyncProperty(fc.subarray(['keeper', 'helpers', 'crew'], { minLength: 1 }), fc.boolean(), onlooker, async (names, creator, who) => {
      const columns = COLUMNS.filter((c) => names.includes(c.key));
      const seen = ownedRows(dialectOf(t.ws.db), { columns, creator }, who);
      const expected = jobs.filter((j) => mine(j, names, creator, who)).map((j) => j.id);
      expect((await allRows(t.ws.db, { ...table, seen })).map((r) => r.id)).toEqual(expected);
      const lines = await allRows(t.ws.db, { ...parts, seen: linesSeen('jobs', 'job', seen) });
      expect(lines.map((r) => r.job)).toEqual([...expected, null]);
    }),
    { numRuns: 150 },
  );
});
