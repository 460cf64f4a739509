import { type Narrowing, narrowRows } from '../../core/choices/narrowing.ts';
import { isFolded, searchRows } from '../../core/choices/order.ts';
import { distinctRows } from '../../core/engine/candidates.ts';
import type { PlanChoices } from '../../core/engine/plan.ts';
import { COUNT_CAP } from '../../core/engine/wants.ts';
import { type SqlBinding, type SqlFragment, conditionToSql } from '../../core/formula/sql.ts';
import type { Env } from '../../core/formula/env.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import type { Database } from './connection';
import type { Reading } from './reading';
import { selected } from './statement';
import type { ModelTable } from './model';
import { dialectOf } from './dialect';
import { SQL_NAMES, namesFor, inOrder, type Stored, rowFrom, toStored } from './names';
import { searchCondition } from './searchIndex';

/** A narrowing split for the database: what SQL says exactly, and what must be asked of the rows that come back. */
interface Split {
  readonly sql: readonly SqlFragment[];
  readonly rest: ReadonlySet<number>;
}

/** The values a narrowing was given, and the parts that are skipped while they wait. */
export interface Asked {
  readonly params: readonly Datum[];
  readonly open: readonly number[];
}

const ALIAS = 't';

/** Answers about what one field offers out of a large table. Reads through one prepared query per question. */
export class Lookup {
  protected readonly narrowing: Narrowing | null;
  private readonly translated: readonly (SqlFragment | null)[];

  constructor(
    protected readonly db: Database,
    protected readonly table: ModelTable,
    private readonly choices: Pick<PlanChoices, 'narrowing' | 'sort' | 'search'> & { readonly descending?: boolean },
    /** rows of other tables that a part not in SQL may read */
    private readonly env: Env,
    /** whether the table has a search index, which makes "holds this text" quick */
    private readonly searchIndexed = false,
    /** whether a table has a column: one that a draft will create has not been made yet */
    has: (table: string, column: string) => boolean = () => true,
    /** where what must go through a whole table is read, so that nobody waits for it */
    private readonly aside: Reading | null = null,
  ) {
    const names = { ...namesFor(db), has };
    const { narrowing } = choices;
    this.narrowing = narrowing;
    this.translated = (narrowing?.parts ?? []).map((p) =>
      conditionToSql(p.syntax, (narrowing as Narrowing).formula, (narrowing as Narrowing).paramNumbers, names, ALIAS),
    );
  }

  /** One page of what is offered, in the field's order; those that begin with the searched text first. */
  async page(asked: Asked, search: string, offset: number, limit: number): Promise<{ rows: Row[]; more: boolean }> {
    const split = this.split(asked);
    if (!split.rest.size) {
      const rows =
        search.trim() === '' || !this.choices.search.length
          ? await this.query(asked, split.sql, search, limit + 1, offset)
          : await this.searched(asked, split.sql, search, limit + 1, offset);
      return { rows: rows.slice(0, limit), more: rows.length > limit };
    }
    const rows: Row[] = [];
    let skipped = 0;
    for (let at = 0; ; at += CHUNK) {
      const chunk = await this.query(asked, split.sql, search, CHUNK, at);
      for (const row of this.keep(asked, split, chunk)) {
        if (skipped < offset) skipped++;
        else if (rows.length === limit) return { rows, more: true };
        else rows.push(row);
      }
      if (chunk.length < CHUNK) return { rows, more: false };
    }
  }

  /**
   * Rows that begin with a text, straight off the index of their names; only when these are too few, rows that hold it
   * elsewhere. So a text that a million rows begin with costs no more than one that few do.
   */
  private async searched(asked: Asked, sql: readonly SqlFragment[], search: string, limit: number, offset: number): Promise<Row[]> {
    const sought = foldText(search.trim());
    const fold = (c: string): string => SQL_NAMES.foldColumn(ALIAS, c);
    // the range serves the index, instr says it exactly
    const begins = this.choices.search.map((c) => `(${fold(c)} >= ? AND ${fold(c)} < ? AND instr(${fold(c)}, ?) = 1)`).join(' OR ');
    const bound = this.choices.search.flatMap(() => [sought, `${sought}\u{10ffff}`, sought]);
    const constant = (text: string, values: readonly string[]): SqlFragment => ({
      sql: text,
      bindings: values.map((value) => ({ value, fold: false })),
    });
    const first = [...sql, constant(`(${begins})`, bound)];
    const rows = await this.query(asked, first, '', limit, offset);
    if (rows.length === limit) return rows;
    const before = offset === 0 ? rows.length : await this.countWhere(asked, first);
    const rest = constant(`NOT coalesce(${begins}, FALSE)`, bound);
    return [...rows, ...(await this.query(asked, [...sql, rest], search, limit - rows.length, Math.max(0, offset - before), false))];
  }

