import { beforeEach, describe, expect, test } from 'vitest';
import { type TestWorkspace, demoWorkspace } from '../testing/workspace';
import { beginSession, endSession, idleTime, mostAge, sessionAccount } from './sessions';

let t: TestWorkspace;
beforeEach(async () => {
  t = await demoWorkspace();
});
const START = 1_700_000_000_000;

describe('sessions', () => {
  test('are kept by the hash of their token alone', async () => {
    const token = await beginSession(t.ws, t.ida.id, START);
    expect(JSON.stringify(await t.ws.db('sessions'))).not.toContain(token);
    expect((await sessionAccount(t.ws, token, START + 1))?.email).toBe(t.ida.email);
    expect(await sessionAccount(t.ws, `${token}x`, START + 1)).toBeNull();
    expect(await sessionAccount(t.ws, '', START)).toBeNull();
  });

  test('end after idling; being used keeps them', async () => {
    const token = await beginSession(t.ws, t.ida.id, START);
    let now = START;
    for (let i = 0; i < 3; i++) {
      now += idleTime() - 1000;
      expect(await sessionAccount(t.ws, token, now), String(i)).not.toBeNull();
    }
    expect(await sessionAccount(t.ws, token, now + idleTime() + 1)).toBeNull();
    // it is gone, not only judged so
    expect(await sessionAccount(t.ws, token, now)).toBeNull();
  });

  test('are not kept from idling by a window that only listens', async () => {
    const token = await beginSession(t.ws, t.ida.id, START);
    for (let now = START; now <= START + idleTime(); now += idleTime() / 4)
      expect(await sessionAccount(t.ws, token, now, false), String(now)).not.toBeNull();
    expect(await sessionAccount(t.ws, token, START + idleTime() + 1, false)).toBeNull();
  });

  test('end at their age however much they are used', async () => {
    const token = await beginSession(t.ws, t.ida.id, START);
    for (let now = START; now <= START + mostAge(); now += idleTime() / 2) expect(await sessionAccount(t.ws, token, now)).not.toBeNull();
    expect(await sessionAccount(t.ws, token, START + mostAge() + 1)).toBeNull();
  });

  test.each([
    ['password', { password_hash: 'another' }],
    ['roles', { roles: '["designer"]' }],
    ['use', { active: false }],
    ['e-mail', { email: 'ida.fenn@marrowfen.example' }],
  ])('end when the %s is changed, by hand too', async (_, change) => {
    const token = await beginSession(t.ws, t.ida.id, START);
    const other = await beginSession(t.ws, t.maud.id, START);
    await t.ws.db('accounts').where({ id: t.ida.id }).update(change);
    expect(await sessionAccount(t.ws, token, START + 1)).toBeNull();
    expect(await sessionAccount(t.ws, other, START + 1)).not.toBeNull();
  });

  test('signing out ends one and no other; old ones are swept', async () => {
    const [one, two] = [await beginSession(t.ws, t.ida.id, START), await beginSession(t.ws, t.ida.id, START)];
    await endSession(t.ws, one);
    expect(await sessionAccount(t.ws, one, START)).toBeNull();
    expect(await sessionAccount(t.ws, two, START)).not.toBeNull();
    await beginSession(t.ws, t.maud.id, START + mostAge() + 1);
    expect(await t.ws.db('sessions')).toHaveLength(1);
  });
});
