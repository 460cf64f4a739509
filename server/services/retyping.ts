import { isDeepStrictEqual } from 'node:util';
import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { convertValue } from '../../core/exchange/convert.ts';
import { type Column, targetOf } from '../../core/model/tables.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { rowsOf } from '../database/changes';
import { type Database, changesOf } from '../database/connection';
import { countRows, readModel } from '../database/model';
import { RESHAPED_HERE, highestNumber } from '../database/reading';
import {
  beginRetyping,
  endRetyping,
  endRetypingStep,
  isRetypingBy,
  leftRetyping,
  lockTable,
  swapRetyped,
  takeWritten,
  writeRetyped,
} from '../database/retyping';
import { allRows, eachPage, rowsAfter, rowsByIds } from '../database/rows';
import { Refused } from './errors';
import { type JobHandle, UNWATCHED } from './jobs';
import { rowTexts } from './tables';
import type { Workspace } from './workspace';

/** What another type makes of a column's values. */
export type Conversion = Omit<Answer<typeof contract.tables.retypeColumn>, 'uses'>;

/** What another type would make of a column's values; nothing is written. */
export async function previewConversion(
  ws: Workspace,
  { table: key, from, to }: { table: string; from: Column; to: Column },
  job: JobHandle = UNWATCHED,
): Promise<Conversion> {
  const table = await ws.modelTable(key);
  const converter = await Converter.of(ws, ws.db, from, to);
  const total = Math.max(1, await countRows(ws.db, key));
  await eachPage(ws.db, { ...table, columns: [from] }, async (rows) => {
    await converter.changes(ws.db, rows);
    job.at(converter.done.rows / total, 'looking at the values');
  });
  return converter.said();
}

/** How often it is begun anew while somebody changes what it rests on; after that everybody who writes waits for it. */
const BEGUN = 3;
/** How often what was written meanwhile is gone through before it is done in the step that ends it, however much that is. */
const FOLLOWED = 1000;

/**
 * Gives a column another type and converts its values; those that do not convert become empty, if that `mayLose` them. A long table is gone
 * through some thousand rows at a time, each in a transaction of its own, and others write in between; who reads finds it as it was until
 * it is another. Throws Refused where values would be lost, and where somebody makes the table another otherwise meanwhile.
 */
export async function retypeColumn(
  ws: Workspace,
  key: string,
  from: Column,
  to: Column,
  mayLose: boolean,
  piece = RESHAPED_HERE,
): Promise<Conversion> {
  const asked = { ws, key, from, to, mayLose, piece };
  const restsOn = await textTables(ws, [targetOf(from), targetOf(to)]);
  // of a table that links to itself each step would be a change of what the texts are told from
  const isAtOnce = (await highestNumber(ws.db, key)) <= RESHAPED_HERE || restsOn.includes(key);
  const inSteps = new Retyping(asked, (work) => ws.db.transaction(work), restsOn);
  try {
    for (let begun = 0; begun < (isAtOnce ? 0 : BEGUN); begun++) {
      const done = await inSteps.run();
      if (done) return done;
    }
    const done = await ws.db.transaction((db) => new Retyping(asked, (work) => work(db), null).run());
    ws.modelChanged();
    return done as Conversion;
  } catch (e) {
    if (!(e instanceof Losing)) throw e;
    // how many there are is found where nobody who writes waits for it
    const preview = await previewConversion(ws, { table: key, from, to });
    throw new Refused(409, 'wouldLose', `${preview.lost} values do not convert and would become empty.`, { preview });
  }
}
/** A value would be lost, which was not said to be right. */
class Losing extends Error {}

/** Takes out of tables what retypings have left that a server ended in. */
export async function endLeftRetypings(ws: Workspace): Promise<void> {
  const tables = await ws.modelTables();
  for (const key of await leftRetyping(ws.db, tables.map((t) => t.key))) await ws.db.transaction((db) => endRetyping(db, key)); // prettier-ignore
}

