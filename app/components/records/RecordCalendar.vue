<script setup lang="ts">
import type { CalendarApi, CalendarOptions, DatesSetArg, EventDropArg, EventMountArg } from '@fullcalendar/core';
import dayGridPlugin from '@fullcalendar/daygrid';
import interactionPlugin from '@fullcalendar/interaction';
import listPlugin from '@fullcalendar/list';
import timeGridPlugin from '@fullcalendar/timegrid';
import FullCalendar from '@fullcalendar/vue3';
import { useDebounceFn } from '@vueuse/core';
import type { AnswerOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { Edit } from '~~/core/engine/state.ts';
import { addDays as daysAfter, dateToDays } from '~~/core/values/dates.ts';
import type { Datum } from '~~/core/values/types.ts';
import { type RecordTexts, type RecordsPage, recordTexts } from './recordTexts';

/*
 * The records of a view on their days. A record is moved to another day by dragging it, or with Alt and an arrow; the form judges
 * the move as it judges typing, and what it refuses does not happen.
 */
const props = defineProps<{ form: string; mayEnter: boolean; mayEdit: boolean }>();
const emit = defineEmits<{ open: [id: number] }>();
const records = useRecordViews();
type Days = AnswerOf<typeof contract.views.days>;
type DayRow = Days['rows'][number];

const dated = computed(() => records.options.filter((c) => c.type === 'date' || c.type === 'datetime'));
const calendar = computed(() => {
  const asked = records.view.calendar;
  if (asked && dated.value.some((c) => c.value === asked.from)) return asked;
  return { from: dated.value[0]?.value ?? '', until: null };
});
const columnType = (key: string | null): string | undefined => records.columns.find((c) => c.key === key)?.type;
const NONE = '';
const untils = computed(() => [
  { value: NONE, label: 'that day alone' },
  ...dated.value.filter((c) => c.value !== calendar.value.from).map((c) => ({ value: c.value, label: c.label })),
]);

// ---- what is read ----
const read = shallowRef<Days | null>(null);
const texts = shallowRef<{ shown: RecordTexts; version: number; fieldOf: (column: string) => string | null; told: string | null } | null>(
  null,
);
const failed = ref('');
const span = shallowRef<{ from: string; before: string } | null>(null);
let asked = 0;
async function again(): Promise<void> {
  const mine = ++asked;
  const between = span.value;
  if (!between || !calendar.value.from) return;
  try {
    if (!texts.value) {
      const page = await api.entries.list({ key: props.form }, { limit: 1 });
      const byColumn = new Map(Object.entries(page.form.fields).map(([key, f]) => [f.column, key]));
      texts.value = { shown: recordTexts(page), version: page.version, fieldOf: (c) => byColumn.get(c) ?? null, told: linkTold(page) };
    }
    const view = JSON.stringify({ ...records.view, calendar: calendar.value });
    const answer = await api.views.days({ key: props.form }, { view, search: records.search, from: between.from, before: between.before });
    if (mine !== asked) return;
    read.value = answer;
    failed.value = '';
  } catch (e) {
    if (mine === asked) failed.value = messageOf(e);
  }
}
const soon = useDebounceFn(again, 200);
watch(() => JSON.stringify([records.view.where, records.colours, calendar.value, records.search]), soon);

// ---- what is drawn ----
const onDay = computed(() => {
  const counts = new Map<string, number>();
  for (const d of read.value?.days ?? []) counts.set(d.day, (counts.get(d.day) ?? 0) + d.count);
  return counts;
});
const legend = computed(() =>
  records.colours.map((colour, i) => ({
    colour,
    count: (read.value?.days ?? []).reduce((n, d) => n + (d.colour === i ? d.count : 0), 0),
  })),
);
const total = computed(() => (read.value?.days ?? []).reduce((n, d) => n + d.count, 0));
/** The link that says most of a record: one that must be chosen, else the first. */
function linkTold({ form }: RecordsPage): string | null {
  const links = Object.values(form.fields).filter((f) => f.type === 'link' && f.column !== null);
  return (links.find((f) => f.required?.trim().toUpperCase() === 'TRUE') ?? links[0])?.column ?? null;
}
/** A day some days on; the same where there is none so far off. */
const addDays = (day: string, by: number): string => daysAfter(day, by) ?? day;
/** What a record is called here: what it is known by, and what tells it from others. */
function titleOf(row: DayRow): string {
  const shown = records.table?.shown;
  const keys = [...(shown ? [shown] : []), ...(records.view.columns ?? [texts.value?.told ?? '']), ...(texts.value?.shown.usual ?? [])].filter((k, i, all) => all.indexOf(k) === i && k !== calendar.value.from);
  const said = keys.map((k) => texts.value?.shown.text(k, row.row, read.value?.linked ?? {}) ?? '').filter((t) => t !== '');
  return said.slice(0, 2).join(' · ') || `record ${row.row.id}`;
} // prettier-ignore
const events = computed(() =>
  (read.value?.rows ?? []).flatMap((row) => {
    const [from, until] = [row.row[calendar.value.from], calendar.value.until === null ? null : row.row[calendar.value.until]];
    if (typeof from !== 'string') return [];
    const allDay = columnType(calendar.value.from) === 'date';
    const colour = row.colour === null ? undefined : records.colours[row.colour];
    return [{
      id: String(row.row.id), title: titleOf(row), start: from, allDay,
      // a calendar’s end is the moment after; a day that is meant is in
      end: typeof until === 'string' && until >= from ? (allDay ? addDays(until.slice(0, 10), 1) : until) : undefined,
      editable: props.mayEdit, durationEditable: false,
      extendedProps: { sign: colour?.sign ?? '', word: colour?.word ?? '' },
      classNames: colour ? [`c-${colour.colour}`] : ['plain'],
    }];
  }),
); // prettier-ignore

// ---- moving ----
const moved = shallowRef<{ readonly title: string; readonly day: string; readonly back: () => Promise<void> } | null>(null);
const refused = ref('');
const onTheWay = ref(false);
/** One thing after the other: each goes from what the one before has left. */
let last: Promise<unknown> = Promise.resolve();
function inTurn<T>(act: () => Promise<T>): Promise<T> {
  const mine = last.then(act);
  last = mine.catch(() => undefined);
  return mine;
}
const move = (id: number, by: number, title: string): Promise<boolean> => inTurn(() => moveNow(id, by, title));
/** Moves a record by days, through its form. Gives whether it was. */
async function moveNow(id: number, by: number, title: string): Promise<boolean> {
  const row = read.value?.rows.find((r) => r.row.id === id);
  if (!row) return false;
  const keys = [calendar.value.from, calendar.value.until].filter((k): k is string => k !== null);
  const edits: Edit[] = [];
  for (const key of keys) {
    const [field, value] = [texts.value?.fieldOf(key), row.row[key]];
    if (field && typeof value === 'string') edits.push({ kind: 'set', field, value: addDays(value.slice(0, 10), by) + value.slice(10) });
  }
  const before: Edit[] = edits.map((e) => ({ kind: 'set', field: e.field, value: row.row[keys.find((k) => texts.value?.fieldOf(k) === e.field) ?? ''] as Datum })); // prettier-ignore
  refused.value = '';
  moved.value = null;
  onTheWay.value = true;
  try {
    const version = texts.value?.version ?? 0;
    const saved = await api.entries.change({ key: props.form, id: row.row.id }, { version, edits, revision: row.revision, request: crypto.randomUUID() }); // prettier-ignore
    const to = addDays(String(row.row[calendar.value.from]).slice(0, 10), by);
    const back = async (): Promise<void> => {
      try {
        await api.entries.change({ key: props.form, id: row.row.id }, { version: saved.version, edits: before, revision: saved.revision, request: crypto.randomUUID() }); // prettier-ignore
        await again();
        moved.value = null;
      } catch (e) {
        await again();
        refused.value = `${title} was not moved back: ${whyOf(e)}`;
      }
    };
    await again();
    moved.value = { title, day: to, back: () => inTurn(back) };
    return true;
  } catch (e) {
    await again();
    refused.value = `${title} stays where it was: ${whyOf(e)}`;
    return false;
  } finally {
    onTheWay.value = false;
  }
}
function whyOf(e: unknown): string {
  const issues = e instanceof ApiError && e.status === 422 ? Object.values((e.details.issues ?? {}) as Record<string, string>) : [];
  return issues.length ? issues.join(' ') : messageOf(e);
}
async function dropped({ event, oldEvent, revert }: EventDropArg): Promise<void> {
  const [to, from] = [event.startStr.slice(0, 10), oldEvent.startStr.slice(0, 10)];
  const by = dateToDays(to) - dateToDays(from);
  // where it stood until the form has agreed: what is refused is not seen to have happened
  revert();
  if (by !== 0) await move(Number(event.id), by, event.title);
}
const STEPS: Readonly<Record<string, number>> = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -7, ArrowDown: 7 };
function mounted({ el, event }: EventMountArg): void {
  const { word } = event.extendedProps as { word: string };
  el.setAttribute('aria-label', `${event.title}${word ? `, ${word}` : ''}, ${showPlain('date', event.startStr.slice(0, 10))}`);
  el.addEventListener('keydown', (key) => {
    const by = key.altKey ? STEPS[key.key] : undefined;
    if (by === undefined || !props.mayEdit) return;
    key.preventDefault();
    void move(Number(event.id), by, event.title).then(() => nextTick(() => box.value?.$el.querySelector<HTMLElement>(`[data-record="${event.id}"]`)?.focus()));
  });
  el.dataset.record = event.id;
} // prettier-ignore
function begin(day: string): void {
  const field = texts.value?.fieldOf(calendar.value.from);
  if (!props.mayEnter || !field) return;
  void navigateTo(`/entry/${props.form}/new?${encodeURIComponent(field)}=${day}${columnType(calendar.value.from) === 'datetime' ? 'T09:00:00' : ''}`); // prettier-ignore
}

