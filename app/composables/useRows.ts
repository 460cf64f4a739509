import type { contract } from '~~/core/contract/index.ts';
import type { Sent } from '~~/core/contract/define.ts';
import { type Column, targetOf } from '~~/core/model/tables.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

export type GridRow = Answer<typeof contract.tables.rows>['rows'][number];
/** A page of rows as the server answers it, with the texts of the rows they link to. */
export interface RowsPage<R> {
  readonly rows: readonly R[];
  readonly total: number;
  readonly linked: Readonly<Record<string, Readonly<Record<number, string>>>>;
}
export type LinkingRows = Answer<typeof contract.tables.look>['children'][number];
/** What is asked of a window: searched, sorted, and which rows. */
export type RowsQuery = NonNullable<Sent<typeof contract.tables.rows.query>>;
/** A place in the table; its row is null until it was read, and where the head of a group stands. */
export interface RowLine<R> {
  readonly index: number;
  readonly row: R | null;
  /** of the head of a group: which */
  readonly group?: number;
}

/**
 * The places of a table as PrimeVue's table takes them: as long as there are rows, though only those that were read are kept, and a
 * place is made when it is drawn. What comes into view is all that is ever asked of it, by `slice`; anything else would find holes.
 */
class RowLines<R> extends Array<RowLine<R>> {
  static override get [Symbol.species](): ArrayConstructor {
    return Array;
  }
  /** places drawn before their rows were read: the same as long as nothing changes */
  private readonly empty = new Map<number, RowLine<R>>();
  private constructor(
    private readonly read: ReadonlyMap<number, RowLine<R>>,
    private readonly groups: GroupLines | null,
  ) {
    super();
  }
  static made<R>(read: ReadonlyMap<number, RowLine<R>>, total: number, groups: GroupLines | null): RowLines<R> {
    const lines = new RowLines(read, groups);
    lines.length = groups ? groups.length : total;
    // otherwise every change of it is walked through to its last place
    return markRaw(lines);
  }
  override slice(first = 0, end = this.length): RowLine<R>[] {
    const from = Math.max(0, first);
    const count = Math.max(0, Math.min(end, this.length) - from);
    return Array.from({ length: count }, (_, i) => this.lineAt(from + i));
  }
  private lineAt(index: number): RowLine<R> {
    const at = this.groups?.at(index);
    if (!at) return this.read.get(index) ?? this.placeAt(index);
    if (at.row === null) return this.placeAt(index, at.group);
    const row = this.read.get(at.row)?.row;
    // what is drawn is known by its line, which is not the row's place among rows here
    return row ? { index, row } : this.placeAt(index);
  }
  private placeAt(index: number, group?: number): RowLine<R> {
    const place = this.empty.get(index) ?? (group === undefined ? { index, row: null } : { index, row: null, group });
    this.empty.set(index, place);
    return place;
  }
}
export type RowsWindow<R extends { readonly row: Row }> = ReturnType<typeof useRows<R, RowsPage<R>>>;

const PAGE = 100;

/**
 * A window onto rows of any number: pages are read as they come into view, sorted and searched by the database. What the server
 * says beside the rows stands in `said`.
 */