/** The tables that the texts of linked rows are told from: those linked to, and where their rows are known by links, those of these. */
async function textTables(ws: Workspace, targets: readonly (string | null)[]): Promise<string[]> {
  const found = new Set<string>();
  for (const target of targets) {
    let key = target;
    while (key !== null && !found.has(key)) {
      found.add(key);
      const table = await ws.modelTable(key);
      const shown = table.columns.find((c) => c.key === table.shown);
      key = shown ? targetOf(shown) : null;
    }
  }
  return [...found];
}

interface RetypingAsked {
  readonly ws: Workspace;
  readonly key: string;
  readonly from: Column;
  readonly to: Column;
  readonly mayLose: boolean;
  /** how many rows are gone through in a step */
  readonly piece: number;
}
/** A column on its way to another type: see `database/retyping.ts`. */
class Retyping {
  private stamp = 0;
  private number = 0;
  constructor(
    private readonly asked: RetypingAsked,
    /** does a step in a transaction */
    private readonly step: <T>(work: (db: Database) => Promise<T>) => Promise<T>,
    /** the tables that texts of links are told from, which others may write between the steps; null where all steps are one transaction */
    private readonly restsOn: readonly string[] | null,
  ) {}

  /** Null: what it rests on was changed meanwhile, and it can be begun anew; never where all steps are one transaction. */
  async run(): Promise<Conversion | null> {
    try {
      const done = await this.through();
      if (!done) await this.end();
      return done;
    } catch (e) {
      if (this.restsOn) await this.tidy();
      throw e;
    }
  }
  /** Takes away what is left: when the server starts next, if it cannot now. Of one transaction nothing may be left. */
  private async tidy(): Promise<void> {
    await this.end().catch((e: unknown) => {
      if (!this.restsOn) throw e;
    });
  }
  private async end(): Promise<void> {
    const isOver = async (db: Database): Promise<boolean> =>
      !(await isRetypingBy(db, this.asked.key, this.number)) || (await endRetypingStep(db, this.asked.key));
    while (!(await this.step(isOver)));
  }

  private async through(): Promise<Conversion | null> {
    const { ws, key, from, to, mayLose, piece } = this.asked;
    const table = { ...(await ws.modelTable(key)), columns: [from] };
    const converter = await this.step(async (db) => {
      await lockTable(db, key, 'all');
      this.stamp = this.stampNow();
      if (!(await this.isAsItWas(db))) throw this.changed();
      this.number = await beginRetyping(db, key, from, to);
      return Converter.of(ws, db, from, to);
    });
    // counts stay those of the values as it met them first
    const again = converter.another();
    const write = async (db: Database, by: Converter, rows: readonly Row[]): Promise<void> => {
      const changes = await by.changes(db, rows);
      if (by.done.lost && !mayLose) throw new Losing('A value would be lost.');
      await writeRetyped(db, key, to, by === again ? changes : changes.filter((c) => c.value !== null));
    };
    let last: number | null = 0;
    while (last !== null) {
      const after: number = last;
      const upto = await this.piece('writing', async (db) => {
        const rows = await rowsAfter(db, table, after, piece);
        await write(db, converter, rows);
        return rows.at(-1)?.id ?? null;
      });
      if (upto === 'anew') return null;
      last = upto;
    }
    let isDone: boolean | 'anew' = false;
    for (let i = 0; !isDone; i++) {
      isDone = await this.piece('all', async (db) => {
        for (;;) {
          const written = await takeWritten(db, key, piece);
          await write(db, again, await rowsByIds(db, table, written));
          if (written.length < piece) break;
          if (i < FOLLOWED) return false;
        }
        await swapRetyped(db, key, from, to);
        return true;
      });
      if (isDone === 'anew') return null;
    }
    ws.modelChanged();
    await this.tidy();
    return converter.said();
  }

