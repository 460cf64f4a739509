import { defineStore } from 'pinia';
import type { AnswerOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import { compileForm } from '~~/core/engine/compile.ts';
import { type Edit, addressOf, parseAddress } from '~~/core/engine/state.ts';
import { verify } from '~~/core/engine/verify.ts';
import { parseForm } from '~~/core/form/definition.ts';
import { type Datum, same } from '~~/core/values/types.ts';
import { type KeptEdits, keptEdits } from '~/composables/keptEdits';

type Opened = AnswerOf<typeof contract.entries.open>;
/** What a save came to, for the screen to show. */
export type Saved =
  /** saved; fields that the server has otherwise, and the version it was judged by where that is another */
  | { readonly kind: 'saved'; readonly id: number; readonly differs: readonly string[]; readonly anew: number | null }
  /** not saved: the first field in the way, where there is one */
  | { readonly kind: 'refused'; readonly at: string | null }
  | { readonly kind: 'conflict' }
  /** a save of the same entry had arrived before, as this record */
  | { readonly kind: 'savedBefore'; readonly id: number }
  | { readonly kind: 'failed'; readonly message: string };
interface Carried {
  readonly key: string;
  readonly value: Datum;
}
const byKey = <T extends { readonly key: string }>(all: readonly T[]): Map<string, T> => new Map(all.map((x) => [x.key, x]));
const cameBy = (e: Edit): string => ('by' in e && e.by) || 'hand';
/** What is said where a form was published anew while an entry was typed. */
export const anewWords = (version: number): string =>
  `The form was published anew while this was typed; it was judged by version ${version}.`;

/** One record being entered or changed: what was opened, the live entry on it, what was kept of it before, and saving. */
export const useEntry = defineStore('entry', () => {
  const form = ref('');
  const record = ref<number | null>(null);
  /** what the address gives: the record to open under, and values for the form */
  const address = shallowRef<Readonly<Record<string, string>>>({});
  const opened = shallowRef<Opened | null>(null);
  const failed = ref('');
  const saving = ref(false);
  const notices = shallowRef<readonly string[]>([]);
  /** what was typed here and left unsaved, and is offered again */
  const kept = shallowRef<KeptEdits | null>(null);
  let request: string = crypto.randomUUID();
  let store = keptEdits(0, '', null);
  /** counts what is read: a late answer is not this entry's */
  let reading = 0;

  const host = useEntryHost((wants) => api.entries.wants({ key: form.value }, { version: opened.value?.version ?? 0, wants }));

  /** Opens an entry for a form: a record, or a new one with what the address gives. */
  async function open(what: { form: string; record: number | null; address: Readonly<Record<string, string>> }): Promise<void> {
    form.value = what.form;
    record.value = what.record;
    address.value = what.address;
    store = keptEdits(useSession().account?.id ?? 0, what.form, what.record);
    opened.value = null;
    host.entry.value = null;
    kept.value = null;
    notices.value = [];
    await read();
  }
  /** Reads what is opened; edits that are given are made on it, else what was kept is offered and what the address gives is put in. */
  async function read(reapply: readonly Edit[] = [], carried: readonly Carried[] = []): Promise<void> {
    const mine = ++reading;
    failed.value = '';
    try {
      const key = form.value;
      const answer =
        record.value === null ? await api.entries.begin({ key }, address.value) : await api.entries.open({ key, id: record.value });
      // another was opened meanwhile
      if (mine !== reading) return;
      opened.value = answer;
    } catch (e) {
      if (mine === reading) failed.value = messageOf(e);
      return;
    }
    begin(opened.value);
    if (reapply.length) {
      host.apply(reapply);
      return;
    }
    const left = store.read();
    kept.value = left && left.revision === (opened.value.record?.revision ?? null) ? left : null;
    notices.value = await takeAddressValues(host, address.value);
    await carryOver(carried);
  }
  function begin(o: Opened): void {
    const plan = compileForm(parseForm(o.form), byKey(o.tables), byKey(o.lists), byKey(o.feeds));
    host.open(plan, { ...o.context, url: address.value, mode: o.record ? 'edit' : 'new' }, o.record, o.answered);
    request = crypto.randomUUID();
  }
  /** What the fields say starts the next entry with the same value, in the order of the form, so that parents come first. */
  async function carryOver(values: readonly Carried[]): Promise<void> {
    for (const { key, value } of values) {
      if (value === null) continue;
      host.apply([{ kind: 'set', field: key, value, by: 'carried' }]);
      await host.settled();
    }
  }

  // what was typed survives a closed browser and a dead server; what came with the address comes again with it, and what was
  // carried over from the record before is nobody's typing
  function typedEdits(): readonly Edit[] {
    const edits = (host.entry.value?.log ?? []).filter((e) => cameBy(e) !== 'url');
    return edits.some((e) => cameBy(e) === 'hand') ? edits : [];
  }
  /** Keeps what is typed; what is offered from before stays beside it until it is taken up or dropped. */
  function keep(): void {
    const edits = typedEdits();
    if (edits.length) store.write({ revision: opened.value?.record?.revision ?? null, edits, request, earlier: kept.value });
    else store.drop(kept.value);
  }
  watch(
    () => host.steps.value,
    () => typedEdits().length && keep(),
  );
  function takeUp(): void {
    const left = kept.value;
    kept.value = left?.earlier ?? null;
    if (!left) return;
    // under the key it had: what was saved already, without an answer, is found and not saved again
    request = left.request;
    host.apply(left.edits);
  }
  function forget(): void {
    kept.value = kept.value?.earlier ?? null;
    keep();
  }
  /** What was typed is to be saved as one more record, although the one before it was saved. */
  function saveAnew(): Promise<Saved> {
    request = crypto.randomUUID();
    return save(false);
  }

  /** Saves the entry; with `next`, a new one is begun after it with what is carried over. Nothing typed is lost, whatever happens. */
  async function save(next: boolean): Promise<Saved> {
    const entry = host.entry.value;
    const o = opened.value;
    if (!entry || !o || saving.value) return { kind: 'refused', at: null };
    const issues = verify(entry).filter((i) => i.code !== 'unknown');
    if (issues.length) {
      host.issues.value = issues;
      return { kind: 'refused', at: issues[0] ? addressOf(issues[0].field, issues[0].line) : null };
    }
    saving.value = true;
    try {
      const saved = await send(o, entry.log);
      store.drop(kept.value);
      const stored = entry.plan.own.flatMap((f) => (f.definition.column === null ? [] : [{ field: f, column: f.definition.column }]));
      const differs = stored
        // what is not told is not compared
        .filter(({ field, column }) => column in saved.values && !same(saved.before[field.key], saved.values[column] ?? null))
        .map(({ field }) => field.definition.label);
      if (next) {
        const carried = stored
          .filter(({ field }) => field.definition.carry && entry.isShown(field.key))
          .map(({ field, column }) => ({ key: field.key, value: saved.values[column] ?? null }));
        await read([], carried);
      }
      return { kind: 'saved', id: saved.id, differs, anew: saved.version === o.version ? null : saved.version };
    } catch (e) {
      return refused(e, o);
    } finally {
      saving.value = false;
    }
  }
  async function send(o: Opened, edits: readonly Edit[]) {
    const entry = host.entry.value!;
    const before = Object.fromEntries(entry.plan.own.filter((f) => f.definition.column).map((f) => [f.key, entry.value(f.key)]));
    const body = {
      version: o.version,
      edits,
      revision: o.record?.revision ?? null,
      request,
      opened: { parent: o.context.parent, url: address.value, at: o.context.now },
    };
    const key = form.value;
    const answer =
      record.value === null ? await api.entries.save({ key }, body) : await api.entries.change({ key, id: record.value }, body);
    return { ...answer, before };
  }
  /** What a refused save means: what is wrong stands at its fields. */
  function refused(e: unknown, o: Opened): Saved {
    if (!(e instanceof ApiError)) return { kind: 'failed', message: messageOf(e) };
    if (e.status === 422 && e.details.issues) {
      const found = Object.entries(e.details.issues as Record<string, string>);
      // a list that let something be chosen which the server does not take is out of date
      host.reread(found.map(([at]) => at));
      const version = Number(e.details.version ?? o.version);
      notices.value = version === o.version ? [] : [anewWords(version)];
      host.issues.value = found.map(([at, message]) => {
        const { field, line } = parseAddress(at);
        return { field, line: line ?? null, code: 'check', message };
      });
      return { kind: 'refused', at: found[0]?.[0] ?? null };
    }
    if (e.code === 'requestReused' && e.details.record) return { kind: 'savedBefore', id: Number(e.details.record) };
    if (e.code === 'changedMeanwhile') return { kind: 'conflict' };
    // the key is somebody else's: the next try has one of its own
    if (e.code === 'requestReused') request = crypto.randomUUID();
    return { kind: 'failed', message: e.message };
  }
  /** Reads the record again with others' changes, and puts what was typed on top. */
  const readAgain = (): Promise<void> => read([...(host.entry.value?.log ?? [])]);

  return {
    form,
    record,
    opened,
    failed,
    saving,
    notices,
    kept,
    host: markRaw(host),
    open,
    read,
    takeUp,
    forget,
    save,
    saveAnew,
    readAgain,
  };
});
