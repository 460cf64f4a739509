import { defineStore } from 'pinia';
import { compileDraft } from '~~/core/engine/mistakes.ts';
import type { Plan } from '~~/core/engine/plan.ts';
import type { Answered } from '~~/core/engine/wants.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { Role } from '~~/core/values/roles.ts';
import { type Form } from '~~/core/form/definition.ts';
import { parseForm } from '~~/core/form/schemas.ts';
import type { Feed } from '~~/core/model/feeds.ts';
import type { OptionList } from '~~/core/model/lists.ts';
import type { Table } from '~~/core/model/tables.ts';
import type { ConditionRoot } from '../state/conditions';
import type { FormProblem } from '~~/core/form/problems.ts';
import { formDifferences } from '~~/core/review/differences.ts';

const byKey = <T extends { readonly key: string }>(all: readonly T[]): ReadonlyMap<string, T> => new Map(all.map((x) => [x.key, x]));

/**
 * The form being built: its draft with undo and saving, what it stands on, and what is wrong with it. Every change compiles it
 * anew; the try-out follows the plan.
 */
export const useDraft = defineStore('draft', () => {
  const formKey = ref('');
  const plan = shallowRef<Plan | null>(null);
  const published = shallowRef<Form | null>(null);
  const version = ref<number | null>(null);
  const tables = shallowRef<ReadonlyMap<string, Table>>(new Map());
  const lists = shallowRef<ReadonlyMap<string, OptionList>>(new Map());
  const feeds = shallowRef<ReadonlyMap<string, Feed>>(new Map());
  const context = shallowRef<Answer<typeof contract.forms.draft>['context']>({
    today: '',
    now: '',
    me: 0,
    roles: [],
    calendar: { workingDays: [], holidays: [] },
  });
  /** tables whose rows belong to people or teams: formulas read them with the rights of whoever fills in */
  const owned = shallowRef<ReadonlySet<string>>(new Set());
  /** what the accounts of people are, by the number of the person */
  const rolesOf = shallowRef<ReadonlyMap<number, readonly Role[]>>(new Map());
  /** what the first lists need, which came with the draft */
  const answered = shallowRef<readonly Answered[]>([]);
  const selected = ref<string | null>(null);
  const failed = ref('');
  /** formulas that were being written when their editor was left, by form and place */
  const unapplied = new Map<string, string>();
  /** the place of a formula that is to be opened where it stands, as `placeKey` has it */
  const opening = ref<string | null>(null);
  /** conditions with parts that were begun and do not apply yet, by form and field, with the formula they stand for */
  const begun = new Map<string, { readonly where: string | null; readonly root: ConditionRoot }>();

  const document = useDocument<Form>(
    async (draft, revision) => (await api.forms.saveDraft({ key: formKey.value }, { draft, revision })).revision,
    { wait: 400 },
  );
  const form = document.now;
  /** what stood before, oldest first */
  const past = computed(() => document.doc.value?.past ?? []);

  function compile(): void {
    plan.value = form.value && compileDraft(form.value, tables.value, lists.value, feeds.value);
    const at = selected.value;
    if (at && plan.value && !plan.value.slots.has(at) && !form.value?.lines[at]) selected.value = null;
  }
  /** Reads a form's draft from the server; what is not saved yet, of this form or another, is saved first. */
  async function open(key: string): Promise<void> {
    // a screen that is left for another of the same form may have changed it a moment ago
    if (!document.conflict.value) await document.flush();
    if (key !== formKey.value) {
      document.doc.value = null;
      plan.value = null;
      selected.value = null;
    }
    formKey.value = key;
    failed.value = '';
    try {
      const answer = await api.forms.draft({ key });
      // another form was opened meanwhile
      if (formKey.value !== key) return;
      tables.value = byKey(answer.tables);
      lists.value = byKey(answer.lists);
      feeds.value = byKey(answer.feeds);
      context.value = answer.context;
      owned.value = new Set(answer.owned);
      rolesOf.value = new Map(answer.accounts.map((a) => [a.person, a.roles]));
      answered.value = answer.answered;
      version.value = answer.version;
      published.value = answer.published ? parseForm(answer.published) : null;
      // come back to as it was left, it can still be undone
      const same = document.doc.value?.revision === answer.revision && document.state.value === 'saved';
      if (!same) document.open(parseForm(answer.draft), answer.revision);
      compile();
    } catch (e) {
      failed.value = messageOf(e);
    }
  }
  /** Makes one change, undoable. A change that changes nothing is none. */
  function change(to: Form | null): void {
    if (!form.value || !to || to === form.value || JSON.stringify(to) === JSON.stringify(form.value)) return;
    if (document.change(to)) compile();
  }
  function undo(): void {
    if (document.undo()) compile();
  }
  function redo(): void {
    if (document.redo()) compile();
  }
  /** Publishes what stands here; gives the new version. Throws ApiError. */
  async function publish(note = ''): Promise<number> {
    await document.flush();
    const answer = await api.forms.publish({ key: formKey.value }, { revision: document.doc.value?.revision ?? 0, note });
    await open(formKey.value);
    return answer.version;
  }
  /** Reads the tables again, after one was made or changed from here. */
  async function readTables(): Promise<void> {
    tables.value = byKey((await api.forms.draft({ key: formKey.value })).tables);
    compile();
  }

  /** Opens the formula at a place where it stands, as soon as it stands anywhere. */
  function openAt(place: string | null): void {
    opening.value = place;
    // what does not stand anywhere now is not to open by itself later
    setTimeout(() => opening.value === place && (opening.value = null), 5000);
  }

  /** The names a formula of the selected field may use. */
  const scope = computed(() => {
    const [group = '', inner] = (selected.value ?? '').split('.');
    return (inner === undefined ? undefined : plan.value?.lineScopes.get(group)) ?? plan.value?.scope;
  });
  const differences = computed(() => (form.value && published.value ? formDifferences(published.value, form.value) : []));
  /** what is doubtful in the rows of the tables, where the form is in order (see tryout) */
  const noticed = shallowRef<readonly FormProblem[]>([]);
  const problems = computed(() => plan.value?.problems ?? []);
  const errors = computed(() => problems.value.filter((p) => p.severity === 'error'));

  return {
    formKey, form, plan, published, version, tables, lists, feeds, context, rolesOf, owned, answered, selected, scope, failed, differences, problems, noticed, errors, past, opening, begun: markRaw(begun), unapplied: markRaw(unapplied),
    saving: document.state, conflict: document.conflict, canUndo: document.canUndo, canRedo: document.canRedo,
    open, openAt, readTables, change, undo, redo, flush: document.flush, publish,
  }; // prettier-ignore
});
