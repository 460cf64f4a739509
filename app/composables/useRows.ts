import type { contract } from '~~/core/contract/index.ts';
import type { Sent } from '~~/core/contract/define.ts';
import type { Column } from '~~/core/form/tables.ts';
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
/** A place in the table; its row is null until it was read. */
export interface RowLine<R> {
  readonly index: number;
  readonly row: R | null;
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
) {
  const total = ref(0);
  const lines = shallowRef<readonly RowLine<R>[]>([]);
  const said = shallowRef<P | null>(null);
  const linked = reactive<Record<string, Record<number, string>>>({});
  const search = ref('');
  const sort = ref<{ column: string | null; descending: boolean }>({ column: null, descending });
  const failed = shallowRef<{ readonly code: string; readonly message: string } | null>(null);
  const ready = ref(false);
  let generation = 0;
  const known = new Set<number>();

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
      const first = number * PAGE;
      const next =
        page.total === lines.value.length
          ? [...lines.value]
          : Array.from({ length: page.total }, (_, index) => lines.value[index] ?? { index, row: null });
      page.rows.forEach((row, i) => (next[first + i] = { index: first + i, row }));
      lines.value = next;
      total.value = page.total;
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
    for (let p = Math.floor(first / PAGE); p <= Math.floor(Math.max(0, last) / PAGE); p++) void readPage(p);
  }
  /** Reads anew from the start: what was sorted, searched, added or taken out. The rows that stand there stay until others come. */
  async function again(): Promise<void> {
    generation++;
    known.clear();
    const seen = lines.value;
    await readPage(0);
    // rows further down are not what they were; they are read again as they are needed
    if (seen !== lines.value) lines.value = lines.value.map((l) => (l.index < PAGE ? l : { index: l.index, row: null }));
    need(Math.min(looked.first, Math.max(0, total.value - 1)), Math.min(looked.last, Math.max(0, total.value - 1)));
  }
  const at = (index: number): R | undefined => lines.value[index]?.row ?? undefined;
  /** The row of this id as it was last read, wherever sorting has put it; none when it is not among the rows read. */
  const find = (id: number): R | undefined => lines.value.find((l) => l.row?.row.id === id)?.row ?? undefined;
  function replace(row: R): void {
    lines.value = lines.value.map((l) => (l.row?.row.id === row.row.id ? { ...l, row } : l));
  }
  /** Sorts by a column; pressed again, the other way round. */
  function sortBy(column: string): void {
    const same = sort.value.column === column;
    sort.value = { column, descending: same ? !sort.value.descending : false };
    void again();
  }
  return { total, lines, said, linked, search, sort, failed, ready, need, again, at, find, replace, sortBy };
}

/** What changes rows of a table: each answers with the row as it is now. Throws ApiError. */
export const tableRows = (key: string) => ({
  save: (row: GridRow, values: Readonly<Record<string, Datum>>) =>
    api.tables.changeRow({ key, id: row.row.id }, { revision: row.revision, values }),
  add: (values: Readonly<Record<string, Datum>>) => api.tables.addRow({ key }, { values }),
  remove: (row: GridRow) => api.tables.removeRow({ key, id: row.row.id }),
});

/** A cell as readers see it; links by the text of their row. */
export function cellText(column: Column, value: Datum, linked: Readonly<Record<string, Readonly<Record<number, string>>>>): string {
  if (value === null || value === undefined) return '';
  const target = column.type === 'person' ? 'people' : column.type === 'link' ? column.target : null;
  if (target && typeof value === 'number') return linked[target]?.[value] ?? `row ${value}`;
  return showPlain(column.type, value, column.decimals);
}
