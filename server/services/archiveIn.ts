import type { Entry as ZipEntry, ZipFile } from 'yauzl';
import type { z } from 'zod';
import { type Archive, archiveSchema, type broughtIn } from '../../core/contract/archive.ts';
import { inOrder } from '../../core/exchange/dataPackage.ts';
import { type FormFile, formFileSchema } from '../../core/exchange/formFile.ts';
import { readCell } from '../../core/exchange/columns.ts';
import { type Feed } from '../../core/model/feeds.ts';
import { feedSchema } from '../../core/model/schemas.ts';
import { type OptionList } from '../../core/model/lists.ts';
import { optionListSchema } from '../../core/model/schemas.ts';
import { type Column, isSeveral, targetOf } from '../../core/model/tables.ts';
import { PEOPLE, holdsFiles } from '../../core/values/kinds/index.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import type { Account } from '../database/accounts';
import { type Database, isRefused } from '../database/connection';
import { feedRows, insertFeed, deleteFeed } from '../database/feeds';
import { dropForms, formKeys } from '../database/forms';
import { deleteList, insertList, listRows } from '../database/lists';
import { type ModelTable, addColumns, createTable, dropTable, writeSubsets } from '../database/model';
import { allRows, insertRow, restoreRows, setColumn } from '../database/rows';
import type { ImportFile } from '../imports/files';
import { type Unpacked, unpacked } from '../imports/unpacked';
import { readEntry, zipEntries } from '../imports/zip';
import { Refused } from './errors';
import { addForm, draftOf, saveDraft } from './forms';
import type { JobHandle } from './jobs';
import { Pace, othersFirst } from './pace';
import { publish } from './publishing';
import { addRehearsal } from './rehearsals';
import { keepView } from './views';
import { changeSettings } from './settings';
import { stampOf } from './tables';
import type { Workspace } from './workspace';

/*
 * A workspace in from an archive: everything in it is read and judged before anything is written; rows keep their numbers, so that links
 * lead where they led. Only people are matched with those who are here, by e-mail address, else by name: whoever has an account stays.
 */

type BroughtIn = z.output<typeof broughtIn>;
type Table = Archive['tables'][number];
interface Opened {
  readonly archive: Archive;
  readonly lists: readonly OptionList[];
  readonly feeds: readonly Feed[];
  readonly forms: readonly { readonly file: FormFile; readonly draft: FormFile | null; readonly published: boolean }[];
  /** the rows of a table */
  csv(table: string): Promise<Unpacked>;
}
/** How many rows are written in one transaction. */
const AT_ONCE = 200;
const bad = (message: string): Refused => new Refused(422, 'file', message, {});

/** Brings an archive in. Throws Refused with what is wrong with it, or what here is called as something in it; nothing is left then. */
export async function bringInWorkspace(ws: Workspace, account: Account, path: string, job: JobHandle): Promise<BroughtIn> {
  const { zip, entries } = await zipEntries(path);
  try {
    return await new BringingIn(ws, account, await opened(zip, entries, path), job).run();
  } finally {
    zip.close();
    ws.modelChanged();
  }
}

async function opened(zip: ZipFile, entries: readonly ZipEntry[], path: string): Promise<Opened> {
  const entryOf = (name: string): ZipEntry => {
    const entry = entries.find((e) => e.fileName === name);
    if (!entry) throw bad(`The archive has no “${name}”.`);
    return entry;
  };
  const text = async (name: string): Promise<string> => (await readEntry(zip, entryOf(name))).toString('utf8');
  const pace = new Pace();
  const json = async <S extends z.ZodType>(name: string, schema: S): Promise<z.output<S>> => {
    let value: unknown;
    try {
      value = JSON.parse(await text(name));
    } catch (e) {
      throw e instanceof Refused ? e : bad(`“${name}” is not valid JSON.`);
    }
    const read = schema.safeParse(value);
    await pace.rest();
    if (read.success) return read.data;
    const [issue] = read.error.issues;
    throw bad(`“${name}” does not fit: ${issue?.path.join('.') ?? ''} ${issue?.message ?? ''}`.trim());
  };
  if (!entries.some((e) => e.fileName === 'workspace.json'))
    throw bad(
      'The archive has no workspace.json, so it is no workspace of this application. A data package of tables is brought in under Tables.',
    );
  const archive = await json('workspace.json', archiveSchema);
  const forms: Opened['forms'][number][] = [];
  for (const { key, published, draft } of archive.forms)
    forms.push({
      file: await json(`forms/${key}.json`, formFileSchema),
      draft: draft ? await json(`drafts/${key}.json`, formFileSchema) : null,
      published,
    });
  const lists = [];
  for (const key of archive.lists) lists.push(await json(`lists/${key}.json`, optionListSchema));
  const feeds = [];
  for (const key of archive.feeds) feeds.push(await json(`feeds/${key}.json`, feedSchema));
  return { archive, forms, lists, feeds, csv: (table) => unpacked(zip, entryOf(`${table}.csv`), path, table) };
}

