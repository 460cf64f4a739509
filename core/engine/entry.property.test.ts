import fc from 'fast-check';
import { expect, test } from 'vitest';
import { isDatum, isFormulaError } from '../formula/errors.ts';
import { type Datum, same } from '../values/types.ts';
import { type Generated, generated } from '../testing/randomForms.ts';
import { SEEDBANK_TABLES, lotForm, openSettled, settleAll } from '../testing/seedbank.ts';
import { parseForm } from '../form/schemas.ts';
import { compileForm } from './compile.ts';
import type { Entry } from './entry.ts';
import { momentAt } from './moment.ts';
import { verify } from './verify.ts';

function play(
  { fields, order, edits, rules, steps: life, access: whom, roles }: Generated,
  placed: readonly string[] = order,
  after?: (entry: Entry) => void,
): Entry {
  const form = parseForm({ ...lotForm(fields, placed), rules, steps: life, access: whom });
  const plan = compileForm(form, SEEDBANK_TABLES);
  // what waits for itself is reported, and not computed
  fc.pre(!plan.problems.some((p) => p.code === 'cycle'));
  const entry = openSettled(plan, { roles });
  after?.(entry);
  for (const e of edits) {
    entry.apply([e]);
    settleAll(entry);
    after?.(entry);
  }
  entry.beforeSaving();
  settleAll(entry);
  return entry;
}
let moved = 0;
/** Everything a person can see of an entry, by field; and its moves. */
const seen = (entry: Entry): Record<string, unknown> => ({
  ...seenFields(entry),
  moves: [entry.step?.value, entry.movesNow, entry.movesMade.map((m) => m.move.id)],
});
const seenFields = (entry: Entry): Record<string, unknown> =>
  Object.fromEntries(
    entry.plan.fields.map(({ key }) => {
      const { value, origin, gone } = entry.state(key);
      const plain = isFormulaError(value) ? value.code : value;
      return [
        key,
        [
          plain,
          origin.kind,
          gone,
          entry.isShown(key),
          entry.isRequired(key),
          entry.isLocked(key),
          entry.checks(key).map((c) => c.message),
          entry.offer(key)?.status,
          entry.offer(key)?.total,
          entry.differs(key),
        ],
      ];
    }),
  );

test('what settles step by step is what computing everything gives', () => {
  let edited = 0;
  fc.assert(
    fc.property(generated, (g) => {
      const entry = play(g);
      edited += g.edits.length;
      moved += entry.movesMade.length;
      const before = seen(entry);
      const { changes } = entry.recomputeAll();
      expect(seen(entry)).toEqual(before);
      expect(changes.filter((c) => c.cell !== 'value' || !same(c.from, c.to)).map((c) => `${c.field} ${c.cell}`)).toEqual([]);
    }),
    { numRuns: 1500 },
  );
  expect(edited).toBeGreaterThan(3000);
  expect(moved).toBeGreaterThan(30);
});

test('the order in which fields are placed does not matter', () => {
  fc.assert(
    fc.property(generated, (g) => {
      expect(seen(play(g))).toEqual(seen(play(g, Object.keys(g.fields))));
    }),
    { numRuns: 800 },
  );
});

test('edits sent as one log give what the screen showed after each, also where what people are told is put off to the end', () => {
  let told = 0;
  fc.assert(
    fc.property(generated, (g) => {
      const screen = play(g);
      for (const tellsLate of [false, true]) {
        const server = openSettled(screen.plan, { roles: g.roles, tellsLate });
        for (const e of screen.log) {
          if (e.kind === 'move') {
            server.tellMoves();
            settleAll(server);
          }
          expect(server.apply([e]).refused).toEqual([]);
          settleAll(server);
        }
        server.beforeSaving();
        settleAll(server);
        if (tellsLate) {
          const checks = (e: Entry): number => e.plan.fields.reduce((n, f) => n + e.checks(f.key).length, 0);
          expect(checks(server)).toBe(0);
          told += checks(screen);
          server.tell();
          settleAll(server);
          expect(verify(server)).toEqual(verify(screen));
        }
        expect(seen(server)).toEqual(seen(screen));
      }
    }),
    { numRuns: 500 },
  );
  expect(told).toBeGreaterThan(20);
});

