import type { Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { guessType } from '../../core/exchange/columns.ts';
import { type MatchWay, SELF, matchWays, nameLikeness } from '../../core/exchange/match.ts';
import { keyFromLabel, targetOf } from '../../core/model/tables.ts';
import { apart, looseKey } from '../../core/values/text.ts';
import type { ModelTable } from '../database/model';
import { type FileAt, type ImportFile, openImport } from '../imports/files';
import { Refused } from './errors';
import { textColumns } from './importNames';
import { type JobHandle, UNWATCHED } from './jobs';
import { Pace } from './pace';
import type { Workspace } from './workspace';

/** Lines looked at closely when types are guessed. */
const SAMPLE = 5000;
/** Distinct texts told apart when it is guessed which column names the rows. */
const MOST_DISTINCT = 50_000;
/** Tables of more rows are not looked through for what a file's texts may name. */
const MOST_LOOKED_THROUGH = 100_000;
/** Texts of a column that are compared with the rows of every table. */
const MOST_COMPARED = 500;

type Guessed = Result<typeof contract.imports.guess>;
export type Guess = Exclude<Guessed, { readonly package: unknown }>;
type GuessedColumn = Guess['columns'][number];

interface Seen {
  readonly texts: Set<string>;
  filled: number;
  readonly sample: string[];
}

/**
 * Looks at a file and guesses, column by column, its name, type and the table it links to; with `into`, which column of
 * that table it is. Nothing is written.
 */
export const guessImport = (ws: Workspace, file: ImportFile, into: string | null = null, job: JobHandle = UNWATCHED): Promise<Guess> =>
  ws.work.run('importGuess', { file: file.at, into }, job);

/** The same, where it is called. */
export async function guessColumns(ws: Workspace, at: FileAt, into: string | null, job: JobHandle): Promise<Guess> {
  const file = await openImport(at.name, at.source);
  const tables = await ws.modelTables();
  const seen = file.headers.map((): Seen => ({ texts: new Set(), filled: 0, sample: [] }));
  let rows = 0;
  const pace = new Pace();
  for await (const batch of file.lines()) {
    for (const cells of batch) {
      rows++;
      for (let i = 0; i < seen.length; i++) {
        const text = cells[i] as string;
        const column = seen[i] as Seen;
        if (text.trim() === '') continue;
        column.filled++;
        if (column.texts.size < MOST_DISTINCT && !column.texts.has(text)) column.texts.add(apart(text));
        // some from further down, so that a column that begins with blanks or codes is not misjudged
        if (column.sample.length < SAMPLE || (rows % 997 === 0 && column.sample.length < 2 * SAMPLE)) column.sample.push(apart(text));
      }
    }
    job.at(file.read(), 'reading the file');
    await pace.rest();
  }
  if (!rows) throw new Refused(422, 'file', 'The file has a header line but no rows.', {});
  const table = into === null ? null : await ws.modelTable(into);
  const targets = new Targets(ws, tables);
  const keys: string[] = [];
  const columns: GuessedColumn[] = [];
  for (const [i, header] of file.headers.entries()) {
    const { texts, filled, sample } = seen[i] as Seen;
    const about = { header, examples: [...texts].slice(0, 3), filled, distinct: texts.size };
    const own = table?.columns.find(
      (c) => [c.key, c.label.toLowerCase()].includes(header.toLowerCase()) || c.key === keyFromLabel(header || 'x'),
    );
    if (table) {
      const taken = own && !keys.includes(own.key) ? own : null;
      if (taken) keys.push(taken.key);
      const target = taken && targetOf(taken);
      const ways = target && target !== table.key ? await targets.ways(target, [...texts]) : [];
      columns.push({
        ...about,
        key: taken?.key ?? '',
        label: taken?.label ?? header,
        type: taken?.type ?? 'text',
        target: taken?.target ?? null,
        known: taken !== null,
        by: [...(ways[0]?.by ?? [])],
        ways,
      });
      continue;
    }
    const key = keyFromLabel(header === '' ? `column ${i + 1}` : header, keys);
    keys.push(key);
    const type = guessType(sample);
    const linked = i > 0 && (type === 'text' || type === 'number') ? await linkOf(targets, file.headers, seen, i, type === 'number') : null;
    const label = header === '' ? `Column ${i + 1}` : header.replaceAll('_', ' ').replace(/^./, (c) => c.toUpperCase());
    const link = linked?.target === 'people' ? ('person' as const) : ('link' as const);
    columns.push({
      ...about,
      key,
      label,
      type: linked ? link : type,
      target: linked?.target ?? null,
      known: false,
      by: [...(linked?.ways[0]?.by ?? [])],
      ways: linked?.ways ?? [],
    });
  }
  // a link to the file's own rows was found by headers, which have their names now
  const named = (by: readonly string[]): string[] => by.map((h) => columns[file.headers.indexOf(h)]?.key ?? h);
  for (const [i, c] of columns.entries())
    if (c.target === SELF) columns[i] = { ...c, by: named(c.by), ways: c.ways.map((w) => ({ ...w, by: named(w.by) })) };
  if (table) {
    const inFile = new Map(columns.map((c, i): [string, readonly string[]] => [c.key, [...(seen[i] as Seen).texts]]));
    for (const [i, c] of columns.entries()) {
      if (!c.known || targetOf(c) !== table.key) continue;
      const ways = await targets.ways(table.key, [...(seen[i] as Seen).texts], inFile);
      columns[i] = { ...c, by: [...(ways[0]?.by ?? [])], ways };
    }
    return { label: table.label, key: table.key, shown: table.shown, columns, rows };
  }
  const base = file.name.replace(/\.[^.]*$/, '').replace(/[_-]+/g, ' ').trim() || 'Imported'; // prettier-ignore
  const labels = new Set(tables.map((t) => t.label));
  const wanted = base.replace(/^./, (c) => c.toUpperCase());
  let label = wanted;
  // two tables of one label could not be told apart in lists
  for (let n = 2; labels.has(label); n++) label = `${wanted} ${n}`;
  const unique = (c: GuessedColumn): boolean => c.type === 'text' && c.distinct === Math.min(rows, MOST_DISTINCT) && c.filled === rows;
  const likeliest = (all: readonly GuessedColumn[]): GuessedColumn | undefined => {
    const score = (c: GuessedColumn): number =>
      nameLikeness(c.header, [...(seen[columns.indexOf(c)]?.texts ?? [])].slice(0, MOST_COMPARED));
    return all.length ? all.reduce((best, c) => (score(c) > score(best) ? c : best)) : undefined;
  };
  const texts = columns.filter((c) => c.type === 'text');
  const shown = likeliest(texts.filter(unique)) ?? likeliest(texts) ?? columns[0];
  return { label, key: keyFromLabel(label, tables.map((t) => t.key)), shown: shown?.key ?? null, columns, rows }; // prettier-ignore
}

interface Linked {
  readonly target: string;
  readonly ways: MatchWay[];
}
/** Whether a header seems to speak of a table: `species_code`, `Species`, `species e-mail`. */
function speaksOf(header: string, table: Pick<ModelTable, 'key' | 'label'>): boolean {
  const words = looseKey(header.replace(/[_-]?(code|id|no|nr|number|name|e-?mail|ref|key)$/i, '').replaceAll('_', ' '));
  if (words.length < 3) return false;
  return [table.key.replaceAll('_', ' '), table.label].some((t) => looseKey(t).startsWith(words.slice(0, Math.max(4, words.length - 2))));
}
const ABOVE = /parent|above|under|belongs|part of|manager|superior|main/i;

/** What a column links to, where most of its texts name rows of a table or of the file itself; null when it is no link. */
async function linkOf(
  targets: Targets,
  headers: readonly string[],
  seen: readonly Seen[],
  at: number,
  figures: boolean,
): Promise<Linked | null> {
  const header = headers[at] as string;
  const texts = [...(seen[at] as Seen).texts].slice(0, MOST_COMPARED);
  const ownKey = keyFromLabel(header || 'x');
  // nothing else looks like an e-mail address
  const mail = texts.every((t) => t.includes('@'));
  const self = figures && !ABOVE.test(header) ? [] : selfWays(headers, seen, at, texts);
  let best: (Linked & { score: number }) | null = null;
  for (const table of await targets.all()) {
    const named = speaksOf(header, table);
    // figures and single letters agree with codes by chance
    if (figures && !named) continue;
    const short = texts.every((t) => t.trim().length < 3);
    // a column of the same name that says the same is a copy of that column, and no link to its rows
    const copy = (w: MatchWay): boolean => !named && !mail && w.by.length === 1 && w.by[0] !== table.shown && w.by[0] === ownKey;
    const ways = (await targets.ways(table.key, texts)).filter(
      (w) => !copy(w) && w.share >= (named || mail || w.by[0] === table.shown ? 0.5 : 0.8),
    );
    if (!ways[0] || (short && !named)) continue;
    const score = ways[0].share + (named ? 0.5 : 0) + (ways[0].by[0] === table.shown ? 0.1 : 0);
    if (!best || score > best.score) best = { target: table.key, ways, score };
  }
  const own = self[0] ? self[0].share + (ABOVE.test(header) ? 0.6 : 0) : 0;
  if (own > (best?.score ?? 0) && (ABOVE.test(header) || own >= 0.9)) return { target: SELF, ways: self };
  return best && { target: best.target, ways: best.ways };
}
/** The columns of the same file whose texts name each line once and hold what this column says; by their headers. */
function selfWays(headers: readonly string[], seen: readonly Seen[], at: number, texts: readonly string[]): MatchWay[] {
  return headers
    .flatMap((header, i): MatchWay[] => {
      const other = seen[i] as Seen;
      if (i === at || other.texts.size !== other.filled || other.texts.size < 2 || other.texts.size >= MOST_DISTINCT) return [];
      const known = new Set([...other.texts].map(looseKey));
      const share = texts.length ? texts.filter((t) => known.has(looseKey(t))).length / texts.length : 0;
      // two columns that say the same of each line are no link from one to another
      const copies = (seen[at] as Seen).texts.size === other.texts.size && share === 1;
      return share >= 0.5 && !copies ? [{ by: [header], share }] : [];
    })
    .sort((a, b) => b.share - a.share);
}

/** The tables a file may link to, each read once. */
class Targets {
  private readonly read = new Map<string, ReadonlyMap<string, readonly (string | null)[]>>();
  constructor(
    private readonly ws: Workspace,
    private readonly tables: readonly ModelTable[],
  ) {}
  async all(): Promise<readonly ModelTable[]> {
    const small = await Promise.all(this.tables.map(async (t) => (await this.ws.rowCount(t.key)) <= MOST_LOOKED_THROUGH));
    return this.tables.filter((_, i) => small[i]);
  }
  /** The ways in which texts name rows of a table; `coming`: texts of its columns that the same file brings. */
  async ways(key: string, texts: readonly string[], coming: ReadonlyMap<string, readonly string[]> = new Map()): Promise<MatchWay[]> {
    const table = this.tables.find((t) => t.key === key);
    if (!table || (await this.ws.rowCount(key)) > MOST_LOOKED_THROUGH) return [];
    const there = this.read.get(key) ?? (await textColumns(this.ws, table));
    this.read.set(key, there);
    const columns = new Map(
      [...there].map(([column, known]): [string, readonly (string | null)[]] => {
        const has = new Set(known.map((t) => t && looseKey(t)));
        // a line that changes a row is that row
        return [column, [...known, ...(coming.get(column) ?? []).filter((t) => !has.has(looseKey(t)))]];
      }),
    );
    return matchWays(texts.slice(0, MOST_COMPARED), columns, table.shown);
  }
}
