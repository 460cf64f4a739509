import { type H3Event, getRequestIP } from 'h3';
import { Refused } from '../services/errors';

const MOST = 8;
const WINDOW = 10 * 60_000;
const failures = new Map<string, number[]>();
let decoyHash: Promise<string> | null = null;

const keysOf = (event: H3Event, email: string): string[] => [
  `ip ${getRequestIP(event) ?? '?'} ${email.trim().toLowerCase()}`,
  `mail ${email.trim().toLowerCase()}`,
];
const recent = (key: string): number[] => (failures.get(key) ?? []).filter((t) => t > Date.now() - WINDOW);

/** Limits failed sign-ins by address and e-mail: eight in ten minutes. Kept in memory; a restart forgives. */
export const attempts = {
  check(event: H3Event, email: string): void {
    if (keysOf(event, email).some((k) => recent(k).length >= MOST)) {
      throw new Refused(429, 'tooMany', 'Too many failed attempts. Wait ten minutes and try again.');
    }
  },
  failed(event: H3Event, email: string): void {
    if (failures.size > 10_000) failures.clear();
    for (const key of keysOf(event, email)) failures.set(key, [...recent(key), Date.now()]);
  },
  cleared(event: H3Event, email: string): void {
    for (const key of keysOf(event, email)) failures.delete(key);
  },
  decoy: (hash: (password: string) => Promise<string>): Promise<string> => (decoyHash ??= hash('no such account')),
};
