import { beforeAll, describe, expect, test } from 'vitest';
import { feedSchema } from '../../core/model/schemas.ts';
import { FeedFailure } from '../feeds/request';
import { type TestWorkspace, demoWorkspace, refusal } from '../testing/workspace';
import { askFeed, createFeed, feedAnswers, feedItems, itemsOf, removeFeed, saveFeed, setAllowedHosts } from './feeds';

let t: TestWorkspace;
beforeAll(async () => {
  t = await demoWorkspace();
});
const feed = (more: object = {}) =>
  feedSchema.parse({ key: 'f', label: 'F', url: '/standins/weather?site={site}&day={day}', items: 'readings', value: 'sky', params: [{ key: 'site', label: 'Site' }, { key: 'day', label: 'Day', type: 'date' }], ...more }); // prettier-ignore

describe('asking', () => {
  test('the same question gives the same items, without being asked twice', async () => {
    const one = await feedItems(t.ws, 'weather', { site: 'Adder Carr', day: '2026-03-01' });
    expect(one[0]).toMatchObject({ id: 1 });
    expect(typeof one[0]?.mean_c).toBe('number');
    expect(await feedItems(t.ws, 'weather', { day: '2026-03-01', site: 'Adder Carr' })).toBe(one);
  });
  test('a parameter that is missing, a feed that is not there, a host nobody allowed', async () => {
    await expect(askFeed(t.ws, feed(), {}, { site: 'x' })).rejects.toThrow(/needs Day/);
    await expect(feedItems(t.ws, 'nosuch', {})).rejects.toThrow(FeedFailure);
    await expect(askFeed(t.ws, feed({ url: 'https://data.example.org/{site}/{day}' }), {}, { site: 'a', day: '2026-01-01' })).rejects.toThrow(/data\.example\.org/); // prettier-ignore
  });
  test('what goes into an address or a body cannot break out of its place', async () => {
    await setAllowedHosts(t.ws, ['data.example.org']);
    // the host is decided by the address as it stands, whatever is put into it
    const sly = feed({ url: 'https://{site}.example.org/{day}' });
    await expect(askFeed(t.ws, sly, {}, { site: 'evil.net/', day: '2026-01-01' })).rejects.toThrow(/name of the host/);
    for (const url of [
      'https://{site}/x/{day}',
      'https://data.example.org{site}/x',
      'https://{site}@data.example.org/',
      '//{site}/x',
      'https:{site}/x',
      'https:/{site}/x',
      'https:\\\\{site}/x',
      'HTTPS:///{site}/x',
    ])
      await expect(askFeed(t.ws, feed({ url }), {}, { site: '.evil.net', day: '2026-01-01' }), url).rejects.toThrow(FeedFailure);
  });
  test.each([['..'], ['.']])('a value %s does not climb out of the path', async (site) => {
    const inside = feed({ url: '/standins/deep/{site}/weather?day={day}' });
    await expect(askFeed(t.ws, inside, {}, { site, day: '2026-01-01' })).rejects.toThrow(/lead elsewhere/);
  });
  test('half a character cannot stand in an address', async () => {
    await expect(askFeed(t.ws, feed(), {}, { site: 'a\ud800', day: '2026-01-01' })).rejects.toThrow(/half a character/);
  });
});

describe('items of an answer', () => {
  test('a list of texts, of objects, one object; the same value once', () => {
    const plain = feed({ items: '', value: '', params: [], url: '/x' });
    expect(itemsOf(plain, '["a", "b", "a"]').map((r) => r.value)).toEqual(['a', 'b']);
    const inside = feed({ items: 'data.list', value: 'id', label_path: 'name.en', params: [], url: '/x', attributes: [{ key: 'n', label: 'N', type: 'number', path: 'deep.0' }] }); // prettier-ignore
    const body = JSON.stringify({
      data: {
        list: [
          { id: 7, name: { en: 'Seven' }, deep: [1.5] },
          { id: 8, deep: ['x'] },
        ],
      },
    });
    expect(itemsOf(inside, body)).toEqual([
      { id: 1, value: '7', label: 'Seven', n: 1.5 },
      { id: 2, value: '8', label: '8', n: null },
    ]);
  });
  test.each([
    ['no json', /not JSON/],
    ['{"other": 1}', /nothing at “readings”/],
  ])('%s is told', (body, message) => {
    expect(() => itemsOf(feed(), body)).toThrow(message);
  });
});

test('an answer nested without end is a message, or items without what cannot be read; nothing else', () => {
  const nested = (n: number): string => '['.repeat(n) + ']'.repeat(n);
  const objects = (n: number): string => '{"sky":'.repeat(n) + '1' + '}'.repeat(n);
  for (const n of [100, 5000, 200_000])
    for (const inside of [nested(n), objects(n), nested(n).slice(0, n), `[${objects(n)}]`])
      for (const value of ['sky', '', 'sky.sky.sky'])
        for (const attributes of [[], [{ key: 'a', label: 'A', path: 'sky' }]]) {
          const read = (): unknown => itemsOf(feed({ value, attributes }), `{"readings": ${inside}}`);
          try {
            expect(JSON.stringify(read()).length).toBeLessThan(10_000_000);
          } catch (e) {
            expect(e).toBeInstanceOf(FeedFailure);
          }
        }
});

describe('secrets', () => {
  test('are kept here, never sent back, kept when not typed again, gone when taken away', async () => {
    const headers = [{ name: 'X-Key', value: null }];
    const key = await createFeed(t.ws, t.maud, feed({ label: 'Locked', headers }), { 'X-Key': 'very secret' });
    const answer = async () => (await feedAnswers(t.ws)).find((f) => f.key === key);
    expect(JSON.stringify(await answer())).not.toContain('very secret');
    expect((await answer())?.secrets).toEqual(['X-Key']);
    const definition = feedSchema.parse({ ...feed({ label: 'Locked', headers }), key });
    await saveFeed(t.ws, t.maud, definition, {}, 1);
    expect((await answer())?.secrets).toEqual(['X-Key']);
    await saveFeed(t.ws, t.maud, definition, { 'X-Key': null }, 2);
    expect((await answer())?.secrets).toEqual([]);
    await expect(askFeed(t.ws, definition, {}, { site: 'a', day: '2026-01-01' })).rejects.toThrow(/secret for the header X-Key/);
    expect(await refusal(saveFeed(t.ws, t.maud, definition, {}, 1))).toMatchObject({ status: 409 });
    await removeFeed(t.ws, key);
  });
  test('a feed that is used, in a list or in a formula, is not deleted', async () => {
    expect(await refusal(removeFeed(t.ws, 'name_check'))).toMatchObject({ status: 409, code: 'inUse' });
    expect((await refusal(removeFeed(t.ws, 'weather'))).message).toMatch(/Bench task/);
  });
});