  /** Whether a part of the narrowing must be asked of rows in memory, and so may read rows of other tables. */
  asksInMemory(asked: Asked): boolean {
    return this.split(asked).rest.size > 0;
  }

  /** How many are offered, counted up to a cap, and the id of the only one. */
  async count(asked: Asked): Promise<{ total: number; capped: boolean; only: number | string | null }> {
    const split = this.split(asked);
    if (split.rest.size) {
      const { rows, more } = await this.page(asked, '', 0, COUNT_CAP);
      return { total: rows.length, capped: more, only: rows.length === 1 ? (rows[0]?.id ?? null) : null };
    }
    const { where, bindings } = this.where(asked, split.sql, '');
    const sql = `SELECT count(*) AS n, min(id) AS only FROM (SELECT ${ALIAS}.id AS id FROM ${SQL_NAMES.table(this.table.key)} ${ALIAS}${where} LIMIT ?) AS found`;
    const [row] = (await selected(this.db, sql, [...bindings, COUNT_CAP + 1])) as { n: number; only: number | null }[];
    const n = row?.n ?? 0;
    return { total: Math.min(n, COUNT_CAP), capped: n > COUNT_CAP, only: n === 1 ? (row?.only ?? null) : null };
  }

  /** Whether one row is offered. */
  async offered(asked: Asked, value: number | string): Promise<boolean> {
    if (typeof value !== 'number') return false;
    const split = this.split(asked);
    const own: SqlFragment = { sql: `${SQL_NAMES.column(ALIAS, 'id')} = ?`, bindings: [{ value, fold: false }] };
    return this.keep(asked, split, await this.query(asked, [...split.sql, own], '', 1, 0)).length === 1;
  }

  /** Rows before narrowing and after each part: one count a part. */
  async funnel(asked: Asked): Promise<{ all: number; remaining: number[] }> {
    const all = await this.countWhere(asked, []);
    const remaining: number[] = [];
    let before = all;
    for (let n = 0; n < this.translated.length; n++) {
      const later = [...this.translated.keys()].filter((part) => part > n);
      const partial = { ...asked, open: [...asked.open, ...later] };
      const split = this.split(partial);
      before = split.rest.size ? (await this.count(partial)).total : await this.countWhere(partial, split.sql);
      remaining.push(before);
    }
    return { all, remaining };
  }

  /** The statement a page is read with; tests assert its query plan. */
  explain(asked: Asked, search: string): { sql: string; bindings: Stored[] } {
    return this.statement(asked, this.split(asked).sql, search, 50, 0);
  }

  private async countWhere(asked: Asked, sql: readonly SqlFragment[]): Promise<number> {
    const { where, bindings } = this.where(asked, sql, '');
    const [row] = (await selected(this.db, `SELECT count(*) AS n FROM ${SQL_NAMES.table(this.table.key)} ${ALIAS}${where}`, bindings)) as {
      n: number;
    }[];
    return row?.n ?? 0;
  }

  protected split(asked: Asked): Split {
    const sql: SqlFragment[] = [];
    const rest = new Set<number>();
    this.translated.forEach((fragment, number) => {
      if (asked.open.includes(number)) return;
      if (fragment) sql.push(fragment);
      else rest.add(number);
    });
    return { sql, rest };
  }

  /** The rows that meet the parts SQL did not ask. */
  protected keep(asked: Asked, split: Split, rows: readonly Row[]): readonly Row[] {
    if (!this.narrowing) return rows;
    const open = new Set<number>(asked.open);
    this.translated.forEach((_, number) => !split.rest.has(number) && open.add(number));
    this.env.params = asked.params;
    return narrowRows(this.narrowing, rows, open, this.env).rows;
  }

