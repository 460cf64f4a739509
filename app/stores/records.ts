import { defineStore } from 'pinia';
import { PLAIN_VIEW, type View, type ViewColour, viewScope, withoutColumns } from '~~/core/choices/views.ts';
import { viewSchema } from '~~/core/choices/viewSchemas.ts';
import { isIsoDate } from '~~/core/values/dates.ts';
import { quoted } from '~~/core/form/who.ts';
import type { contract } from '~~/core/contract/index.ts';
import { type Column, type Table, shapesOf } from '~~/core/model/tables.ts';
import type { ViewOption } from '~/components/records/viewWords';

/* How the records of a form are looked at: the view that stands on the screen, and those that are kept. */

export type ViewsAnswer = Answer<typeof contract.views.list>;
export type KeptView = ViewsAnswer['views'][number];
export type ViewWhole = NonNullable<Answer<typeof contract.entries.list>['whole']>;
export const SPANS = ['month', 'week', 'agenda'] as const;
export type CalendarSpan = (typeof SPANS)[number];
/** What the address says of a view. */
export interface ViewAddress {
  readonly view?: string | undefined;
  readonly with?: string | undefined;
  readonly q?: string | undefined;
  readonly as?: string | undefined;
  readonly step?: string | undefined;
  readonly day?: string | undefined;
}

export const useRecordViews = defineStore('records', () => {
  const about = shallowRef<ViewsAnswer | null>(null);
  const failed = shallowRef<{ readonly code: string; readonly message: string } | null>(null);
  const view = shallowRef<View>(PLAIN_VIEW);
  const keptId = ref<number | null>(null);
  const search = ref('');
  const looksAs = ref<'list' | 'calendar'>('list');
  /** of a calendar: a day of what it shows, and how much of it */
  const day = ref('');
  const span = ref<CalendarSpan>('month');
  /** what is told of all that the view shows; of the list */
  const whole = shallowRef<ViewWhole | null>(null);

  const kept = computed(() => about.value?.views.find((v) => v.id === keptId.value) ?? null);
  const isChanged = computed(() => inOrder(view.value) !== inOrder(kept.value?.view ?? PLAIN_VIEW));
  const tables = computed<ReadonlyMap<string, Table>>(() => new Map((about.value?.tables ?? []).map((t) => [t.key, t as Table])));
  const table = computed(() => tables.value.get(about.value?.form.table ?? '') ?? null);
  const columns = computed<readonly Column[]>(() => table.value?.columns ?? []);
  const scope = computed(() => viewScope(shapesOf(tables.value), about.value?.form.table ?? ''));
  const options = computed<ViewOption[]>(() => columns.value.map((c) => ({ value: c.key, label: c.label, type: c.type })));

  async function read(form: string): Promise<void> {
    try {
      about.value = await api.views.list({ key: form });
      failed.value = null;
    } catch (e) {
      failed.value = { code: e instanceof ApiError ? e.code : 'failed', message: messageOf(e) };
    }
  }
  /** Looks at the records of a form as an address says; as is usual, where it says nothing. */
  async function open(form: string, address: ViewAddress): Promise<void> {
    if (about.value?.form.key !== form) about.value = null;
    whole.value = null;
    await read(form);
    const all = about.value?.views ?? [];
    const named = all.find((v) => String(v.id) === address.view);
    const usual = address.view === undefined && address.step === undefined ? (all.find((v) => v.usual && v.mine) ?? all.find((v) => v.usual)) : undefined;
    const base = named ?? usual ?? null;
    keptId.value = base?.id ?? null;
    const asked = viewFrom(address.with);
    const step = about.value?.form.step;
    // Home leads to those at one step: that is a condition as any other
    const atStep = step && address.step !== undefined ? `choice.${step} = ${quoted(address.step)}` : null;
    view.value = asked ? withoutColumns(asked, (k) => columns.value.some((c) => c.key === k)) : atStep !== null ? { ...PLAIN_VIEW, where: atStep } : (base?.view ?? PLAIN_VIEW);
    search.value = address.q ?? '';
    const [as = '', by] = (address.as ?? '').split(' ');
    looksAs.value = as === 'calendar' ? 'calendar' : 'list';
    span.value = SPANS.find((x) => x === by) ?? 'month';
    day.value = isIsoDate(address.day ?? '') ? (address.day as string) : '';
  } // prettier-ignore
  const change = (part: Partial<View>): void => void (view.value = { ...view.value, ...part });
  function choose(id: number | null): void {
    keptId.value = id;
    view.value = kept.value?.view ?? PLAIN_VIEW;
    if (view.value.calendar === null && looksAs.value === 'calendar') looksAs.value = 'list';
  }
  /** Keeps the view as it stands; under the name of the one it was made from, that one is changed. */
  async function keep(as: Pick<KeptView, 'label' | 'shared' | 'usual'>, instead: KeptView | null): Promise<void> {
    const form = about.value!.form.key;
    const body = { label: as.label, shared: as.shared, usual: as.usual, view: view.value };
    if (instead) await api.views.change({ key: form, id: instead.id }, body);
    const id = instead?.id ?? (await api.views.keep({ key: form }, body)).id;
    await read(form);
    keptId.value = id;
  }
  async function remove(gone: KeptView): Promise<void> {
    const form = about.value!.form.key;
    await api.views.remove({ key: form, id: gone.id });
    if (keptId.value === gone.id) keptId.value = null;
    await read(form);
  }
  /** As the address says it: only what is not so anyway. */
  const address = computed<Record<string, string | undefined>>(() => ({
    view: keptId.value === null ? undefined : String(keptId.value),
    with: isChanged.value ? JSON.stringify(view.value) : undefined,
    q: search.value.trim() || undefined,
    as: looksAs.value === 'calendar' ? (span.value === 'month' ? 'calendar' : `calendar ${span.value}`) : undefined,
    day: looksAs.value === 'calendar' ? day.value || undefined : undefined,
  }));
  const colours = computed<readonly ViewColour[]>(() => view.value.colours);
  return { about, failed, view, keptId, kept, isChanged, search, looksAs, day, span, whole, tables, table, columns, scope, options, colours, address, open, read, change, choose, keep, remove };
}); // prettier-ignore

/** As text, whatever order its parts were written in. */
const inOrder = (view: View): string => JSON.stringify(viewSchema.parse(view));
function viewFrom(text: string | undefined): View | null {
  if (text === undefined) return null;
  try {
    return viewSchema.parse(JSON.parse(text));
  } catch {
    // an address somebody changed by hand: what it says is left out
    return null;
  }
}
