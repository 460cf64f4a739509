import { expect, test } from 'vitest';
import { hashPassword, verifyPassword } from './passwords';

test('a password fits its hash, also when normalised otherwise; another does not', async () => {
  const hash = await hashPassword('fen-and-marsh é');
  expect(hash).not.toContain('fen');
  expect(await verifyPassword(hash, 'fen-and-marsh é')).toBe(true);
  expect(await verifyPassword(hash, 'fen-and-marsh e')).toBe(false);
  expect(await verifyPassword(hash, '')).toBe(false);
  // twice the same is not the same twice: each has a salt of its own
  expect(await hashPassword('fen-and-marsh é')).not.toBe(hash);
});

test.each(['', 'plain', '$scrypt$', '$scrypt$n=1$x$y', '$scrypt$n=16384,r=8,p=1$!!$??', 'x'.repeat(10_000)])(
  'a hash that is none (%#) fits nothing and throws nothing',
  async (hash) => {
    expect(await verifyPassword(hash, 'x')).toBe(false);
  },
);