// ---- the calendar ----
const SPAN_VIEWS = { month: 'dayGridMonth', week: 'timeGridWeek', agenda: 'listMonth' } as const;
const SPAN_WORDS = [
  { value: 'month', label: 'Month' },
  { value: 'week', label: 'Week' },
  { value: 'agenda', label: 'Agenda' },
] as const;
const box = ref<{ getApi(): CalendarApi; $el: HTMLElement }>();
const heading = ref('');
function set({ startStr, endStr, view }: DatesSetArg): void {
  heading.value = view.title;
  span.value = { from: startStr.slice(0, 10), before: endStr.slice(0, 10) };
  const middle = view.currentStart.toISOString().slice(0, 10);
  if (records.day === '' || records.day < middle || records.day >= view.currentEnd.toISOString().slice(0, 10)) records.day = middle;
  void again();
}
watch(() => records.span, (to) => box.value?.getApi().changeView(SPAN_VIEWS[to])); // prettier-ignore
const options = computed<CalendarOptions>(() => ({
  plugins: [dayGridPlugin, timeGridPlugin, listPlugin, interactionPlugin],
  initialView: SPAN_VIEWS[records.span],
  initialDate: records.day || undefined,
  timeZone: 'UTC',
  locale: LOCALE,
  firstDay: 1,
  headerToolbar: false,
  height: '100%',
  dayMaxEvents: true,
  navLinks: props.mayEnter,
  navLinkDayClick: (day: Date) => begin(day.toISOString().slice(0, 10)),
  navLinkHint: props.mayEnter ? 'A new entry on $0' : undefined,
  eventInteractive: true,
  eventTimeFormat: { hour: '2-digit', minute: '2-digit', hour12: false },
  slotLabelFormat: { hour: '2-digit', minute: '2-digit', hour12: false },
  allDayText: '',
  noEventsText: 'No records on these days.',
  events: events.value,
  eventClick: ({ event, jsEvent }) => {
    jsEvent.preventDefault();
    emit('open', Number(event.id));
  },
  dateClick: ({ dateStr }) => begin(dateStr.slice(0, 10)),
  eventDrop: (arg: EventDropArg) => void dropped(arg),
  eventDidMount: mounted,
  datesSet: set,
}));
</script>