test('edits applied in one go are what they are one by one, whether all stand there or each is made from what came of the one before', () => {
  let [edited, said] = [0, 0];
  fc.assert(
    fc.property(generated, fc.nat(), (g, at) => {
      const { plan, log } = play(g);
      const [one, several, made] = [0, 1, 2].map(() => openSettled(plan, { roles: g.roles })) as [Entry, Entry, Entry];
      const values = (entry: Entry) => entry.plan.fields.map(({ key }) => datumOf(entry, key));
      const stood: Datum[][] = [];
      const steps: Datum[][] = [];
      const refused = log.flatMap((e) => {
        const { refused: no } = one.apply([e]);
        stood.push(values(one));
        return no;
      });
      const cut = log.length ? at % log.length : 0;
      expect([...several.apply(log.slice(0, cut)).refused, ...several.apply(log.slice(cut)).refused]).toEqual(refused);
      const change = made.apply(
        (function* () {
          for (const e of log) {
            yield e;
            steps.push(values(made));
          }
        })(),
      );
      expect(change.what).toEqual({ kind: 'edit', edits: log });
      // each was asked for when the one before had settled
      expect(steps).toEqual(stood);
      for (const entry of [several, made]) {
        expect(seen(entry)).toEqual(seen(one));
        expect(entry.wants).toEqual(one.wants);
        expect(entry.log).toEqual(one.log);
      }
      edited += log.length;
      said += one.plan.fields.reduce((n, f) => n + one.checks(f.key).length, 0);
    }),
    { numRuns: 500 },
  );
  expect(edited).toBeGreaterThan(300);
  expect(said).toBeGreaterThan(20);
});

test('what is given is what the fill computes, and what follows from it is what computing everything gives', () => {
  let given = 0;
  fc.assert(
    fc.property(generated, (g) => {
      const entry = play(g);
      const values = Object.fromEntries(entry.plan.fields.map(({ key, definition }) => [definition.column ?? key, datumOf(entry, key)]));
      // as it stands, and stored and opened again
      const stored = openSettled(entry.plan, { roles: g.roles, mode: 'edit' }, { values, origins: {} });
      for (const e of [entry, stored])
        for (const { key, value } of e.plan.fields) {
          if (!value) continue;
          const computed = value.fitted(e.environmentOf(key, null));
          const got = e.give(key);
          if (got === undefined) continue;
          given++;
          expect(isFormulaError(got) ? got.code : got).toEqual(isFormulaError(computed) ? computed.code : computed);
          settleAll(e);
          const before = seen(e);
          const { changes } = e.recomputeAll();
          expect(seen(e)).toEqual(before);
          expect(changes.filter((c) => c.cell !== 'value' || !same(c.from, c.to)).map((c) => `${c.field} ${c.cell}`)).toEqual([]);
        }
    }),
    { numRuns: 500 },
  );
  expect(given).toBeGreaterThan(1000);
});
const datumOf = (entry: Entry, key: string): Datum => {
  const value = entry.value(key);
  return isDatum(value) ? value : null;
};

test('the trace tells how the entry stood at each moment of its past', () => {
  const stood = (entry: Entry, field: string): unknown => {
    const { value } = entry.state(field);
    const said = entry.checks(field).map((c) => c.message).join(' ') || null; // prettier-ignore
    return [isFormulaError(value) ? value.code : value, entry.isShown(field), said];
  };
  let looked = 0;
  fc.assert(
    fc.property(generated, (g) => {
      const moments: { at: number; seen: Record<string, unknown> }[] = [];
      const keys = Object.keys(g.fields);
      const done = (entry: Entry) => entry.trace.flatMap((c) => c.changes);
      const entry = play(g, g.order, (e) =>
        moments.push({ at: done(e).length, seen: Object.fromEntries(keys.map((k) => [k, stood(e, k)])) }),
      );
      for (const { at, seen: then } of moments) {
        const moment = momentAt(done(entry), at);
        const told = keys.map((k) => {
          const [value, shown, said] = stood(entry, k) as [unknown, boolean, string | null];
          const known = moment.values.get(k);
          const was = known ? (isFormulaError(known.value) ? known.value.code : known.value) : value;
          return [k, [was, moment.flag('shown', k) ?? shown, moment.checks.has(k) ? moment.checks.get(k) : said]];
        });
        expect(Object.fromEntries(told)).toEqual(then);
        looked++;
      }
    }),
    { numRuns: 500 },
  );
  expect(looked).toBeGreaterThan(1000);
});
