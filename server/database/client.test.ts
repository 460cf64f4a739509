import { expect, test } from 'vitest';
import { closeDatabase, openDatabase } from './connection';

/* The client of SQLite, whose statements keep the main thread while they run. */

const COUNTED = 'WITH RECURSIVE c (x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c WHERE x < 400000) SELECT count(*) AS n FROM c';

test('a statement that takes long lets others have their turn behind it, within a transaction too', async () => {
  const db = await openDatabase(':memory:');
  const turnWithin = async (work: () => Promise<unknown>): Promise<boolean> => {
    let isMet = false;
    setImmediate(() => (isMet = true));
    await work();
    return isMet;
  };
  expect(await turnWithin(() => db.raw(COUNTED))).toBe(true);
  await db.transaction(async (t) => {
    expect(await turnWithin(async () => expect(await t.raw(COUNTED)).toEqual([{ n: 400_000 }]))).toBe(true);
    await t.raw('CREATE TABLE much (x TEXT)');
  });
  await expect(db.raw('SELECT * FROM missing')).rejects.toThrow(/no such table/);
  expect(await db.raw('SELECT count(*) AS n FROM much')).toEqual([{ n: 0 }]);
  await closeDatabase(db);
});
