import { defineStore } from 'pinia';
import type { Entry } from '~~/core/engine/entry.ts';
import { isDatum } from '~~/core/formula/errors.ts';
import { type Edit, addressOf, parseAddress } from '~~/core/engine/state.ts';
import { verify } from '~~/core/engine/verify.ts';
import type { Form } from '~~/core/form/definition.ts';
import { followEdits, withNames } from '~~/core/form/follow.ts';
import { type Datum, same } from '~~/core/values/types.ts';
import { type Opened, openedOf, openedPlan } from '~/composables/openedPlan';
import { type KeptEdits, holdEntry, keptEdits } from '~/composables/keptEdits';
import { type Clash, changedByThem, clashesOf, valuesAt, withoutGoneLines } from '~/state/clashes';

/** What a save came to, for the screen to show. */
export type Saved =
  /** saved; fields that the server has otherwise, and the version it was judged by where that is another */
  | {
      readonly kind: 'saved';
      readonly id: number;
      readonly differs: readonly string[];
      readonly anew: number | null;
      readonly lost: readonly string[];
    }
  /** not saved: the first field in the way, where there is one */
  | { readonly kind: 'refused'; readonly at: string | null }
  /** the server cannot be reached: it waits, and is to be sent again */
  | { readonly kind: 'waiting' }
  | { readonly kind: 'conflict' }
  /** a save of the same entry had arrived before, as this record */
  | { readonly kind: 'savedBefore'; readonly id: number }
  | { readonly kind: 'failed'; readonly message: string };
interface Carried {
  readonly key: string;
  readonly value: Datum;
}
const cameBy = (e: Edit): string => ('by' in e && e.by) || 'hand';
/** What is said where a form was published anew while an entry was typed. */
export const anewWords = (version: number): string =>
  `The form was published anew while this was typed; it was judged by version ${version}.`;