  protected bind = (binding: SqlBinding, params: readonly Datum[]): Stored => {
    const value = 'param' in binding ? (params[binding.param] ?? null) : binding.value;
    return binding.fold && typeof value === 'string' ? foldText(value) : toStored(value);
  };

  /** Whether a condition that counts now asks for rows that hold one value in a column: an index finds them, few of many. */
  protected isNarrow({ open }: Asked): boolean {
    const bindings = this.narrowing?.formula.bindings;
    return (this.narrowing?.parts ?? []).some(
      ({ equates }, number) =>
        this.translated[number] &&
        !open.includes(number) &&
        equates?.syntax.kind === 'member' &&
        bindings?.get(equates.syntax.object)?.source.kind === 'candidate',
    );
  }
  /** The search index, where it helps: rows that an equality has found already are sooner looked through. */
  private preselects(asked: Asked, sought: string): ReturnType<typeof searchCondition> {
    return this.searchIndexed && !this.isNarrow(asked)
      ? searchCondition(dialectOf(this.db), this.table.key, this.choices.search, sought)
      : null;
  }
  /** Whether a search may take long: it goes through the whole table, or through all that has the same letters somewhere. */
  protected mayTakeLong(asked: Asked, search: string): boolean {
    return search.trim() !== '' && !this.isNarrow(asked);
  }

  protected where(asked: Asked, sql: readonly SqlFragment[], search: string): { where: string; bindings: Stored[] } {
    const conditions = sql.map((f) => f.sql);
    const bindings = sql.flatMap((f) => f.bindings.map((b) => this.bind(b, asked.params)));
    if (this.table.seen) {
      conditions.push(this.table.seen.sql(ALIAS));
      bindings.push(...this.table.seen.bindings);
    }
    const sought = foldText(search.trim());
    if (sought !== '') {
      const indexed = this.preselects(asked, sought);
      if (indexed) {
        conditions.push(indexed.sql);
        bindings.push(...indexed.bindings);
      }
      const columns = this.choices.search.map((c) => SQL_NAMES.foldColumn(ALIAS, c));
      conditions.push(columns.length ? `(${columns.map((c) => `instr(${c}, ?) > 0`).join(' OR ')})` : '1 = 0');
      bindings.push(...columns.map(() => sought));
    }
    return { where: conditions.length ? ` WHERE ${conditions.join(' AND ')}` : '', bindings };
  }

  private statement(
    asked: Asked,
    sql: readonly SqlFragment[],
    search: string,
    limit: number,
    offset: number,
    beginsFirst = true,
  ): { sql: string; bindings: Stored[] } {
    const { where, bindings } = this.where(asked, sql, search);
    const columns = ['id', ...this.table.columns.map((c) => c.key)].map((c) => SQL_NAMES.column(ALIAS, c)).join(', ');
    const order: string[] = [];
    const sought = foldText(search.trim());
    if (sought !== '' && beginsFirst && this.choices.search.length) {
      const begins = this.choices.search.map((c) => `instr(${SQL_NAMES.foldColumn(ALIAS, c)}, ?) = 1`);
      // a column that is empty gives NULL, which must count as "does not begin"
      order.push(`CASE WHEN ${begins.map((b) => `coalesce(${b}, FALSE)`).join(' OR ')} THEN 0 ELSE 1 END`);
      bindings.push(...begins.map(() => sought));
    }
    const way = inOrder(this.choices.descending === true);
    for (const c of this.choices.sort)
      order.push((isFolded(c.type) ? SQL_NAMES.foldColumn(ALIAS, c.key) : SQL_NAMES.column(ALIAS, c.key)) + way);
    order.push(SQL_NAMES.column(ALIAS, 'id'));
    const text = `SELECT ${columns} FROM ${SQL_NAMES.table(this.table.key)} ${ALIAS}${where} ORDER BY ${order.join(', ')} LIMIT ? OFFSET ?`;
    return { sql: text, bindings: [...bindings, limit, offset] };
  }