export function useRows<R extends { readonly row: Row }, P extends RowsPage<R>>(
  read: (query: RowsQuery) => Promise<P & RowsPage<R>>,
  descending = false,
  /** how many rows each group has, where they are grouped */
  groupCounts: () => readonly number[] | null = () => null,
) {
  const total = ref(0);
  /** the rows that were read, by their places */
  const here = new Map<number, RowLine<R>>();
  const lines = shallowRef<readonly RowLine<R>[]>([]);
  const said = shallowRef<P | null>(null);
  const linked = reactive<Record<string, Record<number, string>>>({});
  const search = ref('');
  const sort = ref<{ column: string | null; descending: boolean }>({ column: null, descending });
  const failed = shallowRef<{ readonly code: string; readonly message: string } | null>(null);
  const ready = ref(false);
  let generation = 0;
  let anew = false;
  const known = new Set<number>();

  /** groups that were shut, by their place */
  const shut = ref<ReadonlySet<number>>(new Set());
  let groups: GroupLines | null = null;
  function draw(): void {
    const counts = groupCounts();
    groups = counts && new GroupLines(counts, shut.value);
    lines.value = RowLines.made(here, total.value, groups);
  }
  /** Shuts a group, or opens it again. */
  function toggle(group: number): void {
    const next = new Set(shut.value);
    if (!next.delete(group)) next.add(group);
    shut.value = next;
    draw();
    need(looked.first, Math.min(looked.last, lines.value.length - 1));
  }

  const put = (index: number, row: R): void => void here.set(index, { index, row });
  async function readPage(number: number): Promise<void> {
    if (known.has(number)) return;
    known.add(number);
    const mine = generation;
    try {
      const query: RowsQuery = {
        search: search.value,
        sort: sort.value.column ?? undefined,
        descending: sort.value.descending ? '1' : '0',
        offset: number * PAGE,
        limit: PAGE,
      };
      const page = await read(query);
      if (mine !== generation) return;
      said.value = page;
      for (const [key, texts] of Object.entries(page.linked)) Object.assign((linked[key] ??= {}), texts);
      // read anew from the start: rows further down are not what they were, and are read again as they are needed
      if (anew) here.clear();
      anew = false;
      page.rows.forEach((row, i) => put(number * PAGE + i, row));
      total.value = page.total;
      draw();
      ready.value = true;
      failed.value = null;
    } catch (e) {
      known.delete(number);
      if (mine === generation) failed.value = { code: e instanceof ApiError ? e.code : 'failed', message: messageOf(e) };
    }
  }
  /** what was looked at last, which is read again when all is */
  let looked = { first: 0, last: 0 };
  /** Makes sure the rows from `first` to `last` are here or on their way. */
  function need(first: number, last: number): void {
    looked = { first, last };
    for (const [from, to] of groups ? groups.rowsIn(first, last) : [[first, last] as const]) needRows(from, to);
  }
  function needRows(first: number, last: number): void {
    for (let p = Math.floor(first / PAGE); p <= Math.floor(Math.max(0, last) / PAGE); p++) void readPage(p);
  }
  /** Reads anew from the start: what was sorted, searched, added or taken out. The rows that stand there stay until others come. */
  async function again(): Promise<void> {
    generation++;
    known.clear();
    anew = true;
    await readPage(0);
    const end = Math.max(0, lines.value.length - 1);
    need(Math.min(looked.first, end), Math.min(looked.last, end));
  }
  const at = (index: number): R | undefined => (index < lines.value.length ? (here.get(index)?.row ?? undefined) : undefined);
  /** The row of this id as it was last read, wherever sorting has put it; none when it is not among the rows read. */
  const find = (id: number): R | undefined => [...here.values()].find((l) => l.row?.row.id === id)?.row ?? undefined;
  function replace(row: R): void {
    for (const { index, row: r } of here.values()) if (r?.row.id === row.row.id) put(index, row);
    draw();
  }
  /** Sorts by a column; pressed again, the other way round. */
  function sortBy(column: string): void {
    const same = sort.value.column === column;
    sort.value = { column, descending: same ? !sort.value.descending : false };
    void again();
  }
  return { total, lines, said, linked, search, sort, failed, ready, shut, need, again, at, find, replace, sortBy, toggle };
}

/** What changes rows of a table: each answers with the row as it is now. Throws ApiError. */
export const tableRows = (key: string) => ({
  save: (row: GridRow, values: Readonly<Record<string, Datum>>) =>
    api.tables.changeRow({ key, id: row.row.id }, { revision: row.revision, values }),
  add: (values: Readonly<Record<string, Datum>>) => api.tables.addRow({ key }, { values }),
  remove: (row: GridRow) => api.tables.removeRow({ key, id: row.row.id }),
});

/** A cell as readers see it; links by the text of their row. */
export function cellText(
  column: Pick<Column, 'type' | 'target' | 'decimals'>,
  value: Datum,
  linked: Readonly<Record<string, Readonly<Record<number, string>>>>,
): string {
  if (value === null || value === undefined) return '';
  if (Array.isArray(value)) return (value as readonly Datum[]).map((v) => cellText(column, v, linked)).join(', ');
  const target = targetOf(column);
  if (target && typeof value === 'number') return linked[target]?.[value] ?? `row ${value}`;
  return showPlain(column.type, value, column.decimals);
}