<template>
  <div class="calendar">
    <div class="bar">
      <span class="row"
        ><IconButton icon="pi pi-angle-left" aria-label="Back" @click="box?.getApi().prev()" /><Button
          size="small"
          severity="secondary"
          label="Today"
          @click="box?.getApi().today()" /><IconButton icon="pi pi-angle-right" aria-label="Forward" @click="box?.getApi().next()"
      /></span>
      <h2 aria-live="polite">{{ heading }}</h2>
      <SelectButton
        v-model="records.span"
        :options="[...SPAN_WORDS]"
        option-label="label"
        option-value="value"
        size="small"
        :allow-empty="false"
        aria-label="How much is shown"
      />
      <span
        >by
        <PickWord
          :value="calendar.from"
          :options="dated"
          label="By which date"
          @pick="records.change({ calendar: { from: $event, until: calendar.until === $event ? null : calendar.until } })" />{{ ' ' }}to
        <PickWord
          :value="calendar.until ?? NONE"
          :options="untils"
          label="Until which date"
          @pick="records.change({ calendar: { from: calendar.from, until: $event === NONE ? null : $event } })"
      /></span>
      <InputText v-model="records.search" class="search" type="search" placeholder="Search the records" aria-label="Search the records" />
      <span class="muted" role="status">{{ total.toLocaleString(LOCALE) }} on these days</span>
    </div>
    <p v-if="legend.length" class="legend">
      <span v-for="l in legend" :key="l.colour.word" class="row"
        ><ViewMark :colour="l.colour" /><span class="muted">{{ l.count.toLocaleString(LOCALE) }}</span></span
      >
    </p>
    <Note v-if="failed" kind="bad" :retry="again">{{ failed }}</Note>
    <Note v-if="refused" kind="bad">{{ refused }}</Note>
    <Note v-else-if="moved" kind="good"
      >{{ moved.title }} stands on {{ showPlain('date', moved.day) }} now. <Button link label="Undo" @click="moved.back()"
    /></Note>
    <Note v-if="read?.more" kind="note"
      >There are more records than can be drawn: the first 1,000 stand here; the days are counted in full.</Note
    >
    <div class="days" :aria-busy="onTheWay">
      <FullCalendar ref="box" :options="options">
        <template #dayCellContent="{ dayNumberText, date }"
          >{{ dayNumberText
          }}<span v-if="onDay.get(date.toISOString().slice(0, 10))" class="ofDay">{{
            `${onDay.get(date.toISOString().slice(0, 10))?.toLocaleString(LOCALE)} ${onDay.get(date.toISOString().slice(0, 10)) === 1 ? 'record' : 'records'}`
          }}</span></template
        >
        <template #eventContent="{ event, timeText }"
          ><span class="event"
            ><span v-if="event.extendedProps.sign" class="sign" aria-hidden="true">{{ event.extendedProps.sign }}</span
            ><span v-if="timeText" class="sign">{{ timeText }}</span
            >{{ event.title }}</span
          ></template
        >
      </FullCalendar>
    </div>
  </div>
