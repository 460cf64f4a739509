import type { Column } from '~~/core/form/tables.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

export interface GridRow {
  readonly row: Row;
  readonly revision: number;
}
interface Window {
  readonly rows: readonly GridRow[];
  readonly total: number;
  readonly linked: Readonly<Record<string, Readonly<Record<number, string>>>>;
}
export interface LinkingRows {
  readonly table: string;
  readonly label: string;
  readonly columnLabel: string;
  readonly count: number;
  readonly rows: readonly { readonly id: number; readonly text: string }[];
}

const PAGE = 100;

/** A window onto a table of any length: pages are read as they come into view, sorted and searched by the database. */
export function useGrid(table: string) {
  const total = ref(0);
  const pages = shallowReactive(new Map<number, readonly GridRow[]>());
  const linked = reactive<Record<string, Record<number, string>>>({});
  const search = ref('');
  const sort = ref<{ column: string | null; descending: boolean }>({ column: null, descending: false });
  const failed = ref('');
  const ready = ref(false);
  let generation = 0;
  const underWay = new Set<number>();

  async function readPage(number: number): Promise<void> {
    if (pages.has(number) || underWay.has(number)) return;
    underWay.add(number);
    const mine = generation;
    try {
      const query = {
        search: search.value,
        sort: sort.value.column ?? undefined,
        descending: sort.value.descending ? '1' : '0',
        offset: number * PAGE,
        limit: PAGE,
      };
      const window = await api<Window>(`tables/${table}/rows`, { query });
      if (mine !== generation) return;
      total.value = window.total;
      for (const [key, texts] of Object.entries(window.linked)) Object.assign((linked[key] ??= {}), texts);
      pages.set(number, window.rows);
      ready.value = true;
      failed.value = '';
    } catch (e) {
      if (mine === generation) failed.value = messageOf(e);
    } finally {
      underWay.delete(number);
    }
  }
  /** Makes sure the rows from `first` to `last` are here or on their way. */
  function need(first: number, last: number): void {
    for (let p = Math.floor(first / PAGE); p <= Math.floor(Math.max(0, last) / PAGE); p++) void readPage(p);
  }
  async function again(): Promise<void> {
    generation++;
    underWay.clear();
    pages.clear();
    await readPage(0);
  }
  const at = (index: number): GridRow | undefined => pages.get(Math.floor(index / PAGE))?.[index % PAGE];
  /** The row of this id as it was last read, wherever sorting has put it; none when it is not among the rows read. */
  function find(id: number): GridRow | undefined {
    for (const rows of pages.values()) {
      const row = rows.find((r) => r.row.id === id);
      if (row) return row;
    }
    return undefined;
  }
  function replace(row: GridRow): void {
    for (const [page, rows] of pages)
      if (rows.some((r) => r.row.id === row.row.id)) pages.set(page, rows.map((r) => (r.row.id === row.row.id ? row : r))); // prettier-ignore
  }

  const save = (row: GridRow, values: Readonly<Record<string, Datum>>): Promise<GridRow> =>
    api<GridRow>(`tables/${table}/rows/${row.row.id}`, { method: 'PATCH', body: { revision: row.revision, values } });
  const add = (values: Readonly<Record<string, Datum>>): Promise<GridRow> => api<GridRow>(`tables/${table}/rows`, { body: { values } });
  const remove = (row: GridRow): Promise<GridRow> => api<GridRow>(`tables/${table}/rows/${row.row.id}`, { method: 'DELETE' });

  return { total, linked, search, sort, failed, ready, need, again, at, find, replace, save, add, remove };
}

/** A cell as readers see it; links by the text of their row. */
export function cellText(column: Column, value: Datum, linked: Readonly<Record<string, Readonly<Record<number, string>>>>): string {
  if (value === null || value === undefined) return '';
  const target = column.type === 'person' ? 'people' : column.type === 'link' ? column.target : null;
  if (target && typeof value === 'number') return linked[target]?.[value] ?? `row ${value}`;
  return showTyped(undefined as never, undefined as never, { kind: column.type as 'text' }, value, column.decimals);
}
