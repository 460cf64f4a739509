import { expect, test, vi } from 'vitest';
import type { Answered, Want } from '../../core/engine/wants.ts';
import { entryRequests } from './entryRequests';

const page = (search: string): Want => ({ kind: 'page', field: 'species', params: [], open: [], search, offset: 0, limit: 60 });
const pageOf = (want: Want): Answered => ({ want, answer: { kind: 'page', rows: [], more: false } });
const searches = (asked: readonly (readonly Want[])[]) => asked.map((wants) => wants.map((w) => (w.kind === 'page' ? w.search : '')));
const kinds = (answered: readonly Answered[]) => answered.map((a) => (a.answer.kind === 'failed' ? a.answer.reason : a.answer.kind));

/** Requests that are answered by hand. */
function held() {
  const calls: { readonly wants: readonly Want[]; done(answered: readonly Answered[]): void; fail(why: string): void }[] = [];
  const fetchSome = vi.fn(
    (wants: readonly Want[]) =>
      new Promise<readonly Answered[]>((done, fail) => calls.push({ wants, done, fail: (why) => fail(new Error(why)) })),
  );
  return { calls, requests: entryRequests(fetchSome) };
}

test('what is under way is waited for and not asked again', async () => {
  const { calls, requests } = held();
  void requests.ask([page('a'), page('b')]);
  expect([requests.isUnderWay(page('a')), requests.isUnderWay(page('c'))]).toEqual([true, false]);
  const both = requests.answersTo([page('c'), page('a')]);
  expect(searches(calls.map((c) => c.wants))).toEqual([['a', 'b'], ['c']]);
  calls[1]?.done([pageOf(page('c'))]);
  calls[0]?.done([pageOf(page('a')), pageOf(page('b'))]);
  expect((await both).map((a) => (a.want.kind === 'page' ? a.want.search : ''))).toEqual(['c', 'a']);
  expect(requests.isUnderWay(page('a'))).toBe(false);
});

test('what fails together with others is asked once more by itself', async () => {
  const { calls, requests } = held();
  requests.ask([page('a'), page('b')]).catch(() => undefined);
  const one = requests.answersTo([page('a')]);
  calls[0]?.fail('away');
  await vi.waitFor(() => expect(calls).toHaveLength(2));
  calls[1]?.done([pageOf(page('a'))]);
  expect(kinds(await one)).toEqual(['page']);
  expect(searches(calls.map((c) => c.wants))).toEqual([['a', 'b'], ['a']]);
});

test('what cannot be had is answered with why, and can be asked anew', async () => {
  const { calls, requests } = held();
  const first = requests.answersTo([page('a')]);
  calls[0]?.fail('away');
  expect(kinds(await first)).toEqual(['away']);
  const second = requests.answersTo([page('a')]);
  calls[1]?.done([pageOf(page('a'))]);
  expect(kinds(await second)).toEqual(['page']);
});

test('what is left out of an answer is told as failed', async () => {
  const { calls, requests } = held();
  const both = requests.answersTo([page('a'), page('b')]);
  calls[0]?.done([pageOf(page('b'))]);
  expect(kinds(await both)).toEqual(['The server gave no answer.', 'page']);
});