  /** A step in which the table is as it was left; `anew` where it is not, or texts that were gone by are others since. */
  private piece<T>(locked: 'writing' | 'all', work: (db: Database) => Promise<T>): Promise<T | 'anew'> {
    return this.step(async (db) => {
      await lockTable(db, this.asked.key, locked);
      if (this.stampNow() === this.stamp && (await isRetypingBy(db, this.asked.key, this.number))) return work(db);
      if (!(await this.isAsItWas(db))) throw this.changed();
      return 'anew';
    });
  }
  private stampNow(): number {
    if (!this.restsOn) return 0;
    const changes = changesOf(this.asked.ws.db);
    changes.lookNow();
    return changes.stampOf([...this.restsOn.map(rowsOf), 'model_tables', 'model_columns']);
  }
  private async isAsItWas(db: Database): Promise<boolean> {
    const { key, from } = this.asked;
    const column = (await readModel(db)).find((t) => t.key === key)?.columns.find((c) => c.key === from.key);
    return isDeepStrictEqual(column, from);
  }
  private changed(): Refused {
    return new Refused(409, 'changedMeanwhile', `${this.asked.from.label} was changed by somebody else meanwhile, so it stays as it is. Look at it again.`, {}); // prettier-ignore
  }
}

/** Converts values of a column, and counts what became of them. Nothing is kept in memory but counts. */
class Converter {
  readonly done = { rows: 0, filled: 0, changed: 0, lost: 0 };
  private readonly failures = new Map<string, { message: string; count: number }>();
  private constructor(
    private readonly from: Column,
    private readonly to: Column,
    private readonly shownOf: TextsOf,
    private readonly rowNamed: (text: string) => number | null,
  ) {}
  static async of(ws: Workspace, db: Database, from: Column, to: Column): Promise<Converter> {
    return new Converter(from, to, await textsOf(ws, db, from), await namesOf(ws, db, to));
  }

  /** One that counts for itself. */
  another(): Converter {
    return new Converter(this.from, this.to, this.shownOf, this.rowNamed);
  }

  /** What the values of some rows become. */
  async changes(db: Database, rows: readonly Row[]): Promise<{ id: number; value: Datum }[]> {
    const { done, from, failures } = this;
    const shown = await this.shownOf(db, rows);
    const changes: { id: number; value: Datum }[] = [];
    for (const row of rows) {
      const value = row[from.key] ?? null;
      done.rows++;
      if (value === null) {
        changes.push({ id: row.id, value });
        continue;
      }
      done.filled++;
      const converted = convertValue(from, this.to, value, shown, this.rowNamed);
      if (converted.ok) {
        if (JSON.stringify(converted.value) !== JSON.stringify(value)) done.changed++;
        changes.push({ id: row.id, value: converted.value });
        continue;
      }
      done.lost++;
      changes.push({ id: row.id, value: null });
      const text = typeof value === 'number' && targetOf(from) ? shown(value) : JSON.stringify(value);
      const known = failures.get(text);
      if (known) known.count++;
      else if (failures.size < 1000) failures.set(text, { message: converted.message, count: 1 });
    }
    return changes;
  }
  said(): Conversion {
    const examples = [...this.failures].map(([text, f]) => ({ text, ...f })).sort((a, b) => b.count - a.count).slice(0, 20); // prettier-ignore
    return { ...this.done, examples };
  }
}

type TextsOf = (db: Database, rows: readonly Row[]) => Promise<(id: number) => string>;
/** The texts that rows linked to are known by, for one page of rows at a time. */
async function textsOf(ws: Workspace, db: Database, from: Column): Promise<TextsOf> {
  const target = targetOf(from);
  if (!target) return async () => String;
  const table = await ws.modelTable(target, db);
  return async (db, rows) => {
    const ids = rows.flatMap((r) => r[from.key] ?? []).filter((v) => typeof v === 'number');
    const texts = await rowTexts(ws, table, await rowsByIds(db, table, [...new Set(ids)]), { db });
    return (id) => texts.get(id) ?? '';
  };
}

/** Which row of the new target a text names. */
async function namesOf(ws: Workspace, db: Database, to: Column): Promise<(text: string) => number | null> {
  const target = targetOf(to);
  if (!target) return () => null;
  const table = await ws.modelTable(target, db);
  const named = new Map<string, number | null>();
  for (const [id, text] of await rowTexts(ws, table, await allRows(db, table), { db })) {
    const key = foldText(text);
    named.set(key, named.has(key) ? null : id);
  }
  return (text) => named.get(foldText(text)) ?? null;
}
