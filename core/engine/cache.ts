import type { Datum, Row } from '../values/types.ts';
import { type Answer, type Answered, type ListAsked, type Want, listKey, wantKey } from './wants.ts';

const OFFERED: Answer = Object.freeze({ kind: 'offered', offered: true });

interface WholeTable {
  readonly rows: readonly Row[];
  readonly byId: ReadonlyMap<number, Row>;
}

const indexes = new WeakMap<readonly Row[], ReadonlyMap<number, Row>>();
/** Rows by their id; made once for the same array, which nobody may change. */
export function byId(rows: readonly Row[]): ReadonlyMap<number, Row> {
  let index = indexes.get(rows);
  if (!index) indexes.set(rows, (index = new Map(rows.map((r) => [r.id, r]))));
  return index;
}

/**
 * What is known of the data: whole small tables, single rows of large ones, answers about lists. Shared by all
 * entries of a screen, so that nothing is fetched twice; it holds answers by want, so a late answer to an old
 * question can never stand for a new one.
 */
export class DataCache {
  private readonly tables = new Map<string, WholeTable>();
  private readonly rows = new Map<string, Map<number, Row | null>>();
  /** by the key of what they answer */
  private readonly answers = new Map<string, Answered>();
  /** the values that lists were seen to offer, by list: whoever chooses from a page need not ask whether it was offered */
  private readonly seen = new Map<string, Set<Datum>>();
  private changes = 0;
  private heard = 0;

  /** Another number after each change of what is known of rows: what was worked out from them may differ then. */
  get version(): number {
    return this.changes;
  }

  /** Another number after each change of what else is known: what was worked out from answers about lists may differ then. */
  get answerVersion(): number {
    return this.heard;
  }

  table(key: string): WholeTable | null {
    return this.tables.get(key) ?? null;
  }

  /** undefined: not known; null: there is no such row */
  row(table: string, id: number): Row | null | undefined {
    const whole = this.tables.get(table);
    if (whole) return whole.byId.get(id) ?? null;
    return this.rows.get(table)?.get(id);
  }

  answer(want: Want): Answer | null {
    if (want.kind === 'offered' && this.seen.size && this.seen.get(listKey(want))?.has(want.value)) return OFFERED;
    return this.answers.get(wantKey(want))?.answer ?? null;
  }
  /** A list was seen to offer these values: ids, or what its candidates store. */
  sawOffered(list: ListAsked, values: readonly Datum[]): void {
    const key = listKey(list);
    let seen = this.seen.get(key);
    if (!seen) this.seen.set(key, (seen = new Set<Datum>()));
    for (const value of values) seen.add(value);
  }

  /** Takes answers in; rows that come with one are known singly too. */
  supply(answered: readonly Answered[], tableOf: (want: Want) => string | null): void {
    for (const { want, answer } of answered) {
      if (answer.kind === 'table' && want.kind === 'table') {
        this.changes++;
        this.tables.set(want.table, { rows: answer.rows, byId: byId(answer.rows) });
      } else if (answer.kind === 'row' && want.kind === 'row') {
        this.setRow(want.table, want.id, answer.row);
      } else {
        const table = 'rows' in answer || answer.kind === 'last' ? tableOf(want) : null;
        const rows = 'rows' in answer ? answer.rows : answer.kind === 'last' && answer.row ? [answer.row] : [];
        if (table) for (const row of rows) this.setRow(table, row.id, row);
        this.heard++;
        this.answers.set(wantKey(want), { want, answer });
      }
    }
  }

  setRow(table: string, id: number, row: Row | null): void {
    this.changes++;
    let rows = this.rows.get(table);
    if (!rows) this.rows.set(table, (rows = new Map<number, Row | null>()));
    rows.set(id, row);
  }

  /** Forgets answers about lists: after a narrowing was changed, the same question means something else. */
  forgetLists(): void {
    this.heard++;
    this.answers.clear();
    this.seen.clear();
  }

  /** Forgets all that is known of a table's rows, so that it is asked for again. */
  forgetTable(table: string, tableOf: (want: Want) => string | null): void {
    this.changes++;
    this.heard++;
    this.tables.delete(table);
    this.rows.delete(table);
    for (const [key, { want }] of this.answers) if (tableOf(want) === table) this.answers.delete(key);
    // which of them are of the table is not told apart: they are asked for again
    this.seen.clear();
  }

  /** Forgets failures, so that asking again asks again. */
  forgetFailures(): void {
    this.heard++;
    for (const [key, { answer }] of this.answers) if (answer.kind === 'failed') this.answers.delete(key);
  }

  failureOf(want: Want): string | null {
    const answer = this.answer(want);
    return answer?.kind === 'failed' ? answer.reason : null;
  }
}