class BringingIn {
  private readonly notes: string[] = [];
  private rows = 0;
  /** the people of the archive as they are here, by the numbers they had */
  private people = new Map<number, number>();
  private filesLeft = 0;
  private share = 0;
  constructor(
    private readonly ws: Workspace,
    private readonly account: Account,
    private readonly from: Opened,
    private readonly job: JobHandle,
  ) {}

  async run(): Promise<BroughtIn> {
    await this.refuseTaken();
    const { archive, lists, feeds, forms } = this.from;
    const tables = inOrder(
      archive.tables.filter((t) => t.key !== PEOPLE),
      (t) => ({ name: t.key, links: t.columns.flatMap((c) => targetOf(c) ?? []) }),
    );
    try {
      await this.bringPeople(archive.tables.find((t) => t.key === PEOPLE));
      await this.bringTables(tables);
      for (const list of lists) await this.bringList(list).then(othersFirst);
      for (const feed of feeds) await this.bringFeed(feed).then(othersFirst);
      this.ws.modelChanged();
      for (const [i, form] of forms.entries()) {
        this.job.at(0.9 + (0.1 * i) / forms.length, `bringing in the form ${form.file.form.label}`);
        await this.bringForm(form);
      }
      await this.bringViews();
      await this.takeSettings();
    } catch (e) {
      await this.undo(tables);
      throw e;
    }
    if (this.filesLeft) this.notes.push(`${this.filesLeft} values named files, which do not travel in an archive: they are empty.`);
    return { tables: tables.length, rows: this.rows, lists: lists.length, feeds: feeds.length, forms: forms.length, notes: this.notes };
  }

  /** Nothing that is here is touched: where a name is taken, nothing is brought in. */
  private async refuseTaken(): Promise<void> {
    const { archive, lists, feeds, forms } = this.from;
    const { ws } = this;
    const have = {
      table: new Set((await ws.modelTables()).map((t) => t.key).filter((k) => k !== PEOPLE)),
      list: new Set((await listRows(ws.db)).map((l) => l.key)),
      feed: new Set((await feedRows(ws.db)).map((f) => f.key)),
      form: new Set(await formKeys(ws.db)),
    };
    const brings = { table: archive.tables.map((t) => t.key), list: lists.map((l) => l.key), feed: feeds.map((f) => f.key), form: forms.map((f) => f.file.form.key) };
    const taken = (Object.keys(have) as (keyof typeof have)[]).flatMap((kind) => brings[kind].filter((k) => have[kind].has(k)).map((k) => `the ${kind} “${k}”`));
    for (const [kind, keys] of Object.entries(brings)) if (new Set(keys).size !== keys.length) throw bad(`The archive names a ${kind} twice.`);
    if (!taken.length) return;
    const more = taken.length > 6 ? ` and ${taken.length - 6} more` : '';
    throw new Refused(422, 'taken', `This workspace has already ${taken.slice(0, 6).join(', ')}${more}. An archive is brought in only beside what is called otherwise: into an empty workspace, best of all.`, { taken });
  } // prettier-ignore

  // ---- tables ----

  private async *rowsOf(table: Table): AsyncGenerator<Row[]> {
    const { file, drop } = await this.from.csv(table.key);
    try {
      yield* this.rowsIn(table, file);
    } finally {
      await drop();
    }
  }
  private async *rowsIn(table: Table, file: ImportFile): AsyncGenerator<Row[]> {
    const at = file.headers.indexOf('id');
    if (at < 0) throw bad(`“${table.key}.csv” has no column “id”.`);
    const places = table.columns.map((c) => ({ column: c, at: file.headers.indexOf(c.key) })).filter((p) => p.at >= 0);
    let line = 1;
    for await (const batch of file.lines()) {
      yield batch.map((cells): Row => {
        line++;
        const id = Number(cells[at]);
        if (!Number.isSafeInteger(id) || id < 1) throw bad(`“${table.key}.csv”, line ${line}: “${cells[at] ?? ''}” is no number of a row.`);
        const row: Record<string, Datum> & { id: number } = { id };
        for (const p of places) row[p.column.key] = this.value(table.key, p.column, cells[p.at] ?? '', line);
        return row;
      });
      this.job.at(this.share);
    }
  }
  private value(table: string, column: Column, text: string, line: number): Datum {
    if (text === '') return null;
    if (holdsFiles(column.type)) {
      this.filesLeft++;
      return null;
    }
    const target = targetOf(column);
    if (target === null) {
      if (isSeveral(column.type)) return text.split('; ');
      const read = readCell(column.type, text);
      if (!read.ok) throw bad(`“${table}.csv”, line ${line}, ${column.key}: ${read.message}`);
      return read.value;
    }
    const numbers = text.split(/;\s*/).map(Number);
    if (numbers.some((n) => !Number.isSafeInteger(n) || n < 1))
      throw bad(`“${table}.csv”, line ${line}, ${column.key}: “${text}” names no row by its number.`);
    const here = target === PEOPLE ? numbers.map((n) => this.people.get(n) ?? null).filter((n) => n !== null) : numbers;
    return isSeveral(column.type) ? here : (here[0] ?? null);
  }

