import { compileForm, compileFormInSteps } from '../../core/engine/compile.ts';
import { reachOf } from '../../core/engine/reach.ts';
import type { Form } from '../../core/form/definition.ts';
import type { Feeds } from '../../core/model/feeds.ts';
import type { OptionLists } from '../../core/model/lists.ts';
import type { FormProblem } from '../../core/form/problems.ts';
import type { Column, Table, Tables } from '../../core/model/tables.ts';
import { Refused } from './errors';
import { definitionsInUse } from './forms';
import { UNWATCHED } from './jobs';
import { Pace } from './pace';
import { MODEL_TABLES, type Workspace } from './workspace';

/** What a form would lose: which form, whether its draft or what clerks use, and the problem it would have. */
export interface Breakage {
  readonly form: string;
  readonly label: string;
  readonly which: 'draft' | 'published';
  readonly field: string | null;
  readonly message: string;
}

export interface World {
  readonly tables: Tables;
  readonly lists: OptionLists;
  readonly feeds: Feeds;
}

function* errorsOf(form: Form, { tables, lists, feeds }: World): Generator<void, readonly FormProblem[]> {
  const { problems } = yield* compileFormInSteps(form, tables, lists, feeds);
  return problems.filter((p) => p.severity === 'error');
}

/** The errors that a form would gain that becomes another, in a workspace that becomes another. */
export function* breaksBetween(
  [was, before]: readonly [Form, World],
  [form, after]: readonly [Form, World],
  which: Breakage['which'],
): Generator<void, Breakage[]> {
  const told = (p: FormProblem): string => `${p.field ?? ''} ${p.part ?? ''} ${p.code} ${p.message}`;
  const had = new Set((yield* errorsOf(was, before)).map(told));
  const gained = (yield* errorsOf(form, after)).filter((p) => !had.has(told(p)));
  return gained.map((p) => ({ form: form.key, label: form.label, which, field: p.field, message: p.message }));
}

/**
 * The errors that drafts and published versions would gain if the tables were as `change` makes them: found by compiling each as it is and
 * as it would be, so that every place where something is named counts, whatever kind of place it is.
 */
export const breakages = async (ws: Workspace, change: (tables: Tables) => Tables): Promise<readonly Breakage[]> =>
  ws.work.run('breakages', { tables: change(await ws.tables()) }, UNWATCHED);

/** The same, where it is called. */
export async function findBreakages(ws: Workspace, tables: Tables): Promise<readonly Breakage[]> {
  const now: World = { tables: await ws.tables(), lists: await ws.lists(), feeds: await ws.feeds() };
  const then = { ...now, tables };
  const found: Breakage[] = [];
  const pace = new Pace();
  for (const { form, which } of await definitionsInUse(ws)) {
    found.push(...(await pace.through(breaksBetween([form, now], [form, then], which))));
    await pace.rest();
  }
  return found;
}

/** Refused, naming who would break and how, when anybody would. `what` begins the sentence. */
export function refuseBreakages(what: string, found: readonly Breakage[]): void {
  if (!found.length) return;
  const forms = [...new Set(found.map((f) => `${f.label} (${f.which === 'draft' ? 'draft' : 'as published'})`))];
  throw new Refused(409, 'inUse', `${what}: ${forms.join(', ')} would no longer work. ${found[0]?.message ?? ''}`, { breaks: found });
}

export interface FormNamed {
  readonly key: string;
  readonly label: string;
}
/** By feed, the forms that ask it in their draft or as published. */
export const formsByFeed = (ws: Workspace): Promise<ReadonlyMap<string, readonly FormNamed[]>> =>
  ws.kept.get('forms by feed', ['forms', 'form_versions', ...MODEL_TABLES], () => ws.work.run('formsByFeed', {}, UNWATCHED));

/** The same, where it is called. Each definition is compiled once, however many feeds there are. */
export async function findFormsByFeed(ws: Workspace): Promise<ReadonlyMap<string, readonly FormNamed[]>> {
  const [tables, lists, feeds] = [await ws.tables(), await ws.lists(), await ws.feeds()];
  return formsBy(ws, (form) => reachOf(compileForm(form, tables, lists, feeds)).feeds);
}
/** The forms, each once, by what `namesIn` finds in their draft or published version. */
export async function formsBy(
  ws: Workspace,
  namesIn: (form: Form) => Iterable<string>,
): Promise<ReadonlyMap<string, readonly FormNamed[]>> {
  const found = new Map<string, FormNamed[]>();
  const pace = new Pace();
  for (const { form } of await definitionsInUse(ws)) {
    for (const name of namesIn(form)) {
      const forms = found.get(name) ?? [];
      if (!forms.some((f) => f.key === form.key)) found.set(name, [...forms, { key: form.key, label: form.label }]);
    }
    await pace.rest();
  }
  return found;
}

/** The tables with one of them changed. */
export const withTable = (tables: Tables, key: string, change: (table: Table) => Table): Tables => {
  const table = tables.get(key);
  return table ? new Map(tables).set(key, change(table)) : tables;
};
export const withoutColumn = (tables: Tables, key: string, column: string): Tables =>
  withTable(tables, key, (t) => ({ ...t, columns: t.columns.filter((c) => c.key !== column) }));
export const withColumn = (tables: Tables, key: string, column: Column): Tables =>
  withTable(tables, key, (t) => ({ ...t, columns: t.columns.map((c) => (c.key === column.key ? column : c)) }));
export function without<V>(all: ReadonlyMap<string, V>, key: string): ReadonlyMap<string, V> {
  const left = new Map(all);
  left.delete(key);
  return left;
}
