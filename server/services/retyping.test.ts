import fc from 'fast-check';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { convertValue } from '../../core/exchange/convert.ts';
import type { Column } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { sqlColumnsOf } from '../database/columns';
import { createTable } from '../database/model';
import { allRows } from '../database/rows';
import { beginRetyping, isRetyping } from '../database/retyping';
import { dataTable, storedColumns } from '../database/names';
import { type TestWorkspace, bareWorkspace, refusal } from '../testing/workspace';
import { endLeftRetypings, retypeColumn } from './retyping';
import { removeColumn } from './structure';

/* A column of a long table becomes another type some rows at a time, while others write. */

let t: TestWorkspace;
const column = (key: string, type: Column['type'], target: string | null = null): Column =>
  columnSchema.parse({ key, label: key, type, target });
const TEXT = column('extra', 'text');
const NUMBER = column('extra', 'number');
const KIN = column('extra', 'link', 'genera');

beforeEach(async () => {
  t = await bareWorkspace();
  await t.ws.db.transaction(async (db) => {
    await createTable(db, { key: 'genera', label: 'Genera', shown: 'name', subsets: [], columns: [column('name', 'text')] });
    // what stands in `twin` is what `extra` held
    await createTable(db, { key: 'jars', label: 'Jars', shown: null, subsets: [], columns: [TEXT, column('twin', 'text')] });
  });
  t.ws.modelChanged();
});
afterEach(() => t.ws.close());

const stored = (extra: string | null): object => ({ ...storedColumns(TEXT, extra), ...storedColumns(column('twin', 'text'), extra) });
const add = (extra: string | null, id?: number): PromiseLike<unknown> =>
  t.ws.db('data_jars').insert({ ...stored(extra), ...(id === undefined ? {} : { id }) });
/** Rows of jars; the last has so high a number that the table counts as long. */
async function filled(texts: readonly (string | null)[]): Promise<void> {
  for (const [i, text] of texts.entries()) await add(text, i === texts.length - 1 ? 30_000 : i + 1);
}
const jars = async () => allRows(t.ws.db, await t.ws.modelTable('jars'));
/** Nothing is left but what belongs to the columns there are. */
async function expectNothingLeft(columns: readonly string[]): Promise<void> {
  expect(await isRetyping(t.ws.db, 'jars')).toBe(false);
  expect((await sqlColumnsOf(t.ws.db, 'jars')).filter((c) => c !== 'id' && !/^_(revision|created|changed|form)/.test(c)).sort()).toEqual([...columns].sort()); // prettier-ignore
}
const AS_TEXT = ['extra', 'extra__fold', 'twin', 'twin__fold'];

const text = fc.constantFrom('7', '7.25', '1,5', 'seven', null, null);
const write = fc.oneof(
  fc.record({ kind: fc.constant('add' as const), text }),
  fc.record({ kind: fc.constant('change' as const), at: fc.nat(), text }),
  fc.record({ kind: fc.constant('delete' as const), at: fc.nat() }),
);

test('whatever is written meanwhile, all values are converted at the end as they stood there', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(text, { minLength: 1, maxLength: 16 }), fc.array(write, { maxLength: 12 }), async (texts, writes) => {
      await t.ws.db('data_jars').delete();
      await filled(texts);
      let isText = true;
      const others = (async () => {
        for (const w of writes) {
          const ids = ((await t.ws.db('data_jars').select('id').orderBy('id')) as { id: number }[]).map((r) => Number(r.id));
          // the form that would write the text is not saved any more once the column holds numbers
          const asText = (): Promise<boolean> => t.ws.db.transaction(async (db) => {
            const [now] = (await db('model_columns').where({ table_key: 'jars', key: 'extra' }).select('type')) as { type: string }[];
            isText = now?.type === 'text';
            if (!isText) return false;
            if (w.kind === 'add') await db('data_jars').insert(stored(w.text));
            else if (ids.length) {
              const id = ids[w.at % ids.length]!;
              if (w.kind === 'delete') await db('data_jars').where({ id }).delete();
              else await db('data_jars').where({ id }).update(stored(w.text));
            }
            return true;
          }); // prettier-ignore
          if (!(await asText())) return;
        }
      })();
      await Promise.all([retypeColumn(t.ws, 'jars', TEXT, NUMBER, true, 3), others]);
      for (const row of await jars()) {
        const was = row.twin ?? null;
        const converted = was === null ? null : convertValue(TEXT, NUMBER, was, String, () => null);
        expect(row.extra, JSON.stringify(was)).toBe(converted?.ok ? converted.value : null);
      }
      await expectNothingLeft(['extra', 'twin', 'twin__fold']);
      await retypeColumn(t.ws, 'jars', NUMBER, TEXT, false, 3);
      await expectNothingLeft(AS_TEXT);
    }),
    { numRuns: 80 },
  );
}, 120_000);

