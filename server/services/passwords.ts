import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { Refused } from './errors';

/*
 * Passwords are kept as scrypt hashes, written as the PHC string format has it (`$scrypt$n=…,r=…,p=…$salt$hash`, base64
 * without padding), so that a stronger setting can come later and old hashes still tell how they were made.
 */
const COST = { n: 16_384, r: 8, p: 1 };
const KEY_BYTES = 64;
const SALT_BYTES = 16;
/** A hash costs tens of milliseconds of a core: one is computed at a time, so that files and others are not kept waiting. */
const MOST_WAITING = 20;
let waiting = 0;
let last: Promise<unknown> = Promise.resolve();

function inTurn<T>(work: () => Promise<T>): Promise<T> {
  if (waiting >= MOST_WAITING) throw new Refused(429, 'tooMany', 'Many people are signing in just now. Try again in a moment.');
  waiting++;
  const mine = last.then(work, work).finally(() => waiting--);
  last = mine.catch(() => undefined);
  return mine;
}

const derive = (password: string, salt: Buffer, { n, r, p }: typeof COST, bytes: number): Promise<Buffer> =>
  new Promise((resolve, reject) =>
    scrypt(password, salt, bytes, { N: n, r, p, maxmem: 256 * n * r }, (e, key) => (e ? reject(e) : resolve(key))),
  );
const encoded = (bytes: Buffer): string => bytes.toString('base64').replace(/=+$/, '');

/** The hash of a password, with a salt of its own. Throws Refused 429 when too many are being computed. */
export const hashPassword = (password: string): Promise<string> =>
  inTurn(async () => {
    const salt = randomBytes(SALT_BYTES);
    const key = await derive(password, salt, COST, KEY_BYTES);
    return `$scrypt$n=${COST.n},r=${COST.r},p=${COST.p}$${encoded(salt)}$${encoded(key)}`;
  });

/** Whether a password is the one that was hashed; false for a text that is no such hash. Throws Refused 429 as `hashPassword`. */
export async function verifyPassword(hash: string, password: string): Promise<boolean> {
  const [, n, r, p, salt, key] = /^\$scrypt\$n=(\d{1,7}),r=(\d{1,2}),p=(\d)\$([A-Za-z0-9+/]{8,})\$([A-Za-z0-9+/]{16,})$/.exec(hash) ?? [];
  if (!salt || !key) return false;
  const wanted = Buffer.from(key, 'base64');
  const cost = { n: Number(n), r: Number(r), p: Number(p) };
  return inTurn(async () => timingSafeEqual(await derive(password, Buffer.from(salt, 'base64'), cost, wanted.length), wanted));
}

let decoy: Promise<string> | null = null;
/** A hash that no password fits: computed against where there is no account, so that the time taken tells nothing. */
export const decoyHash = (): Promise<string> => (decoy ??= hashPassword(randomBytes(24).toString('base64')));
