import type { InjectionKey } from 'vue';
import { useDebounceFn } from '@vueuse/core';
import { compileForm } from '~~/core/engine/compile.ts';
import type { StoredRecord } from '~~/core/engine/entry.ts';
import type { Plan, PlanField } from '~~/core/engine/plan.ts';
import { type Edit, addressOf, parseAddress } from '~~/core/engine/state.ts';
import { UNSET } from '~~/core/engine/values.ts';
import type { Env } from '~~/core/formula/env.ts';
import type { Answered, Want } from '~~/core/engine/wants.ts';
import { type Form, parseForm } from '~~/core/form/definition.ts';
import type { Feed } from '~~/core/form/feeds.ts';
import type { OptionList } from '~~/core/form/lists.ts';
import type { Table } from '~~/core/form/tables.ts';
import { formDifferences } from '~~/core/review/differences.ts';

interface DraftAnswer {
  readonly draft: unknown;
  readonly revision: number;
  readonly version: number | null;
  readonly published: unknown;
  readonly tables: readonly Table[];
  readonly lists: readonly OptionList[];
  readonly feeds: readonly Feed[];
  readonly context: { readonly today: string; readonly now: string; readonly me: number };
  readonly answered: readonly Answered[];
}
interface Tried {
  readonly record: { readonly id: number; readonly values: StoredRecord } | null;
  readonly parent: number | null;
  readonly url: Readonly<Record<string, string>>;
}
export type Draft = ReturnType<typeof useDraft>;

const UNDO_DEPTH = 200;

/**
 * A form being built: the draft, what came before it (undo), the live entry on it, and saving by itself. Every change
 * compiles the draft anew and plays what was tried so far on it again.
 */
