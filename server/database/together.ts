import type { Database } from './connection';
import { execute } from './statement';

/*
 * Group commit (DeWitt et al. 1984): what several requests write in one turn shares a transaction, since making it durable costs more
 * than writing it. Each is answered after the commit. One that fails is undone alone, to its savepoint.
 */

type Work = (db: Database) => Promise<unknown>;
interface Member {
  readonly work: Work;
  readonly done: (value: unknown) => void;
  readonly failed: (reason: unknown) => void;
}

/** How many share one transaction at most: the first need not wait for ever. */
const MOST = 200;

export class Together {
  private waiting: Member[] = [];
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
      const group = this.waiting.slice(0, MOST);
      this.waiting = this.waiting.slice(MOST);
      await this.commit(group);
    }
    this.underWay = false;
  }

  private async commit(group: readonly Member[]): Promise<void> {
    const gave: { member: Member; value: unknown }[] = [];
    try {
      await this.db.transaction(async (db) => {
        for (const member of group) {
          await execute(db, 'SAVEPOINT member', []);
          try {
            gave.push({ member, value: await member.work(db) });
          } catch (e) {
            await execute(db, 'ROLLBACK TO SAVEPOINT member', []);
            member.failed(e);
          }
          await execute(db, 'RELEASE SAVEPOINT member', []);
        }
      });
    } catch (e) {
      for (const member of group) member.failed(e);
      return;
    }
    for (const { member, value } of gave) member.done(value);
  }
}