const genus = (name: string): object => storedColumns(column('name', 'text'), name);
test.each([1, 2, 3, 40])('links become the texts of one moment, though these are others %i times meanwhile', async (times) => {
  await t.ws.db('data_genera').insert(genus('Quercus'));
  await filled(Array.from({ length: 20 }, (_, i) => (i % 2 ? 'Quercus' : 'Ulmus')));
  await retypeColumn(t.ws, 'jars', TEXT, KIN, true, 3);
  expect((await jars()).map((r) => r.extra)).toEqual(Array.from({ length: 20 }, (_, i) => (i % 2 ? 1 : null)));
  const renames = (async () => {
    for (let i = 1; i <= times; i++) await t.ws.db('data_genera').update(genus(i % 2 ? 'Ulmus' : 'Quercus'));
  })();
  await Promise.all([retypeColumn(t.ws, 'jars', KIN, TEXT, false, 3), renames]);
  const texts = new Set((await jars()).flatMap((r) => r.extra ?? []));
  expect(texts.size).toBe(1);
  if (times === 1) expect([...texts]).toEqual(['Ulmus']);
  await expectNothingLeft(AS_TEXT);
});

test('a row that texts become links to, deleted meanwhile, is no longer linked to', async () => {
  await t.ws.db('data_genera').insert(genus('Quercus'));
  await filled(Array.from({ length: 20 }, (_, i) => (i < 12 ? 'Ulmus' : 'Quercus')));
  const deleted = (async () => {
    await t.ws.db('data_genera').select('id');
    await t.ws.db('data_genera').delete();
  })();
  await Promise.all([retypeColumn(t.ws, 'jars', TEXT, KIN, true, 3), deleted]);
  expect((await jars()).map((r) => r.extra)).toEqual(Array.from({ length: 20 }, () => null));
});

test('two who change one column at once: one of them does, the other is told or does it after', async () => {
  await filled(Array.from({ length: 30 }, (_, i) => String(i)));
  const both = await Promise.allSettled([
    retypeColumn(t.ws, 'jars', TEXT, NUMBER, true, 3),
    retypeColumn(t.ws, 'jars', TEXT, column('extra', 'longtext'), true, 3),
  ]);
  expect(both.map((b) => b.status).sort()).toEqual(['fulfilled', 'rejected']);
  expect(both.find((b) => b.status === 'rejected')).toMatchObject({ reason: { status: 409, code: 'changedMeanwhile' } });
  const isNumber = both[0]!.status === 'fulfilled';
  expect((await jars()).map((r) => r.extra)).toEqual(Array.from({ length: 30 }, (_, i) => (isNumber ? i : String(i))));
  expect(await isRetyping(t.ws.db, 'jars')).toBe(false);
});

test('what does not convert is not lost where that was not said, and nothing is left of it', async () => {
  await filled(['1', '2', '3', '4', 'five', 'six']);
  const refused = await refusal(retypeColumn(t.ws, 'jars', TEXT, NUMBER, false, 2));
  expect(refused).toMatchObject({ status: 409, code: 'wouldLose', details: { preview: { filled: 6, lost: 2 } } });
  expect((await jars()).map((r) => r.extra)).toEqual(['1', '2', '3', '4', 'five', 'six']);
  await expectNothingLeft(AS_TEXT);
});

test('a column that somebody deletes meanwhile stays deleted, and whoever changes its type is told', async () => {
  await filled(Array.from({ length: 200 }, String));
  const retyping = refusal(retypeColumn(t.ws, 'jars', TEXT, NUMBER, true, 1));
  await removeColumn(t.ws, 'jars', 'extra');
  expect(await retyping).toMatchObject({ status: 409, code: 'changedMeanwhile' });
  await expectNothingLeft(['twin', 'twin__fold']);
});

test('what a server has left that ended meanwhile is gone when the next has started', async () => {
  await filled(['1', '2']);
  await t.ws.db.transaction((db) => beginRetyping(db, 'jars', TEXT, KIN));
  expect(await isRetyping(t.ws.db, 'jars')).toBe(true);
  expect(await sqlColumnsOf(t.ws.db, 'jars')).toContain('_new');
  await endLeftRetypings(t.ws);
  await expectNothingLeft(AS_TEXT);
  // and nothing listens any more
  await t.ws.db(dataTable('jars')).where('id', 1).update(stored('9'));
  expect((await jars())[0]).toMatchObject({ extra: '9' });
});
