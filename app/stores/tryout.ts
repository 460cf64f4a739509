import { defineStore } from 'pinia';
import type { StoredRecord } from '~~/core/engine/context.ts';
import type { Plan, PlanField } from '~~/core/engine/plan.ts';
import { type Edit, addressOf, parseAddress } from '~~/core/engine/state.ts';
import { UNSET } from '~~/core/model/valueState.ts';
import type { Answered, Want } from '~~/core/engine/wants.ts';
import type { Env } from '~~/core/formula/env.ts';

interface Tried {
  readonly record: { readonly id: number; readonly values: StoredRecord } | null;
  readonly parent: number | null;
  readonly url: Readonly<Record<string, string>>;
}
const NOTHING: Tried = { record: null, parent: null, url: {} };

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
    return api.entries.wants({ key: draft.formKey }, { version: 'draft', wants, person: person.value || undefined });
  });
  let form = '';

  function open(plan: Plan, answered: readonly Answered[], keepCache: boolean): void {
    const { record, parent, url } = tried.value;
    const mode = record ? 'edit' : 'new';
    host.open(
      plan,
      { ...draft.context, me: person.value, roles: draft.rolesOf.get(person.value) ?? [], mode, parent, url },
      record?.values ?? null,
      answered,
      keepCache,
    );
  }
  /** Plays the tried edits again on the plan as it is now; those whose fields are gone are left out. */
  function replay(edits: readonly Edit[] = host.entry.value?.log ?? []): void {
    const { plan } = draft;
    if (!plan) return;
    host.cache().forgetLists();
    open(plan, [], true);
    const kept = edits.filter((e) => plan.slots.has(e.field) || plan.lines.some((l) => l.key === e.field));
    if (kept.length) host.apply(kept);
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

  const startOver = (): void => replay([]);
  function tryAs(id: number): void {
    person.value = id;
    replay();
  }
  /** Tries the form on another record, under another one or with another address. Throws ApiError when there is no such record. */
  async function tryWith(change: { record?: number | null; parent?: number | null; url?: Record<string, string> }): Promise<void> {
    await draft.flush();
    const { record, ...rest } = change;
    const values = typeof record === 'number' ? { id: record, values: await api.forms.tryout({ key: draft.formKey }, { record }) } : null;
    tried.value = { ...tried.value, ...rest, ...(record === undefined ? {} : { record: values }) };
    replay([]);
    if (!tried.value.record) notices.value = await takeAddressValues(host, tried.value.url);
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
  return { host: markRaw(host), person, tried, notices, line, startOver, tryAs, tryWith, addressAt, viewAt, environment };
});
