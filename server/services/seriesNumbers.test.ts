import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type Reserved, SeriesNumbers } from './seriesNumbers';

/** A database of one series, and saves that are worked out for as long as they like. */
class Saves {
  next = 1;
  readonly taken: string[] = [];
  /** how often a save was worked out */
  tries = 0;
  readonly numbers = new SeriesNumbers(() => Promise.resolve(this.next), 20);

  /** One save, as entries.ts does it: `work` is waited for before it is at the transaction, which may refuse it. */
  async save(name: string, work: () => Promise<void>, ends: 'saved' | 'refused' | 'undone' = 'saved'): Promise<void> {
    for (let passed = 0; ; passed++) {
      this.tries++;
      const one = await this.numbers.reserve('s', passed);
      await work();
      if (ends === 'refused') return this.numbers.release(one);
      if (!(await this.numbers.turn(one))) {
        this.numbers.mistaken(one);
        continue;
      }
      const writing = this.write(name, one, ends);
      this.numbers.sent(one);
      const went = await writing;
      if (went === 'saved') return;
      if (went === 'undone') return this.numbers.release(one);
      this.numbers.mistaken(one);
    }
  }
  /** The transactions, one after the other. */
  private before: Promise<unknown> = Promise.resolve();
  private write(name: string, { number }: Reserved, ends: string): Promise<'saved' | 'undone' | 'wrong'> {
    const all = this.before.then(async () => {
      await later(1);
      if (number !== this.next) return 'wrong';
      if (ends === 'undone') return 'undone';
      this.taken.push(`${name} ${this.next++}`);
      return 'saved';
    });
    this.before = all;
    return all;
  }
}
/** Some turns of the event loop. */
const later = async (turns: number): Promise<void> => {
  for (let i = 0; i < turns; i++) await new Promise((resolve) => setImmediate(resolve));
};

describe('numbers for saves beside each other', () => {
  test('whatever order they are worked out in, none is worked out twice and none is left out', async () => {
    const saves = new Saves();
    await Promise.all(Array.from({ length: 40 }, (_, i) => saves.save(`save ${i}`, () => later((i * 7) % 11))));
    expect(saves.taken).toEqual(Array.from({ length: 40 }, (_, i) => `save ${i} ${i + 1}`));
    expect(saves.tries).toBe(40);
  });

  test('whatever comes to nothing, in another process too', async () => {
    const one = fc.record({ turns: fc.nat(8), begins: fc.nat(12), ends: fc.constantFrom('saved', 'saved', 'refused', 'undone', 'elsewhere') }); // prettier-ignore
    await fc.assert(
      fc.asyncProperty(fc.array(one, { minLength: 1, maxLength: 24 }), async (all) => {
        const saves = new Saves();
        let elsewhere = 0;
        await Promise.all(
          all.map(async ({ turns, begins, ends }, i) => {
            await later(begins);
            if (ends !== 'elsewhere') return saves.save(String(i), () => later(turns), ends as 'saved');
            saves.next++;
            elsewhere++;
          }),
        );
        const saved = all.filter((a) => a.ends === 'saved').length;
        expect(saves.taken).toHaveLength(saved);
        expect(saves.next).toBe(1 + saved + elsewhere);
        const { next } = saves;
        await saves.save('last', () => later(0));
        expect(saves.taken.at(-1)).toBe(`last ${next}`);
      }),
      { numRuns: 200 },
    );
  });

  test('one that takes too long is passed by, and worked out again with another number', async () => {
    const saves = new Saves();
    let goOn: () => void = () => undefined;
    const slow = saves.save('slow', () => new Promise((resolve) => (goOn = resolve)));
    await later(2);
    await Promise.all([saves.save('quick', () => later(1)), saves.save('quicker', () => later(0))]);
    expect(saves.taken).toEqual(['quick 1', 'quicker 2']);
    goOn();
    await later(3);
    goOn();
    await slow;
    expect(saves.taken.at(-1)).toBe('slow 3');
  });

  test('two that wait for each other in two series both end', async () => {
    const numbers = new SeriesNumbers(() => Promise.resolve(1), 20);
    const [a, b] = [await numbers.reserve('one'), await numbers.reserve('two')];
    const [c, d] = [await numbers.reserve('two'), await numbers.reserve('one')];
    // the first has `one` and waits for `two`, the second the other way round
    const turns = await Promise.all([numbers.turn(c), numbers.turn(d)]);
    expect(turns).toEqual([false, false]);
    expect([a, b].map((n) => numbers.isRight(n))).toEqual([false, false]);
  });

  test('nobody waits in a run that was forgotten among many others', async () => {
    const numbers = new SeriesNumbers(() => Promise.resolve(1));
    const [first, second] = [await numbers.reserve('one'), await numbers.reserve('one')];
    const turn = numbers.turn(second);
    for (let i = 0; i < 1000; i++) await numbers.reserve(`another ${i}`);
    expect(await turn).toBe(false);
    numbers.release(first);
    expect((await numbers.reserve('one')).number).toBe(1);
  });
});