  /** People who are here already, by e-mail address or name, are who they are; others are added, without an account. */
  private async bringPeople(table: Table | undefined): Promise<void> {
    if (!table) return;
    const { ws } = this;
    const here = await ws.modelTable(PEOPLE);
    const missing = table.columns.filter((c) => !here.columns.some((o) => o.key === c.key) && !holdsFiles(c.type));
    // who somebody’s manager is, say: known when all people are
    const later = new Map<string, { column: Column; values: { id: number; to: readonly number[] }[] }>();
    const plain = missing.map((c) => (targetOf(c) === null || targetOf(c) === PEOPLE ? c : { ...c, type: 'text' as const, target: null }));
    if (plain.length) await ws.db.transaction((db) => addColumns(db, here, plain));
    ws.modelChanged();
    const model = await ws.modelTable(PEOPLE);
    const byEmail = new Map<string, Row>();
    const byName = new Map<string, Row>();
    for (const person of (await allRows(ws.db, model)).toReversed()) {
      if (typeof person.email === 'string') byEmail.set(foldText(person.email), person);
      if (typeof person.name === 'string') byName.set(foldText(person.name), person);
    }
    const personHere = ({ email = null, name = null }: Row): Row | undefined =>
      (email === null ? undefined : byEmail.get(foldText(String(email)))) ?? (name === null ? undefined : byName.get(foldText(String(name))));
    const stamp = stampOf(ws, this.account);
    const plainTable = { ...table, columns: table.columns.map((c) => (targetOf(c) === null ? c : { ...c, type: 'text' as const, target: null })) };
    const bring = async (db: Database, rows: readonly Row[]): Promise<void> => {
      for (const row of rows) {
        const links = table.columns.filter((c) => targetOf(c) === PEOPLE && row[c.key] !== null);
        const values = Object.fromEntries(model.columns.filter((c) => c.key in row && targetOf(c) === null).map((c) => [c.key, row[c.key] ?? null]));
        const found = personHere(row);
        const id = found?.id ?? (await insertRow(db, model, values, stamp));
        this.people.set(row.id, id);
        if (!found) this.rows++;
        for (const c of links) {
          const of = later.get(c.key) ?? { column: c, values: [] };
          if (!found) of.values.push({ id, to: String(row[c.key] as string).split(/;\s*/).map(Number) });
          later.set(c.key, of);
        }
      }
    };
    await this.inParts(this.rowsOf(plainTable), bring);
    for (const { column, values } of later.values()) {
      const own = model.columns.find((c) => c.key === column.key);
      if (!own || targetOf(own) !== PEOPLE) continue;
      const to = values.map(({ id, to }) => {
        const here = to.map((n) => this.people.get(n)).filter((n) => n !== undefined);
        return { id, value: (isSeveral(own.type) ? here : (here[0] ?? null)) as Datum };
      });
      await this.inParts([to], (db, part) => setColumn(db, PEOPLE, own, part, 'silently'));
    }
    ws.rowsChanged(PEOPLE);
  } // prettier-ignore

