import { type ReadRow, shownTextOf } from '../choices/shownText.ts';
import { FILES, isSeveral, targetOf } from '../model/tables.ts';
import { showAs } from '../values/kinds/index.ts';
import { foldText } from '../values/text.ts';
import type { Datum, Row } from '../values/types.ts';
import type { DataCache } from './cache.ts';
import { storedOf } from './candidates.ts';
import type { Plan, PlanField } from './plan.ts';

/* What rows are called where they are shown, and which row is meant by what somebody calls it. `locale` is the reader's. */

/** A table whose rows are known by a link to one whose rows are known by a link … ends somewhere. */
const MOST_LINKS = 4;

/** A row as people know it: its shown column, or another one. Takes its table and number; a row that is not here yet is “…”. */
export function rowText(plan: Plan, cache: DataCache, table: string, id: number, locale: string, column: string | null = null): string {
  const row = cache.row(table, id);
  const shown = column ?? (table === FILES ? 'name' : (plan.tables.get(table)?.shown ?? null));
  if (!row) return row === null ? `row ${id} (gone)` : '…';
  return shown ? columnText(plan, cache, table, row, shown, locale) || `row ${id}` : `row ${id}`;
}

/** What stands in a column of a row, for readers; a link as the row it leads to is known. */
function columnText(plan: Plan, cache: DataCache, table: string, row: Row, column: string, locale: string, depth = 0): string {
  const value = row[column];
  if (value === null || value === undefined) return '';
  const described = plan.tables.get(table)?.columns.find((c) => c.key === column);
  const target = described && depth < MOST_LINKS ? targetOf(described) : null;
  if (target !== null)
    return [value]
      .flat()
      .map((v) => {
        const linked = typeof v === 'number' ? cache.row(target, v) : null;
        const shown = plan.tables.get(target)?.shown;
        return (linked && shown && columnText(plan, cache, target, linked, shown, locale, depth + 1)) || `row ${String(v)}`;
      })
      .join(', ');
  return showAs(described?.type ?? 'text', value, { locale, decimals: described?.decimals ?? null, format: null });
}

/** A candidate of a list: its shown text and what stands beside it. */
export function candidateText(
  plan: Plan,
  field: PlanField,
  row: Row,
  cache: DataCache,
  locale: string,
): { text: string; beside: readonly string[] } {
  const source = field.definition.source;
  const table = field.choices?.table;
  if (source?.kind !== 'rows' || !table) {
    const whole = source?.kind === 'list' && source.level === null;
    return { text: String(row.label ?? row.value ?? ''), beside: whole ? [String(row.path ?? '')] : [] };
  }
  const read: ReadRow = (t, id) => cache.row(t, id) ?? null;
  const own = field.choices ? shownTextOf(field.choices, row, read) : null;
  const plain = source.show ? columnText(plan, cache, table, row, source.show, locale) : '';
  const beside = source.beside.map((c) => columnText(plan, cache, table, row, c, locale)).filter((t) => t !== '');
  return { text: own ?? (plain || `row ${row.id}`), beside };
}

/** Candidates by what they are called, folded; null where several are called so. */
type Called = ReadonlyMap<string, Row | null>;

function calledBy(rows: readonly Row[], namesOf: (row: Row, at: number) => readonly string[]): Called {
  const called = new Map<string, Row | null>();
  for (const [at, row] of rows.entries())
    for (const name of namesOf(row, at)) {
      const key = foldText(name);
      called.set(key, called.get(key) === undefined || called.get(key) === row ? row : null);
    }
  return called;
}

/** What the candidates of a list are called: worked out once for the same ones, as long as nothing new is known of what they link to. */
class CandidateNames {
  private readonly texts: readonly { text: string; beside: readonly string[] }[];
  private readonly known: (Called | undefined)[] = [];

  constructor(
    plan: Plan,
    private readonly field: PlanField,
    private readonly rows: readonly Row[],
    private readonly cache: DataCache,
    private readonly locale: string,
    private readonly version = cache.version,
  ) {
    this.texts = rows.map((row) => candidateText(plan, field, row, cache, locale));
  }
  isOf(cache: DataCache, locale: string): boolean {
    return cache === this.cache && cache.version === this.version && locale === this.locale;
  }
  /** By what they are shown by, what they are stored as, and what stands beside them, in that order. */
  *ways(): Generator<Called> {
    const { rows, field, texts, known } = this;
    yield (known[0] ??= calledBy(rows, (_, at) => [texts[at]?.text ?? '']));
    yield (known[1] ??= calledBy(rows, (row) => [String(storedOf(field, row) as string)]));
    yield (known[2] ??= calledBy(rows, (_, at) => texts[at]?.beside ?? []));
  }
}
const namesKnown = new WeakMap<readonly Row[], Map<PlanField, CandidateNames>>();

/**
 * The candidate that is meant by a text: the only one that is shown so, else the only one that is stored so, else the only one beside
 * which it stands (a code). Case does not matter. Takes the candidates on offer, which nobody may change; gives what the field would
 * hold, undefined where none or several are meant. Cost: one shown text a candidate, the first time for the same candidates.
 */
export function choiceNamed(
  plan: Plan,
  field: PlanField,
  rows: readonly Row[],
  text: string,
  cache: DataCache,
  locale: string,
): Datum | undefined {
  const sought = foldText(text.trim());
  let known = namesKnown.get(rows);
  if (!known) namesKnown.set(rows, (known = new Map<PlanField, CandidateNames>()));
  let names = known.get(field);
  if (!names?.isOf(cache, locale)) known.set(field, (names = new CandidateNames(plan, field, rows, cache, locale)));
  for (const called of names.ways()) {
    const row = called.get(sought);
    if (row !== undefined) return row === null ? undefined : storedOf(field, row);
  }
  return undefined;
}
/** The texts of several choices in one: parted by semicolons, or by commas. */
export const textsOf = (field: PlanField, text: string): string[] =>
  isSeveral(field.definition.type)
    ? text
        .split(text.includes(';') ? ';' : ',')
        .map((t) => t.trim())
        .filter((t) => t !== '')
    : [text];
