import { type H3Event, setHeader } from 'h3';
import { Refused } from '../services/errors';
import { addressOf } from './address';

/*
 * How often somebody may try to sign in. Every try is counted before its password is looked at, so that trying many at once
 * gains nothing; one that succeeds is forgiven. Counted are an address on one account, an address on any, and an account from
 * anywhere. After some tries each further one must wait, twice as long each time, but never long: a stranger's wrong guesses
 * slow the owner by a minute at most, and guessing down to one a minute.
 */
interface Limit {
  /** tries without waiting */
  readonly free: number;
  /** the longest wait, in seconds */
  readonly longest: number;
}
const LIMITS: Readonly<Record<'pair' | 'address' | 'account', Limit>> = {
  pair: { free: 8, longest: 60 },
  address: { free: 40, longest: 60 },
  account: { free: 60, longest: 20 },
};
/** Tries older than this are forgotten, in milliseconds. */
const WINDOW = 10 * 60_000;
const MOST_KEPT = 50_000;

interface Tally {
  tries: number;
  last: number;
}

/** Counts tries by key. Kept in memory; a restart forgives. The clock is given, so that it can be tested. */
export class Attempts {
  private readonly tallies = new Map<string, Tally>();

  constructor(private readonly now: () => number = Date.now) {}

  /** Counts a try; gives the seconds to wait when it may not be made, else 0. */
  begin(address: string, account: string): number {
    const keys = keysOf(address, account);
    const wait = Math.max(...keys.map(({ key, limit }) => this.waitOf(key, limit)));
    if (wait > 0) return wait;
    for (const { key } of keys) {
      const tally = this.tally(key) ?? { tries: 0, last: 0 };
      // the newest stand last, so that the first are the oldest when room is made
      this.tallies.delete(key);
      this.tallies.set(key, { tries: tally.tries + 1, last: this.now() });
    }
    for (const [oldest] of this.tallies) {
      if (this.tallies.size <= MOST_KEPT) break;
      this.tallies.delete(oldest);
    }
    return 0;
  }

  /** The password was right: what the address tried on the account is forgiven, and the try itself. */
  succeeded(address: string, account: string): void {
    for (const { key, kind } of keysOf(address, account)) {
      const tally = this.tally(key);
      if (!tally) continue;
      if (kind === 'pair') this.tallies.delete(key);
      else this.tallies.set(key, { ...tally, tries: Math.max(0, tally.tries - 1) });
    }
  }

  private tally(key: string): Tally | null {
    const tally = this.tallies.get(key);
    return tally && this.now() - tally.last < WINDOW ? tally : null;
  }
  private waitOf(key: string, { free, longest }: Limit): number {
    const tally = this.tally(key);
    if (!tally || tally.tries < free) return 0;
    const pause = Math.min(longest, 2 ** Math.min(20, tally.tries - free)) * 1000;
    return Math.ceil(Math.max(0, tally.last + pause - this.now()) / 1000);
  }
}

function keysOf(address: string, account: string): { key: string; kind: keyof typeof LIMITS; limit: Limit }[] {
  const email = account.trim().toLowerCase();
  return (['pair', 'address', 'account'] as const).map((kind) => ({
    kind,
    limit: LIMITS[kind],
    key: kind === 'pair' ? `p ${address} ${email}` : kind === 'address' ? `a ${address}` : `m ${email}`,
  }));
}

const attempts = new Attempts();

/** Counts a try to sign in; refused with the seconds to wait. */
export function countAttempt(event: H3Event, email: string): void {
  const wait = attempts.begin(addressOf(event), email);
  if (!wait) return;
  setHeader(event, 'retry-after', wait);
  throw new Refused(429, 'tooMany', `Too many failed attempts. Wait ${wait} ${wait === 1 ? 'second' : 'seconds'} and try again.`, { wait });
}
export const attemptSucceeded = (event: H3Event, email: string): void => attempts.succeeded(addressOf(event), email);
