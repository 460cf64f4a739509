import fc from 'fast-check';
import { expect, test } from 'vitest';
import { CONTEXT, LARGE_TABLES, LOT_FIELDS, answer, lotForm, settleAll } from '../testing/seedbank.ts';
import { parseForm } from '../form/schemas.ts';
import { type Case, TABLES, cases, planOf, recordOf } from '../testing/storedCases.ts';
import { isWaiting } from '../formula/errors.ts';
import type { Datum } from '../values/types.ts';
import { DataCache } from './cache.ts';
import { compileForm } from './compile.ts';
import { type Entry, openEntry } from './entry.ts';
import type { Plan } from './plan.ts';
import type { Edit } from './state.ts';
import { verify } from './verify.ts';
import type { Answer, Want } from './wants.ts';

/*
 * What stands in an entry does not hang on when the answers came: all of them known before, one after the other, the last first. What is
 * stored, and what somebody typed, is neither lost nor calculated anew because something it rests on waits for a while.
 */

const seen = (entry: Entry): unknown[] => {
  const all: unknown[] = [];
  entry.eachField((field, frame) => {
    const { at, key } = field;
    const { value, origin, gone, suggestion } = frame.state(at);
    // what emptied a field that is hidden makes no difference
    const by = value === null && !frame.shown[at] ? 'hidden' : origin.kind;
    all.push([key, frame.line, value, by, gone, suggestion ?? null, frame.shown[at], frame.required[at], frame.locked[at], frame.checks[at]?.map((c) => c.message)]); // prettier-ignore
  });
  return all;
};
/** Settles an entry with one answer at a time, `which` says of how many wants the next is. */
function settleOneByOne(entry: Entry, which: (of: number) => number): number {
  for (let asked = 0; ; asked++) {
    const { wants } = entry;
    const want = wants[which(wants.length)];
    if (!want) return asked;
    if (asked > 200) throw new Error(`It keeps wanting ${JSON.stringify(want)}`);
    entry.supply(answer([want]));
  }
}
interface Ruled {
  readonly opens: boolean;
  readonly then: readonly { readonly kind: string }[];
  readonly otherwise: readonly { readonly kind: string }[];
}
/** Rules that act on what is not known yet: as a record opens, or by hiding what is shown until that is told. */
const actsEarly = ({ opens, then, otherwise }: Ruled): boolean =>
  opens || then.some((d) => d.kind === 'hide') || otherwise.some((d) => d.kind === 'show' || d.kind === 'hide');
const WAYS: readonly ((of: number) => number)[] = [() => 0, (of) => of - 1, (of) => of >> 1];
const opened = (plan: Plan, { one }: Case, record: ReturnType<typeof recordOf> | null, cache = new DataCache()): Entry =>
  openEntry(plan, { ...CONTEXT, mode: record ? 'edit' : 'new', roles: one.roles }, cache, record);

test('a stored record stands the same in whatever order the answers came, and so does what is done to it', () => {
  let [asked, edits] = [0, 0];
  fc.assert(
    fc.property(cases, fc.boolean(), (c, isNew) => {
      const rules = c.one.rules.filter((r) => !actsEarly(r as Ruled));
      const plan = planOf({ ...c.one, rules }, c.lines, c);
      fc.pre(!plan.problems.some((p) => p.code === 'cycle'));
      const record = isNew ? null : recordOf(c);
      const first = opened(plan, c, record);
      settleAll(first);
      const known = opened(plan, c, record, first.cache);
      settleAll(known);
      const others = WAYS.map((which) => {
        const entry = opened(plan, c, record);
        asked += settleOneByOne(entry, which);
        return { entry, which };
      });
      const stands = seen(known);
      for (const { entry } of [{ entry: first }, ...others]) expect(seen(entry)).toEqual(stands);
      for (const edit of c.one.edits) {
        known.apply([edit]);
        settleAll(known);
        for (const { entry, which } of others) {
          entry.apply([edit]);
          settleOneByOne(entry, which);
          expect(seen(entry)).toEqual(seen(known));
        }
        edits++;
      }
    }),
    { numRuns: 250 },
  );
  expect(asked).toBeGreaterThan(200);
  expect(edits).toBeGreaterThan(100);
});

