import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Attempts } from './attempts';

/** Attempts with a clock that is moved by hand, in seconds. */
function clocked(): { attempts: Attempts; wait: (seconds: number) => void } {
  let now = 1_000_000;
  return { attempts: new Attempts(() => now), wait: (seconds) => void (now += seconds * 1000) };
}

describe('tries to sign in', () => {
  test('eight go without waiting, then each waits twice as long, at most a minute', () => {
    const { attempts, wait } = clocked();
    for (let i = 0; i < 8; i++) expect(attempts.begin('1.2.3.4', 'ida')).toBe(0);
    const waits: number[] = [];
    for (let i = 0; i < 9; i++) {
      const seconds = attempts.begin('1.2.3.4', 'Ida ');
      waits.push(seconds);
      wait(seconds);
      expect(attempts.begin('1.2.3.4', 'ida')).toBe(0);
    }
    expect(waits).toEqual([1, 2, 4, 8, 16, 32, 60, 60, 60]);
  });

  test('a stranger’s wrong guesses do not keep the owner waiting at another address, until very many were made', () => {
    const { attempts, wait } = clocked();
    for (let i = 0; i < 30; i++) wait(attempts.begin('6.6.6.6', 'ida'));
    expect(attempts.begin('1.2.3.4', 'ida')).toBe(0);
    attempts.succeeded('1.2.3.4', 'ida');
    // from a thousand addresses: the owner waits some seconds, never long
    for (let i = 0; i < 1000; i++) attempts.begin(`7.7.${i >> 8}.${i & 255}`, 'ida');
    expect(attempts.begin('1.2.3.4', 'ida')).toBeLessThanOrEqual(20);
  });

  test('one address that tries many accounts is slowed down, others are not', () => {
    const { attempts } = clocked();
    for (let i = 0; i < 40; i++) expect(attempts.begin('6.6.6.6', `account ${i}`)).toBe(0);
    expect(attempts.begin('6.6.6.6', 'account 41')).toBeGreaterThan(0);
    expect(attempts.begin('1.2.3.4', 'account 1')).toBe(0);
  });

  test('a right password forgives; so does time', () => {
    const { attempts, wait } = clocked();
    for (let i = 0; i < 7; i++) attempts.begin('1.2.3.4', 'ida');
    attempts.begin('1.2.3.4', 'ida');
    attempts.succeeded('1.2.3.4', 'ida');
    for (let i = 0; i < 8; i++) expect(attempts.begin('1.2.3.4', 'ida')).toBe(0);
    expect(attempts.begin('1.2.3.4', 'ida')).toBeGreaterThan(0);
    wait(11 * 60);
    expect(attempts.begin('1.2.3.4', 'ida')).toBe(0);
  });

  test('whoever asks in whatever order: never a longer wait than a minute, and at most so many tries go through', () => {
    const step = fc.record({ address: fc.nat(3), account: fc.nat(3), later: fc.nat(30) });
    fc.assert(
      fc.property(fc.array(step, { maxLength: 400 }), (steps) => {
        const { attempts, wait } = clocked();
        for (const { address, account, later } of steps) {
          const seconds = attempts.begin(`10.0.0.${address}`, `account ${account}`);
          expect(seconds).toBeLessThanOrEqual(60);
          wait(later / 10);
        }
      }),
    );
  });
});