export function useDraft(formKey: string) {
  const form = shallowRef<Form | null>(null);
  const plan = shallowRef<Plan | null>(null);
  const published = shallowRef<Form | null>(null);
  const version = ref<number | null>(null);
  const tables = shallowRef<ReadonlyMap<string, Table>>(new Map());
  const lists = shallowRef<ReadonlyMap<string, OptionList>>(new Map());
  const feeds = shallowRef<ReadonlyMap<string, Feed>>(new Map());
  const context = shallowRef({ today: '', now: '', me: 0 });
  const person = ref(0);
  const selected = ref<string | null>(null);
  /** what the form is tried on: an existing record, a record above, values in the address */
  const tried = shallowRef<Tried>({ record: null, parent: null, url: {} });
  const failed = ref('');
  const conflict = ref(false);
  const saveState = ref<'saved' | 'waiting' | 'saving' | 'failed'>('saved');
  const undoStack = shallowRef<readonly Form[]>([]);
  const redoStack = shallowRef<readonly Form[]>([]);
  let revision = 0;
  let saving: Promise<void> = Promise.resolve();

  const host = useEntryHost(async (wants: readonly Want[]) => {
    // the server narrows by the draft it has, so it must have this one
    await flush();
    return api<Answered[]>(`forms/${formKey}/wants`, { body: { version: 'draft', wants, person: person.value || undefined } });
  });

  async function load(): Promise<void> {
    failed.value = '';
    try {
      const answer = await api<DraftAnswer>(`forms/${formKey}/draft`);
      tables.value = new Map(answer.tables.map((t) => [t.key, t]));
      lists.value = new Map(answer.lists.map((l) => [l.key, l]));
      feeds.value = new Map(answer.feeds.map((f) => [f.key, f]));
      context.value = answer.context;
      person.value ||= answer.context.me;
      version.value = answer.version;
      published.value = answer.published ? parseForm(answer.published) : null;
      revision = answer.revision;
      form.value = parseForm(answer.draft);
      plan.value = compileForm(form.value, tables.value, lists.value, feeds.value);
      open(plan.value, answer.answered);
      conflict.value = false;
      saveState.value = 'saved';
    } catch (e) {
      failed.value = messageOf(e);
    }
  }

  function open(compiled: Plan, answered: readonly Answered[] = [], keepCache = false): void {
    const { record, parent, url } = tried.value;
    const mode = record ? 'edit' : 'new';
    host.open(compiled, { ...context.value, me: person.value, mode, parent, url }, record?.values ?? null, answered, keepCache);
  }
  /** Compiles the draft and plays the tried edits again on it. */
  function recompile(edits: readonly Edit[] = host.entry.value?.log ?? []): void {
    if (!form.value) return;
    const compiled = compileForm(form.value, tables.value, lists.value, feeds.value);
    plan.value = compiled;
    host.cache().forgetLists();
    open(compiled, [], true);
    const kept = edits.filter((e) => compiled.slots.has(e.field) || compiled.lines.some((l) => l.key === e.field));
    if (kept.length) host.apply(kept);
    if (selected.value && !compiled.slots.has(selected.value) && !form.value.lines[selected.value]) selected.value = null;
  }

  function replace(next: Form): void {
    form.value = next;
    recompile();
    saveState.value = 'waiting';
    void saveSoon();
  }
  /** Makes one change, undoable. A change that changes nothing is none. */
  function change(next: Form | null): void {
    if (!form.value || !next || next === form.value || JSON.stringify(next) === JSON.stringify(form.value)) return;
    undoStack.value = [...undoStack.value, form.value].slice(-UNDO_DEPTH);
    redoStack.value = [];
    replace(next);
  }
  function undo(): void {
    const before = undoStack.value.at(-1);
    if (!before || !form.value) return;
    undoStack.value = undoStack.value.slice(0, -1);
    redoStack.value = [...redoStack.value, form.value];
    replace(before);
  }
  function redo(): void {
    const after = redoStack.value.at(-1);
    if (!after || !form.value) return;
    redoStack.value = redoStack.value.slice(0, -1);
    undoStack.value = [...undoStack.value, form.value];
    replace(after);
  }

  async function saveNow(): Promise<void> {
    const draft = form.value;
    if (!draft || saveState.value === 'saved') return;
    saveState.value = 'saving';
    try {
      revision = (await api<{ revision: number }>(`forms/${formKey}/draft`, { method: 'PUT', body: { draft, revision } })).revision;
      saveState.value = form.value === draft ? 'saved' : 'waiting';
    } catch (e) {
      saveState.value = 'failed';
      if (e instanceof ApiError && e.status === 409) conflict.value = true;
    }
  }
  const queueSave = (): Promise<void> => (saving = saving.then(saveNow));
  const saveSoon = useDebounceFn(queueSave, 400);
  /** Saves what is not saved yet, now. */
  async function flush(): Promise<void> {
    while (saveState.value === 'waiting') await queueSave();
    await saving;
  }

  async function publish(): Promise<number> {
    await flush();
    const answer = await api<{ version: number }>(`forms/${formKey}/publish`, { body: { revision } });
    const edits = host.entry.value?.log ?? [];
    await load();
    recompile(edits);
    return answer.version;
  }
  /** Reads the tables again, after one was made or changed from here. */
  async function readTables(): Promise<void> {
    const answer = await api<DraftAnswer>(`forms/${formKey}/draft`);
    tables.value = new Map(answer.tables.map((t) => [t.key, t]));
    recompile();
  }
  function startOver(): void {
    recompile([]);
  }
  function tryAs(id: number): void {
    person.value = id;
    // what was answered for the person before (their last record, what they may choose) is not this one's
    host.cache().forgetLists();
    recompile();
  }

  /** Tries the form on another record, under another one or with another address. Throws ApiError when there is no such record. */
  async function tryWith(change: { record?: number | null; parent?: number | null; url?: Record<string, string> }): Promise<void> {
    await flush();
    const { record, ...rest } = change;
    const values =
      typeof record === 'number' ? { id: record, values: await api<StoredRecord>(`forms/${formKey}/tryout`, { query: { record } }) } : null;
    tried.value = { ...tried.value, ...rest, ...(record === undefined ? {} : { record: values }) };
    recompile([]);
    if (!tried.value.record) notices.value = await takeAddressValues(host, tried.value.url);
  }
  const notices = shallowRef<readonly string[]>([]);

  /** The address to look at a field by: itself, or in the line looked at last (else the first); null while there is no line. */
  const line = ref<number | null>(null);
  function addressAt(path: string): string | null {
    const [lines = '', inner] = path.split('.');
    if (inner === undefined) return path;
    const { ids } = host.lines(lines);
    const seen = line.value !== null && ids.includes(line.value) ? line.value : ids[0];
    return seen === undefined ? null : addressOf(path, seen);
  }
  /** A field as the wiring sees it; without a line to look at, it stands still. */
  function viewAt(path: string): FieldView {
    const address = addressAt(path);
    if (address !== null) return host.view(address);
    const field = plan.value?.fields[plan.value.slots.get(path) ?? 0] as PlanField;
    return { field, state: UNSET, value: null, error: null, canRetry: false, waiting: false, offer: null, shown: true, required: false, locked: false, differs: false, checks: [], unreadable: null }; // prettier-ignore
  }
  /** The names a formula of the selected field may use, and their values now. */
  const scope = computed(() => {
    const [lines = '', inner] = (selected.value ?? '').split('.');
    return (inner === undefined ? undefined : plan.value?.lineScopes.get(lines)) ?? plan.value?.scope;
  });
  function environment(): Env | null {
    const entry = host.entry.value;
    const address = selected.value && plan.value?.slots.has(selected.value) ? addressAt(selected.value) : null;
    if (!entry || !address) return entry?.environment ?? null;
    const { field, line: at } = parseAddress(address);
    return entry.environmentOf(field, at ?? null);
  }

  const differences = computed(() => (form.value && published.value ? formDifferences(published.value, form.value) : []));
  const problems = computed(() => plan.value?.problems ?? []);
  const errors = computed(() => problems.value.filter((p) => p.severity === 'error'));

  return {
    formKey, form, plan, published, version, tables, lists, feeds, context, person, selected, line, scope, environment, addressAt, viewAt, failed, conflict, saveState, host, differences, problems, errors, undoStack, redoStack,
    tried, tryWith, notices, load, readTables, change, undo, redo, flush, publish, startOver, tryAs,
  }; // prettier-ignore
}

export const draftKey: InjectionKey<Draft> = Symbol('draft');
export const useTheDraft = (): Draft => inject(draftKey) as Draft;