  protected async read(sql: string, bindings: readonly Stored[], isLong: boolean): Promise<readonly Record<string, unknown>[]> {
    return isLong && this.aside ? ((await this.aside.raw(sql, bindings)) as Record<string, unknown>[]) : selected(this.db, sql, bindings);
  }
  protected async query(
    asked: Asked,
    sql: readonly SqlFragment[],
    search: string,
    limit: number,
    offset: number,
    beginsFirst = true,
  ): Promise<Row[]> {
    const { sql: text, bindings } = this.statement(asked, sql, search, limit, offset, beginsFirst);
    const raw = await this.read(text, bindings, this.mayTakeLong(asked, search));
    return raw.map((r) => rowFrom(r, this.table.columns));
  }
}

/** How many rows are read at a time when a part of the condition is not for SQL. */
const CHUNK = 1000;

/** Answers about the distinct values of one text column, each once without regard to case, as `distinctRows` of core gives them. */
export class DistinctLookup extends Lookup {
  constructor(
    db: Database,
    table: ModelTable,
    choices: Pick<PlanChoices, 'narrowing' | 'sort'>,
    env: Env,
    private readonly column: string,
    searchIndexed = false,
    has?: (table: string, column: string) => boolean,
    aside: Reading | null = null,
  ) {
    super(db, table, { ...choices, search: [column] }, env, searchIndexed, has, aside);
  }

  /** Each value once: of all rows, unless an equality narrows them. */
  protected override mayTakeLong(asked: Asked): boolean {
    return !this.isNarrow(asked);
  }
  override async page(asked: Asked, search: string, offset: number, limit: number): Promise<{ rows: Row[]; more: boolean }> {
    const rows = await this.values(asked, search, limit + 1, offset);
    return { rows: rows.slice(0, limit), more: rows.length > limit };
  }

  override async count(asked: Asked): Promise<{ total: number; capped: boolean; only: number | string | null }> {
    const rows = await this.values(asked, '', COUNT_CAP + 1, 0);
    const only = rows.length === 1 ? String(rows[0]?.value) : null;
    return { total: Math.min(rows.length, COUNT_CAP), capped: rows.length > COUNT_CAP, only };
  }

  override async offered(asked: Asked, value: number | string): Promise<boolean> {
    const near = await this.values(asked, String(value), COUNT_CAP, 0);
    return near.some((r) => r.value === value);
  }

  /** Values in order, those beginning with the searched text first. The row with the lowest id gives the spelling. */
  private async values(asked: Asked, search: string, limit: number, offset: number): Promise<Row[]> {
    const split = this.split(asked);
    if (split.rest.size) {
      const all: Row[] = [];
      for (let at = 0; ; at += CHUNK) {
        const chunk = await this.query(asked, split.sql, '', CHUNK, at);
        all.push(...this.keep(asked, split, chunk));
        if (chunk.length < CHUNK) break;
      }
      return searchRows(distinctRows(all, this.column), ['label'], search).slice(offset, offset + limit);
    }
    const fold = SQL_NAMES.foldColumn(ALIAS, this.column);
    const { where, bindings } = this.where(asked, split.sql, search);
    const sought = foldText(search.trim());
    const begins = sought === '' ? '' : `CASE WHEN instr(v.fold, ?) = 1 THEN 0 ELSE 1 END, `;
    const table = SQL_NAMES.table(this.table.key);
    const sql = `SELECT ${SQL_NAMES.column('r', 'id')} AS id, ${SQL_NAMES.column('r', this.column)} AS value
      FROM (SELECT min(${SQL_NAMES.column(ALIAS, 'id')}) AS id, ${fold} AS fold FROM ${table} ${ALIAS}${where}${where ? ' AND' : ' WHERE'} ${fold} IS NOT NULL GROUP BY ${fold}) v
      JOIN ${table} r ON ${SQL_NAMES.column('r', 'id')} = v.id ORDER BY ${begins}v.fold LIMIT ? OFFSET ?`;
    const bound = [...bindings, ...(sought === '' ? [] : [sought]), limit, offset];
    const raw = (await this.read(sql, bound, this.mayTakeLong(asked))) as { id: number; value: string }[];
    return raw.map((r) => ({ id: r.id, value: r.value, label: r.value }));
  }
}