  private async bringTables(tables: readonly Table[]): Promise<void> {
    const { ws } = this;
    const stamp = stampOf(ws, this.account);
    const there = new Set([PEOPLE]);
    const pace = new Pace();
    for (const table of tables) {
      await ws.db.transaction(async (db) => {
        await createTable(db, modelOf(table));
        if (table.subsets.length) await writeSubsets(db, table.key, table.subsets);
      });
      await pace.rest();
    }
    const later: { table: string; column: Column; values: { id: number; value: Datum }[] }[] = [];
    for (const [i, table] of tables.entries()) {
      this.share = (0.9 * i) / tables.length;
      this.job.at(this.share, `bringing in ${table.label}`);
      const model = modelOf(table);
      // a link to a table that comes later, or to the table itself, is made when its rows are there
      const wait = table.columns.filter((c) => !isSeveral(c.type) && targetOf(c) !== null && !there.has(targetOf(c) as string));
      const waiting = wait.map((column) => ({ table: table.key, column, values: [] as { id: number; value: Datum }[] }));
      const bring = async (db: Database, rows: readonly Row[]): Promise<void> => {
        const now = rows.map((row) => {
          const own: Record<string, Datum> & { id: number } = { ...row };
          for (const w of waiting) {
            if (row[w.column.key] !== null && row[w.column.key] !== undefined) w.values.push({ id: row.id, value: row[w.column.key] ?? null });
            own[w.column.key] = null;
          }
          return own;
        });
        await restoreRows(db, model, now, stamp);
        this.rows += rows.length;
      };
      await this.inParts(this.rowsOf(table), bring).catch((e: unknown) => this.refuseRow(table, e));
      later.push(...waiting);
      there.add(table.key);
    }
    for (const { table, column, values } of later)
      await this.inParts([values], (db, part) => setColumn(db, table, column, part, 'silently')).catch((e: unknown) => this.refuseRow({ key: table }, e));
    for (const { key } of tables) ws.rowsChanged(key);
  } // prettier-ignore
  /** Writes what there is some hundred at a time, each in a transaction of its own; others have their turn in between. */
  private async inParts<T>(
    batches: AsyncIterable<readonly T[]> | Iterable<readonly T[]>,
    write: (db: Database, part: readonly T[]) => Promise<void>,
  ): Promise<void> {
    for await (const batch of batches)
      for (let i = 0; i < batch.length; i += AT_ONCE) {
        await this.ws.db.transaction((db) => write(db, batch.slice(i, i + AT_ONCE)));
        await othersFirst();
      }
  }
  /** What the database would not take: a number twice, or a link to a row that the archive does not have. */
  private refuseRow({ key }: Pick<Table, 'key'>, e: unknown): never {
    const refused = isRefused(e);
    if (!refused) throw e;
    throw bad(`“${key}.csv” cannot be brought in: ${refused === 'nowhere' ? 'a link leads to a row that the archive does not have' : 'the number of a row stands there twice'}.`);
  } // prettier-ignore

  // ---- lists, feeds, forms, settings ----

  private bringList({ key, label, items }: OptionList): Promise<void> {
    return insertList(this.ws.db, { key, label, items: JSON.stringify(items) }, { at: this.ws.clock.now(), account: this.account.id });
  }
  private async bringFeed(feed: Feed): Promise<void> {
    const row = { key: feed.key, label: feed.label, definition: JSON.stringify(feed), secrets: '{}' };
    await insertFeed(this.ws.db, row, { at: this.ws.clock.now(), account: this.account.id });
    const secrets = feed.headers.filter((h) => h.value === null).map((h) => h.name);
    if (secrets.length) this.notes.push(`The feed ${feed.label} needs its secrets again: ${secrets.join(', ')}.`);
  }
  private async bringForm({ file, draft, published }: Opened['forms'][number]): Promise<void> {
    const { ws, account } = this;
    const { key, label } = file.form;
    await addForm(ws, account, file.form);
    await othersFirst();
    for (const rehearsal of file.rehearsals) await addRehearsal(ws, account, key, rehearsal);
    await othersFirst();
    if (published)
      try {
        await publish(ws, account, key, null, 'Brought in with a workspace.');
      } catch (e) {
        if (!(e instanceof Refused)) throw e;
        this.notes.push(`The form ${label} is a draft, and must be published: ${e.message}`);
      }
    if (draft && draft.form.key === key) await saveDraft(ws, account, key, draft.form, (await draftOf(ws, key)).revision);
  }
  private async bringViews(): Promise<void> {
    for (const { form, ...view } of this.from.archive.views) {
      await othersFirst();
      try {
        await keepView(this.ws, this.account, form, { ...view, shared: true });
      } catch (e) {
        if (!(e instanceof Refused)) throw e;
        this.notes.push(`The view ${view.label} of ${form} was left out: ${e.message}`);
      }
    }
  }
  private async takeSettings(): Promise<void> {
    try {
      await changeSettings(this.ws, this.from.archive.settings);
    } catch (e) {
      if (!(e instanceof Refused)) throw e;
      this.notes.push(`The settings of the workspace stayed as they were: ${e.message}`);
    }
  }

  /** Takes away what was begun. People who were added stay: somebody may hold them already. */
  private async undo(tables: readonly Table[]): Promise<void> {
    const { db } = this.ws;
    const { lists, feeds, forms } = this.from;
    this.ws.modelChanged();
    await db.transaction((t) => dropForms(t, forms.map((f) => f.file.form.key))); // prettier-ignore
    for (const { key } of lists) await deleteList(db, key);
    for (const { key } of feeds) await deleteFeed(db, key);
    const made = new Set((await this.ws.modelTables(db)).map((t) => t.key));
    for (const { key } of [...tables].reverse()) if (made.has(key)) await db.transaction((t) => dropTable(t, key));
    this.ws.modelChanged();
  }
}

const modelOf = ({ key, label, shown, columns, subsets }: Table): ModelTable => ({ key, label, shown, columns, subsets });
