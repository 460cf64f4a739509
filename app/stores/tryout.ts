import { useDebounceFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import type { StoredRecord } from '~~/core/engine/context.ts';
import type { Plan, PlanField } from '~~/core/engine/plan.ts';
import { unreachedIn } from '~~/core/engine/unreached.ts';
import { type Edit, addressOf, parseAddress } from '~~/core/engine/state.ts';
import { recordOfTold } from '~~/core/engine/told.ts';
import { UNSET } from '~~/core/model/valueState.ts';
import type { Answered, Want } from '~~/core/engine/wants.ts';
import type { Env } from '~~/core/formula/env.ts';
import type { Answer } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { Situation } from '~~/core/contract/situations.ts';
import { withoutGoneLines } from '~/state/clashes';

/** How outside services are tried: as they answer, after a while, or not at all. */
export type TriedFeeds = 'answer' | 'slow' | 'fail';
interface Tried {
  readonly record: { readonly id: number; readonly text: string; readonly values: StoredRecord } | null;
  readonly parent: number | null;
  readonly url: Readonly<Record<string, string>>;
  /** how the record is opened */
  readonly mode: 'edit' | 'view';
  /** the step the record is taken to stand at; null: its own */
  readonly step: string | null;
  /** the moment it is taken to be, `YYYY-MM-DDTHH:MM:SS`; null: now */
  readonly at: string | null;
  readonly feeds: TriedFeeds;
}
const NOTHING: Tried = { record: null, parent: null, url: {}, mode: 'edit', step: null, at: null, feeds: 'answer' };
/** How long a slow service takes, in milliseconds. */
const SLOW = 4000;

/**
 * The draft being tried: a live entry on it, as whom, on which record, under which and by which address. What was tried is played
 * again on every plan the draft becomes.
 */
export const useTryout = defineStore('tryout', () => {
  const draft = useDraft();
  const person = ref(0);
  const tried = shallowRef<Tried>(NOTHING);
  const notices = shallowRef<readonly string[]>([]);
  /** the line of a group that was looked at last */
  const line = ref<number | null>(null);

  const host = useEntryHost(async (wants: readonly Want[]) => {
    // the server narrows by the draft it has, so it must have this one
    await draft.flush();
    const { feeds } = tried.value;
    const ask = async (asked: readonly Want[]): Promise<Answered[]> =>
      asked.length
        ? api.entries.wants({ key: draft.formKey }, { version: 'draft', wants: [...asked], person: person.value || undefined })
        : [];
    const ofFeeds = wants.filter((w) => w.kind === 'feed');
    if (feeds === 'answer' || !ofFeeds.length) return ask(wants);
    if (feeds === 'slow') {
      await new Promise((resolve) => setTimeout(resolve, SLOW));
      return ask(wants);
    }
    const failed = ofFeeds.map((want): Answered => ({ want, answer: { kind: 'failed', reason: 'The service is tried as failing.' } }));
    return [...failed, ...(await ask(wants.filter((w) => w.kind !== 'feed')))];
  });
  const moments = useMoments(host);
  let form = '';

  function open(plan: Plan, answered: readonly Answered[], keepCache: boolean): void {
    const { record, parent, url, at } = tried.value;
    const mode = record ? tried.value.mode : 'new';
    const now = at === null ? {} : { now: at, today: at.slice(0, 10) };
    host.open(
      plan,
      {
        ...draft.context,
        ...now,
        me: person.value,
        roles: draft.rolesOf.get(person.value) ?? [],
        mode,
        parent,
        url,
        clock: () => performance.now(),
      },
      record && atStep(record.values),
      answered,
      keepCache,
    );
  }
  /** A record as if it stood at the step that is tried. */
  function atStep(record: StoredRecord): StoredRecord {
    const { step } = tried.value;
    const column = draft.form?.fields[draft.form.steps?.field ?? '']?.column;
    return step === null || !column ? record : { ...record, values: { ...record.values, [column]: step } };
  }
  /** Plays the tried edits again on the plan as it is now; those whose fields are gone are left out. Gives how many those were. */
  function replay(edits: readonly Edit[] = host.entry.value?.log ?? [], keepCache = true): number {
    const { plan } = draft;
    if (!plan) return 0;
    host.cache().forgetLists();
    open(plan, [], keepCache);
    const entry = host.entry.value;
    const known = edits.filter((e) => plan.slots.has(e.field) || plan.lines.some((l) => l.key === e.field));
    const kept = entry ? withoutGoneLines(entry, known).kept : [];
    if (kept.length) moments.hush(() => host.apply(kept));
    return edits.length - kept.length;
  }
  /** Another form is tried from the start. */
  function begin(plan: Plan): void {
    form = draft.formKey;
    tried.value = NOTHING;
    notices.value = [];
    line.value = null;
    person.value = draft.context.me;
    open(plan, draft.answered, false);
  }
  // at once, so that nothing is drawn of a plan that the entry does not have
  watch(
    () => draft.plan,
    (plan) => {
      if (!plan) {
        form = '';
        host.entry.value = null;
      } else if (form !== draft.formKey || !host.entry.value) begin(plan);
      else replay();
    },
    { immediate: true, flush: 'sync' },
  );

  // what nobody can choose is found by walking the cascades over the rows that are here: a moment later, since nobody waits for it
  const LOOK_AGAIN = 500;
  const notice = useDebounceFn(() => {
    const entry = host.entry.value;
    draft.noticed = entry && draft.plan === entry.plan ? unreachedIn(entry) : [];
  }, LOOK_AGAIN);
  watch(
    () => [draft.plan, host.steps.value[0]?.change.what.kind === 'supply' && host.steps.value[0].number],
    () => void notice(),
  );

  const startOver = (): void => void replay([]);
  function tryAs(id: number): void {
    person.value = id;
    replay();
  }
  /** Reads a record to be tried on. Throws ApiError when there is no such. */
  async function recordToTry(record: { readonly id: number; readonly text: string }): Promise<NonNullable<Tried['record']>> {
    return { ...record, values: recordOfTold(await api.forms.tryout({ key: draft.formKey }, { record: record.id })) };
  }
  /**
   * Tries the form otherwise: on another record, under another one, with another address, at another moment. What was typed stays, but
   * for another record, which begins as it is stored. Throws ApiError when there is no such record.
   */
  async function tryWith(change: Partial<Omit<Tried, 'record'>> & { record?: { id: number; text: string } | null }): Promise<void> {
    await draft.flush();
    const { record, ...rest } = change;
    const values = record ? await recordToTry(record) : null;
    tried.value = { ...tried.value, ...rest, ...(record === undefined ? {} : { record: values, step: null }) };
    // what the services said is asked anew when they are tried otherwise
    replay(record === undefined ? undefined : [], change.feeds === undefined);
    if (!tried.value.record && change.url) notices.value = await takeAddressValues(host, tried.value.url);
  }

  /** How it is tried now, with what was typed, to be kept by a name. */
  function asSituation(label: string): Situation {
    const { record, ...rest } = tried.value;
    const edits = [...(host.entry.value?.log ?? [])];
    return {
      label,
      person: person.value || null,
      record: record && { id: record.id, text: record.text },
      ...rest,
      url: { ...rest.url },
      edits,
    };
  }
  /** Tries the form in a situation that was kept. Throws ApiError when its record is no more. */
  async function enter(situation: Answer<typeof contract.situations.list>[number]['situation']): Promise<void> {
    await draft.flush();
    const { record, url, parent, mode, step, at, feeds, edits } = situation;
    const values = record && (await recordToTry(record));
    tried.value = { record: values, url, parent, mode, step, at, feeds };
    person.value = situation.person ?? draft.context.me;
    const left = replay(edits, false);
    notices.value = left
      ? [`“${situation.label}” was kept with ${left} ${left === 1 ? 'entry' : 'entries'} that the form has no place for now.`]
      : [];
  }

  /** What saving would say of what is tried now. Nothing is written. */
  async function trySave(): ReturnType<typeof api.forms.trySave> {
    await draft.flush();
    const { record, parent, url, step, at } = tried.value;
    const edits = [...(host.entry.value?.log ?? [])];
    const asked = { edits, record: record?.id ?? null, step, parent, url: { ...url }, at, person: person.value || undefined };
    return api.forms.trySave({ key: draft.formKey }, asked);
  }

  /** What was tried, written as a rehearsal; it is not kept by that. */
  async function asRehearsal(label: string): ReturnType<typeof api.rehearsals.keep> {
    await draft.flush();
    const { record, parent, url, mode, step, at } = tried.value;
    const edits = [...(host.entry.value?.log ?? [])];
    const now = at ?? host.entry.value?.context.now ?? null;
    const asked = { label, edits, record: record?.id ?? null, parent, person: person.value || null, mode, step, url: { ...url }, at: now };
    return api.rehearsals.keep({ key: draft.formKey }, asked);
  }

  /** The address to look at a field by: itself, or in the line looked at last (else the first); null while there is no line. */
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
    const field = draft.plan?.fields[draft.plan.slots.get(path) ?? 0] as PlanField;
    return { field, state: UNSET, value: null, error: null, canRetry: false, waiting: false, offer: null, shown: true, required: false, locked: false, differs: false, checks: [], words: { called: null, hint: null, placeholder: null }, unreadable: null, filesProblem: null }; // prettier-ignore
  }
  /** The values that a formula of the selected field reads now. */
  function environment(): Env | null {
    const entry = host.entry.value;
    const at = draft.selected;
    const address = at && draft.plan?.slots.has(at) ? addressAt(at) : null;
    if (!entry || !address) return entry?.environment ?? null;
    const { field, line: of } = parseAddress(address);
    return entry.environmentOf(field, of ?? null);
  }

  // the host holds references of its own, which the store must not look through
  return {
    host: markRaw(host),
    moments: markRaw(moments),
    person,
    tried,
    notices,
    line,
    startOver,
    tryAs,
    tryWith,
    trySave,
    asRehearsal,
    asSituation,
    enter,
    addressAt,
    viewAt,
    environment,
  };
});
