import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { columnSchema } from '../../core/model/schemas.ts';
import { ON_SERVER } from '../testing/databases';
import { type Database, closeDatabase, openDatabase } from './connection';
import { createTable } from './model';
import { dropSearchIndex, ensureSearchIndex, fillSearchIndex, searchIndexOf, unfilledIndexes } from './searchIndex';
import { isThere } from './schema';

/* Search indexes of long tables, filled piece by piece while others write. */

const TABLE = { key: 'jars', label: 'Jars', shown: 'name', subsets: [], columns: [columnSchema.parse({ key: 'name', label: 'Name', type: 'text' })] }; // prettier-ignore
let db: Database;
beforeAll(async () => {
  db = await openDatabase(':memory:');
  await db.transaction((t) => createTable(t, TABLE));
});
afterAll(() => closeDatabase(db));

const text = fc.string({ unit: fc.constantFrom('A', 'B', 'C'), minLength: 3, maxLength: 6 });
const row = (id: number, name: string): Record<string, unknown> => ({ id, name, name__fold: name });
const change = fc.oneof(
  fc.record({ kind: fc.constant('add' as const), name: text }),
  fc.record({ kind: fc.constant('change' as const), at: fc.nat(), name: text }),
  fc.record({ kind: fc.constant('delete' as const), at: fc.nat() }),
  fc.constant({ kind: 'fill' as const }),
);

test.skipIf(ON_SERVER)('whatever is written meanwhile, the index holds what the table does', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(text, { minLength: 1, maxLength: 12 }), fc.array(change, { maxLength: 14 }), async (names, changes) => {
      await dropSearchIndex(db, 'jars');
      await db('data_jars').delete();
      // a table counts as long by its highest number
      for (const [i, name] of names.entries()) await db('data_jars').insert(row(i === names.length - 1 ? 30_000 : 2 * i + 1, name));
      await ensureSearchIndex(db, TABLE);
      expect(await unfilledIndexes(db)).toEqual(['jars']);
      for (const c of changes) {
        const ids = ((await db('data_jars').select('id').orderBy('id')) as { id: number }[]).map((r) => r.id);
        if (c.kind === 'add') await db('data_jars').insert({ name: c.name, name__fold: c.name });
        else if (c.kind === 'fill') await fillSearchIndex(db, 'jars', 3);
        else if (!ids.length) continue;
        else if (c.kind === 'delete')
          await db('data_jars')
            .where('id', ids[c.at % ids.length]!)
            .delete();
        else
          await db('data_jars')
            .where('id', ids[c.at % ids.length]!)
            .update({ name: c.name, name__fold: c.name });
      }
      while (!(await fillSearchIndex(db, 'jars', 3))) expect((await searchIndexOf(db, 'jars')).size).toBe(0);
      expect([...(await searchIndexOf(db, 'jars'))]).toEqual(['name']);
      expect([await unfilledIndexes(db), await isThere(db, 'filling_jars')]).toEqual([[], false]);
      // it compares all that the index holds with the table, and fails where they differ
      await db.raw(`INSERT INTO fts_jars (fts_jars, rank) VALUES ('integrity-check', 1)`);
      // and it goes on so
      await db('data_jars').insert({ name: 'CACAO', name__fold: 'CACAO' });
      const found = (await db.raw(`SELECT rowid FROM fts_jars WHERE fts_jars MATCH '"CACAO"'`)) as unknown[];
      expect(found).toHaveLength(1);
      await db.raw(`INSERT INTO fts_jars (fts_jars, rank) VALUES ('integrity-check', 1)`);
    }),
    { numRuns: 60 },
  );
});