const FIELDS = {
  species: { label: 'Species', type: 'link', column: 'species', source: { kind: 'rows', table: 'species', show: 'name' } },
  n0: { label: 'N0', type: 'number', column: 'n0', shown: 'species.storage_c > 0', hiddenValue: 'clear' },
  n1: { label: 'N1', type: 'number', column: 'n1', value: { kind: 'prefill', formula: 'species.storage_c * 2', typedOver: 'refill' } },
  n2: { label: 'N2', type: 'number', column: 'n2', value: { kind: 'calculation', formula: 'n0 + 1' } },
};
const PLAN = compileForm(lotForm(FIELDS), new Map([...LARGE_TABLES, ['lots', TABLES.get('lots')!]]));
const set = (field: string, value: Datum): Edit => ({ kind: 'set', field, value });
const COUNT: Answer = { kind: 'count', total: 5000, capped: false, only: null };
const OFFERED: Answer = { kind: 'offered', offered: true };
const given = (want: Want): Answer => (want.kind === 'count' ? COUNT : want.kind === 'offered' ? OFFERED : answer([want])[0]!.answer);
const supply = (entry: Entry, of = given): void => void entry.supply(entry.wants.map((want) => ({ want, answer: of(want) })));
const settle = (entry: Entry): void => {
  while (entry.wants.length) supply(entry);
};
/** Two species that are stored alike, and one that is not. */
const [ONE, ALIKE, OTHER] = [101, 102, 301];

test('what a stored record holds stays while what shows it is looked up, and where that fails', () => {
  const record = { values: { id: 7, species: ONE, n0: 5, n1: 12.5, n2: 100 }, origins: {} };
  const entry = openEntry(PLAN, { ...CONTEXT, mode: 'edit' }, new DataCache(), record);
  expect(entry.wants.map((w) => w.kind)).toContain('row');
  expect(entry.isShown('n0')).toBe(false);
  // whether it is emptied is not known, so that nothing goes by it, and it cannot be saved
  expect(isWaiting(entry.value('n0'))).toBe(true);
  expect(verify(entry).map((i) => i.field)).toContain('n0');
  supply(entry, (want) => (want.kind === 'row' ? { kind: 'failed', reason: 'away' } : given(want)));
  expect(entry.isShown('n0')).toBe(false);
  entry.retry();
  settle(entry);
  const stands = (keys: string[]) => keys.map((k) => [entry.isShown(k), entry.value(k), entry.state(k).origin.kind]);
  expect(stands(['n0', 'n1', 'n2'])).toEqual([
    [true, 5, 'stored'],
    [true, 12.5, 'stored'],
    [true, 100, 'stored'],
  ]);
  entry.apply([set('species', OTHER)]);
  settle(entry);
  expect(stands(['n0', 'n2'])).toEqual([
    [false, null, 'hidden'],
    [true, null, 'calculation'],
  ]);
});

test('what somebody typed over a prefill stays while the answer is on its way, and where it brings the same', () => {
  const entry = openEntry(PLAN, { ...CONTEXT, mode: 'new' }, new DataCache());
  settle(entry);
  entry.apply([set('species', ONE)]);
  // before the answer is there
  entry.apply([set('n1', 3)]);
  settle(entry);
  expect(entry.value('n1')).toBe(3);
  // another row that gives the same
  entry.apply([set('species', ALIKE)]);
  expect(entry.value('n1')).toBe(3);
  settle(entry);
  expect(entry.value('n1')).toBe(3);
  entry.apply([set('species', OTHER)]);
  settle(entry);
  expect(entry.value('n1')).toBe(-40);
});

test('what is given is followed as if it were entered, what changes by being opened is not', () => {
  const fields = {
    species: FIELDS.species,
    n0: { label: 'N0', type: 'number', column: 'n0', value: { kind: 'calculation', formula: 'species.storage_c * 3', always: true } },
    n1: { label: 'N1', type: 'number', column: 'n1', value: { kind: 'prefill', formula: 'n0 * 2', typedOver: 'refill' } },
    n2: { label: 'N2', type: 'number', column: 'n2', value: { kind: 'calculation', formula: 'species.storage_c + 1' } },
    n3: { label: 'N3', type: 'number', column: 'n3', value: { kind: 'prefill', formula: 'n2 * 2', typedOver: 'refill' } },
    n4: { label: 'N4', type: 'number', column: 'n4', value: { kind: 'prefill', formula: 'n2 * 2', typedOver: 'keep' } },
  };
  const plan = compileForm(lotForm(fields), new Map([...LARGE_TABLES, ['lots', TABLES.get('lots')!]]));
  const record = { values: { id: 7, species: ONE, n0: 50, n1: 77, n2: 8, n3: 99, n4: 98 }, origins: {} };
  const entry = openEntry(plan, { ...CONTEXT, mode: 'edit' }, new DataCache(), record);
  settle(entry);
  const values = (): unknown[] => ['n0', 'n1', 'n2', 'n3', 'n4'].map((k) => entry.value(k));
  // always calculated anew; the prefill that reads it keeps what somebody typed
  expect(values()).toEqual([6, 77, 8, 99, 98]);
  expect(entry.give('n2')).toBe(3);
  expect(values()).toEqual([6, 77, 3, 6, 98]);
});

