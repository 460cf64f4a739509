import type { Database } from './connection';
import { dialectOf } from './dialect';
import { writeAhead } from './later';
import { execute } from './statement';

/*
 * Group commit (DeWitt et al. 1984): what several requests write in one turn shares a transaction, since making it durable costs more
 * than writing it. Each is answered when it is durable, and the next are written meanwhile. One that fails is undone alone, to its
 * savepoint.
 */

type Work = (db: Database) => Promise<unknown>;
interface Member {
  readonly work: Work;
  readonly done: (value: unknown) => void;
  readonly failed: (reason: unknown) => void;
}

/**
 * How long is written in one transaction, in ms. What is written to a file is so where requests are answered: whoever waits for anything else
 * waits for it. A server writes by itself, and making it durable is all the dearer.
 */
const MOST = { sqlite: 10, postgres: 200 };

export class Together {
  private readonly waiting: Member[] = [];
  private underWay = false;
  constructor(private readonly db: Database) {}

  /** Does what writes in a transaction, shared with others; gives what it gave once that is durable. What it throws undoes it alone. */
  write<T>(work: (db: Database) => Promise<T>): Promise<T> {
    return new Promise<T>((done, failed) => {
      this.waiting.push({ work, done: done as (value: unknown) => void, failed });
      if (this.underWay) return;
      this.underWay = true;
      // whoever comes in this turn goes along
      setImmediate(() => void this.all());
    });
  }

  private async all(): Promise<void> {
    while (this.waiting.length) {
      await this.commit();
      if (this.waiting.length) await new Promise((resolve) => setImmediate(resolve));
    }
    this.underWay = false;
  }

  /** Writes those who wait, as many as there is time for. */
  private async commit(): Promise<void> {
    const most = MOST[dialectOf(this.db).name];
    const group: Member[] = [];
    const gave: { member: Member; value: unknown }[] = [];
    let written: { readonly safe: Promise<void> };
    try {
      written = await writeAhead(this.db, async (db) => {
        const began = performance.now();
        do {
          const member = this.waiting.shift() as Member;
          group.push(member);
          await execute(db, 'SAVEPOINT member', []);
          try {
            gave.push({ member, value: await member.work(db) });
          } catch (e) {
            await execute(db, 'ROLLBACK TO SAVEPOINT member', []);
            member.failed(e);
          }
          await execute(db, 'RELEASE SAVEPOINT member', []);
        } while (this.waiting.length && performance.now() - began < most);
      });
    } catch (e) {
      // where none could be begun, those who wait would have met the same
      if (!group.length) group.push(...this.waiting.splice(0));
      for (const member of group) member.failed(e);
      return;
    }
    written.safe.then(
      () => {
        for (const { member, value } of gave) member.done(value);
      },
      (e) => {
        for (const { member } of gave) member.failed(e);
      },
    );
  }
}
