import { beforeAll, expect, test } from 'vitest';
import { type Account, accountByEmail } from '../database/accounts';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { hereIs } from './presence';

let t: TestWorkspace;
let nell: Account;
beforeAll(async () => {
  t = await demoWorkspace();
  nell = (await accountByEmail(t.ws.db, 'nell@marrowfen.example'))!;
});
const here = (who: Account, id: number, window: string, now: number, gone = false) =>
  hereIs(t.ws, who, 'lot_intake', id, { window, gone }, now);

test('who has a record open is told to others who have it, until they leave it or are silent', async () => {
  expect(await here(t.ida, 5, 'window-one', 0)).toMatchObject({ others: [] });
  expect((await here(nell, 5, 'window-two', 1000)).others).toEqual([t.ida.name]);
  // one’s own second window is nobody else; another record is another matter
  expect((await here(t.ida, 5, 'window-three', 2000)).others).toEqual([nell.name]);
  expect((await here(t.maud, 6, 'window-four', 2000)).others).toEqual([]);
  await here(nell, 5, 'window-two', 3000, true);
  expect((await here(t.ida, 5, 'window-one', 4000)).others).toEqual([]);
  expect((await here(t.maud, 5, 'window-four', 90_000)).others).toEqual([]);
  expect((await here(t.maud, 5, 'window-four', 90_000)).revision).toBeGreaterThan(0);
  expect((await refusal(here(nell, 999_999, 'window-two', 0))).status).toBe(404);
});