</template>

<style scoped>
.calendar {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 0 16px 12px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 16px;
}
h2 {
  font-size: 16px;
  min-width: 150px;
}
.search {
  width: 200px;
}
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  font-size: 13px;
}
.days {
  flex: 1;
  min-height: 320px;
  --fc-border-color: var(--line);
  --fc-page-bg-color: var(--ground);
  --fc-neutral-bg-color: var(--ground-2);
  --fc-today-bg-color: var(--flow-wash);
  --fc-list-event-hover-bg-color: var(--ground-2);
  --fc-event-border-color: transparent;
  --fc-event-bg-color: transparent;
  --fc-event-text-color: inherit;
  --fc-small-font-size: 12.5px;
}
.days :deep(.fc-event) {
  cursor: pointer;
  border-radius: 3px;
  font-size: 12.5px;
}
.days :deep(.fc-h-event),
.days :deep(.fc-v-event) {
  color: #fff;
}
.days :deep(.fc-event.plain) {
  background: var(--act-wash);
  color: var(--ink);
}
.days :deep(.fc-event .fc-event-main) {
  color: inherit;
}
.days :deep(.fc-list-event.fc-event) {
  background: none;
  color: var(--ink);
}
.days :deep(.fc-daygrid-day-number),
.days :deep(.fc-col-header-cell-cushion) {
  color: var(--ink);
}
.days :deep(.fc-daygrid-day-top) {
  flex-direction: row;
}
.days :deep(.fc-daygrid-day-number) {
  width: 100%;
  display: flex;
  justify-content: space-between;
  text-decoration: none;
}
/* days of the month before and after stand there to be read, too */
.days :deep(.fc-day-other .fc-daygrid-day-top) {
  opacity: 1;
}
.days :deep(.fc-day-other .fc-daygrid-day-number) {
  color: var(--ink-2);
}
.ofDay {
  color: var(--ink-2);
  font-size: 12px;
}
.sign {
  margin-right: 5px;
}
.event {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  padding: 0 3px;
}
</style>