/** What takes longer, in seconds, was left lying. */
const LONGEST_SITTING = 4 * 3600;

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
  /** what was typed here and left unsaved, the newest first: it is offered again */
  const left = shallowRef<readonly KeptEdits[]>([]);
  const kept = computed(() => left.value[0] ?? null);
  /** fields that somebody else changed while they were changed here: it is asked which value is to stand */
  const clashes = shallowRef<readonly Clash[]>([]);
  /** edits that wait for that, and what they were kept under */
  let pending: { readonly edits: readonly Edit[]; readonly instead: string | null } | null = null;
  /** what the edited fields held when this was opened, by address */
  let base: Readonly<Record<string, Datum>> = {};
  let request: string = crypto.randomUUID();
  /** when it was opened: what is counted is how long it took, not by whom */
  let began = 0;
  let restored = false;
  /** what stands in the field somebody is in, and was not taken yet */
  let typing: { readonly field: string; readonly text: string } | null = null;
  let release = (): void => {};
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
    left.value = [];
    clashes.value = [];
    pending = null;
    notices.value = [];
    await read();
  }
  /** Reads what is opened. The first time, what was kept is offered and what the address gives is put in; not when it is read again. */
  async function read(carried: readonly Carried[] = [], again = false): Promise<void> {
    const mine = ++reading;
    failed.value = '';
    try {
      const key = form.value;
      const answer =
        record.value === null ? await api.entries.begin({ key }, address.value) : await api.entries.open({ key, id: record.value });
      // another was opened meanwhile
      if (mine !== reading) return;
      opened.value = openedOf(answer);
      address.value = withNames(address.value, answer.renamed);
    } catch (e) {
      if (mine === reading) failed.value = messageOf(e);
      return;
    }
    begin(opened.value);
    if (again) return;
    left.value = await store.all();
    if (mine !== reading) return;
    notices.value = await takeAddressValues(host, address.value);
    await carryOver(carried);
  }
  /** An entry of its own: the key it is saved and kept under, which no other window takes up. */
  function hold(key: string): void {
    release();
    request = key;
    release = holdEntry(key);
  }
  function begin(o: Opened): void {
    host.open(openedPlan(o), { ...o.context, url: address.value, mode: o.mode }, o.record, o.answered);
    base = {};
    typing = null;
    began = Date.now();
    restored = false;
    hold(crypto.randomUUID());
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
  /** Keeps what is typed, at once; what is offered from before stays beside it until it is restored or discarded. */
  function keep(): void {
    const edits = typedEdits();
    if (!edits.length && !typing) return;
    base = { ...valuesAt(opened.value?.record ?? null, host, edits), ...base };
    void store.write({ revision: opened.value?.record?.revision ?? null, edits, request, base, typing });
  }
  /** whether `keep` is to be done once what is going on has ended */
  let isDue = false;
  /** The same for all that is done in one go, such as a block that is pasted: once, behind it, and before anything else can happen. */
  function keepSoon(): void {
    if (isDue) return;
    isDue = true;
    queueMicrotask(() => {
      if (isDue && !pending) keep();
      isDue = false;
    });
  }
  /** What was kept is not any more; nor is what was yet to be. */
  function drop(key: string): Promise<void> {
    if (key === request) isDue = false;
    return store.drop(key);
  }
  /** Keeps what stands in the field somebody is in before it is taken; null once it was, or was given up. */
  function typingIn(now: { readonly field: string; readonly text: string } | null): void {
    if (typing === null && now === null) return;
    typing = now;
    if (pending) return;
    if (now === null && !typedEdits().length) void drop(request);
    else keep();
  }
  // ---- the record saved last: its values can be repeated ----
  const lastKey = (): string => `brisk-last ${useSession().account?.id ?? 0} ${form.value}`;
  function noteSaved(entry: Entry): void {
    const values = Object.fromEntries(entry.plan.own.map((f) => [f.key, entry.value(f.key)]).filter(([, v]) => isDatum(v as never)));
    try {
      sessionStorage.setItem(lastKey(), JSON.stringify(values));
    } catch {
      // there is no room for it: then nothing is repeated
    }
  }
  /** Puts into a field what it held in the record that was saved last from this window. Gives a sentence where it cannot. */
  function repeatLast(address: string): string | null {
    const { field, line } = parseAddress(address);
    const values = JSON.parse(sessionStorage.getItem(lastKey()) ?? 'null') as Record<string, Datum> | null;
    const label = host.label(address);
    if (line !== undefined) return 'Lines are not repeated.';
    if (values === null) return 'Nothing was saved from this window yet, so there is nothing to repeat.';
    const value = values[field] ?? null;
    if (value === null) return `${label} was empty in the record before.`;
    if (host.view(address).locked) return `${label} cannot be filled in here.`;
    host.set(address, value);
    return same(host.view(address).value, value) ? null : `“${host.show(address, value)}”, as in the record before, is not offered here.`;
  }
  watch(
    () => host.steps.value,
    () => !pending && keepSoon(),
    { flush: 'sync' },
  );
  /** Puts what was kept into the entry; where the record was changed since in the same fields, it is asked. */
  function takeUp(): KeptEdits['typing'] {
    const [taken, ...others] = left.value;
    if (!taken) return null;
    restored = true;
    left.value = others;
    const own = request;
    // under the key it had: what was saved already, without an answer, is found and not saved again
    hold(taken.request);
    if (taken.edits.length) reapply(taken.edits, taken.base ?? {}, own);
    return taken.typing ?? null;
  }
  function forget(): void {
    const [dropped, ...others] = left.value;
    left.value = others;
    if (dropped) void drop(dropped.request);
  }
  /** What was typed of a record goes with it. */
  function dropAll(): void {
    for (const kept of [request, ...left.value.map((k) => k.request)]) void drop(kept);
    left.value = [];
  }
  /** Makes edits again on the record as it is now. `instead`: what they were kept under until they stand here. */
  function reapply(edits: readonly Edit[], before: Readonly<Record<string, Datum>>, instead: string | null): void {
    const entry = host.entry.value;
    if (!entry) return;
    const { kept: possible, gone } = withoutGoneLines(entry, edits);
    if (gone) notices.value = [...notices.value, 'Somebody else removed a line that you had changed.'];
    const found = opened.value?.record ? clashesOf(entry, possible, before) : [];
    // from now on it is this reading of the record that the fields are compared with
    base = {};
    pending = { edits: possible, instead };
    clashes.value = found;
    if (!found.length) resolve(new Set());
  }
  /** Ends a clash: of the fields both changed, those named keep what was typed here, the others what somebody else saved. */
  function resolve(mine: ReadonlySet<string>): void {
    const waiting = pending;
    const theirs = new Set(clashes.value.map((c) => c.address).filter((a) => !mine.has(a)));
    pending = null;
    clashes.value = [];
    if (!waiting) return;
    const edits = waiting.edits.filter((e) => !theirs.has(addressOf(e.field, 'line' in e ? e.line : null)));
    if (edits.length) host.apply(edits);
    else void drop(request);
    if (waiting.instead !== null) void drop(waiting.instead);
  }
  /** The entry goes on under a key of its own: it is kept under that before it is not any more under the old one. */
  function underAnotherKey(): void {
    const own = request;
    hold(crypto.randomUUID());
    keep();
    void drop(own);
  }
  /** What was typed is to be saved as one more record, although the one before it was saved. */
  function saveAnew(): Promise<Saved> {
    underAnotherKey();
    return save(false);
  }

  /** Saves the entry; with `next`, a new one is begun after it with what is carried over. Nothing typed is lost, whatever happens. */
  async function save(next: boolean): Promise<Saved> {
    const entry = host.entry.value;
    const o = opened.value;
    if (!entry || !o || saving.value) return { kind: 'refused', at: null };
    saving.value = true;
    try {
      await host.beforeSaving();
      const issues = verify(entry).filter((i) => i.code !== 'unknown');
      if (issues.length) {
        host.issues.value = issues;
        return { kind: 'refused', at: issues[0] ? addressOf(issues[0].field, issues[0].line) : null };
      }
      const saved = await send(o, entry.log);
      typing = null;
      host.choicesTold();
      noteSaved(entry);
      await drop(request);
      const stored = entry.plan.own.flatMap((f) => (f.definition.column === null ? [] : [{ field: f, column: f.definition.column }]));
      const differs = stored
        // what is not told is not compared
        .filter(({ field, column }) => column in saved.values && !same(saved.before[field.key], saved.values[column] ?? null))
        .map(({ field }) => field.definition.label);
      if (next) {
        const carried = stored
          .filter(({ field }) => field.definition.carry && entry.isShown(field.key))
          .map(({ field, column }) => ({ key: field.key, value: saved.values[column] ?? null }));
        await read(carried);
      }
      return { kind: 'saved', id: saved.id, differs, anew: saved.version === o.version ? null : saved.version, lost: saved.lost ?? [] };
    } catch (e) {
      return refused(e, o);
    } finally {
      saving.value = false;
    }
  }
  /** How it was entered, for what the records say of the form. What was restored from before was not entered in one sitting. */
  function howEntered() {
    const seconds = Math.max(1, Math.round((Date.now() - began) / 1000));
    return { seconds: record.value === null && !restored && seconds <= LONGEST_SITTING ? seconds : null, choices: [...host.choicesMade()] };
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
      how: howEntered(),
    };
    const key = form.value;
    const answer =
      record.value === null ? await api.entries.save({ key }, body) : await api.entries.change({ key, id: record.value }, body);
    return { ...answer, before };
  }
  /** What a refused save means: what is wrong stands at its fields. */
  function refused(e: unknown, o: Opened): Saved {
    if (!(e instanceof ApiError)) return { kind: 'failed', message: messageOf(e) };
    // it did not arrive, or its answer did not: sent again under the same key, it is saved once
    if (e.status === 0) return { kind: 'waiting' };
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
    if (e.code === 'requestReused') underAnotherKey();
    return { kind: 'failed', message: e.message };
  }
  /**
   * Reads the entry again, with others' changes and the newest version of its form, and puts what was typed on top; gives the labels of
   * what they changed. What is called otherwise there is found; what has no place there any more is told with what was typed.
   */
  async function readAgain(): Promise<readonly string[]> {
    const was = opened.value;
    const typed = [...(host.entry.value?.log ?? [])];
    const stood = host.entry.value;
    const texts = new Map(
      (stood?.plan.own ?? []).map((f) => [f.definition.label, host.show(f.key, (stood?.value(f.key) ?? null) as Datum)] as const),
    );
    const before = was?.record ?? null;
    const values = { ...valuesAt(before, host, typed), ...base };
    const own = request;
    await read([], true);
    const entry = host.entry.value;
    if (!entry || !was || failed.value) return [];
    const { edits, lost } =
      was.version === opened.value?.version ? { edits: typed, lost: [] } : followEdits(typed, was.form as Form, entry.plan.form);
    reapply(edits, values, own);
    if (lost.length)
      notices.value = [
        ...notices.value,
        ...lost.map((label) => `${label} is no longer in the form; “${texts.get(label) ?? ''}” stood there.`),
      ];
    return changedByThem(entry.plan, before, opened.value?.record ?? null);
  }
  /** The entry was left: what is kept of it may be taken up elsewhere. */
  const leave = (): void => release();

  return {
    form,
    record,
    opened,
    failed,
    saving,
    notices,
    kept,
    clashes,
    resolve,
    leave,
    host: markRaw(host),
    open,
    read,
    takeUp,
    forget,
    dropAll,
    typingIn,
    repeatLast,
    save,
    saveAnew,
    readAgain,
  };
});