test('a scratch field that comes to nothing, as it does where all is known, changes no record', () => {
  const calculated = (formula: string, more: object = {}): object => ({ label: formula, type: 'number', value: { kind: 'calculation', formula, ...more } }); // prettier-ignore
  // their lists are asked for as the record opens, whatever stands above
  const free = (key: string): object => ({ ...LOT_FIELDS[key], source: { ...(LOT_FIELDS[key] as { source: object }).source, waiting: 'none', fillUp: false } }); // prettier-ignore
  const fields = {
    family: LOT_FIELDS.family!,
    genus: free('genus'),
    species: free('species'),
    n1: { label: 'N1', type: 'number', column: 'n1' },
    // its value, which what shows the next rests on, changes as the record is opened
    n2: { ...calculated('SUM(n1)', { always: true }), column: 'n2', shown: 'NOT(species.genus.family.id > 5)', hiddenValue: 'clear' },
    n0: calculated('PICK(species, choice.genus = genus AND choice.storage_c > 0.1).germination_days'),
    sum: { ...calculated('n0'), column: 'sum' },
  };
  const shows = { id: 'r', opens: false, saves: false, reaches: [], changes: [], mode: 'both', when: 'n2 > 0.1', then: [{ kind: 'show', field: 'n0' }], otherwise: [] }; // prettier-ignore
  const plan = compileForm(parseForm({ ...lotForm(fields), rules: [shows] }), TABLES);
  const record = { values: { id: 7, family: null, genus: null, species: 301, n1: null, n2: null, sum: 0 }, origins: {} };
  const asked = openEntry(plan, { ...CONTEXT, mode: 'edit' }, new DataCache(), record);
  settleAll(asked);
  const known = openEntry(plan, { ...CONTEXT, mode: 'edit' }, asked.cache, record);
  expect(known.wants).toEqual([]);
  for (const entry of [known, asked]) expect([entry.value('n2'), entry.value('n0'), entry.value('sum'), entry.state('sum').origin.kind]).toEqual([0, null, 0, 'stored']); // prettier-ignore
});

test('a stored calculation waits for a calculation that may change as the record opens, and hides nothing meanwhile', () => {
  const fields = {
    species: FIELDS.species,
    n0: { label: 'N0', type: 'number', column: 'n0', value: { kind: 'calculation', formula: 'SUM(species.storage_c)', always: true } },
    n1: { label: 'N1', type: 'number', column: 'n1', value: { kind: 'calculation', formula: 'IF(n0 > 0, 0.1, n0)' } },
    n2: { label: 'N2', type: 'number', column: 'n2', shown: 'NOT(n1 > 5)', hiddenValue: 'clear' },
  };
  const plan = compileForm(lotForm(fields), new Map([...LARGE_TABLES, ['lots', TABLES.get('lots')!]]));
  const open = (species: number, n0: number | null, n1: number | null): Entry =>
    openEntry(plan, { ...CONTEXT, mode: 'edit' }, new DataCache(), { values: { id: 7, species, n0, n1, n2: 5 }, origins: {} });
  const stands = (entry: Entry): unknown[] => ['n0', 'n1', 'n2'].map((k) => [entry.value(k), entry.state(k).origin.kind]);
  // it changes, and what it is read by with it
  for (const n1 of [6, null]) {
    const entry = open(OTHER, null, n1);
    expect([entry.value('n0'), entry.value('n1'), entry.value('n2')].map(isWaiting)).toEqual([true, true, true]);
    settle(entry);
    expect(stands(entry)).toEqual([[-20, 'calculation'], [-20, 'calculation'], [5, 'stored']]); // prettier-ignore
  }
  // it comes to what was stored: what rests on it stays as it is stored, and so hides
  const same = open(OTHER, -20, 6);
  settle(same);
  expect(stands(same)).toEqual([[-20, 'calculation'], [6, 'stored'], [null, 'hidden']]); // prettier-ignore
});

test('a stored value whose formula cannot be read stays while something else is looked up', () => {
  const fields = {
    species: FIELDS.species,
    n0: { label: 'N0', type: 'number', column: 'n0', value: { kind: 'calculation', formula: 'species.storage_c * 2' } },
    n1: { label: 'N1', type: 'number', column: 'n1', value: { kind: 'calculation', formula: 'n0 +' } },
  };
  const plan = compileForm(lotForm(fields), new Map([...LARGE_TABLES, ['lots', TABLES.get('lots')!]]));
  const entry = openEntry(plan, { ...CONTEXT, mode: 'edit' }, new DataCache(), {
    values: { id: 7, species: ONE, n0: 5, n1: 6 },
    origins: {},
  });
  expect(entry.wants.length).toBeGreaterThan(0);
  expect(entry.value('n1')).toBe(6);
  settle(entry);
  expect(['n0', 'n1'].map((k) => entry.value(k))).toEqual([5, 6]);
});
