<script setup lang="ts">
import { isByItself } from '~~/core/model/origin.ts';
import { type CheckState, addressOf, parseAddress } from '~~/core/engine/state.ts';
import { useStorage } from '@vueuse/core';
import { type Section, columnsOf, placedOrder } from '~~/core/form/definition.ts';

/* Sections and fields of a live form, with the clerk's keys: Tab and Enter go to the next field that needs somebody. */
const props = defineProps<{ host: EntryHost; prefix?: string }>();
const emit = defineEmits<{ why: [field: string]; past: [] }>();
const root = ref<HTMLElement>();
const form = computed(() => props.host.entry.value?.plan.form);
const isLines = (key: string): boolean => form.value?.lines[key] !== undefined;
/** The field that holds the step is drawn as the path above the form. */
const drawn = (keys: readonly string[]): readonly string[] => keys.filter((k) => !props.host.holdsStep(k));
const fieldsShown = (keys: readonly string[]): boolean =>
  drawn(keys).some((k) => (isLines(k) ? props.host.lines(k).shown : props.host.view(k).shown));

// ---- pages: one at a time, those with nothing shown are none ----
const pages = computed(() => form.value?.pages.filter((p) => p.sections.some((s) => fieldsShown(s.fields))) ?? []);
const wanted = ref('');
const here = computed(() => (pages.value.some((p) => p.id === wanted.value) ? wanted.value : (pages.value[0]?.id ?? '')));
const beside = (by: 1 | -1) => pages.value[pages.value.findIndex((p) => p.id === here.value) + by];
/** Whether a field still needs somebody: required and empty, or wrong. */
function isOpen(key: string): boolean {
  const v = props.host.view(key);
  return v.shown && ((v.required && v.value === null && !v.unreadable) || props.host.issues.value.some((i) => i.field === key));
}
/** How many fields of a page still need somebody: required and empty, or wrong. */
const open = computed(
  () =>
    new Map(
      pages.value.map((p) => {
        const keys = p.sections.flatMap((s) => s.fields).filter((k) => !isLines(k));
        return [p.id, keys.filter(isOpen).length] as const;
      }),
    ),
);
// ---- folding: as somebody left it on this computer ----
const folded = useStorage<Record<string, boolean>>(`brisk-folded ${form.value?.key ?? ''}`, {});
const isFolded = (s: Section): boolean => s.folds !== 'never' && (folded.value[s.id] ?? s.folds === 'folded');
function fold(s: Section, to: boolean): void {
  folded.value = { ...folded.value, [s.id]: to };
}
const sectionOf = (key: string): Section | undefined => {
  const outer = key.split(/[.#]/)[0] ?? '';
  return form.value?.pages.flatMap((p) => p.sections).find((s) => s.fields.includes(outer));
};
/** The heading of the first folded section among these fields, other than the one of `here`. */
function foldedHead(here: string, keys: readonly string[]): HTMLElement | null {
  const own = sectionOf(here);
  for (const key of keys) {
    const section = reachable(key) ? sectionOf(key) : undefined;
    if (section && section !== own && isFolded(section)) return root.value?.querySelector<HTMLElement>(`[data-fold="${section.id}"] button`) ?? null; // prettier-ignore
  }
  return null;
}
const saidAt = (s: Section): readonly CheckState[] =>
  props.host.placeChecks({ kind: 'section', id: s.id }).filter((c) => c.severity !== 'note' || !isFolded(s));
const openIn = (s: Section): number => drawn(s.fields).filter((k) => !isLines(k) && isOpen(k)).length;

/** Turns to a page, and puts the keys into its first field that needs somebody. */
function goTo(id: string): void {
  wanted.value = id;
  const keys = new Set(form.value?.pages.find((p) => p.id === id)?.sections.flatMap((s) => s.fields));
  const first =
    order.value.find((k) => keys.has(k.split(/[.#]/)[0] ?? '') && needsClerk(k)) ?? order.value.find((k) => keys.has(k) && reachable(k));
  if (first) focus(first);
}
/** The page that a field stands on is the one that is shown. */
function turnTo(key: string): void {
  const outer = key.split(/[.#]/)[0] ?? '';
  const page = form.value?.pages.find((p) => p.sections.some((s) => s.fields.includes(outer)));
  if (page) wanted.value = page.id;
  const section = sectionOf(key);
  if (section && isFolded(section)) fold(section, false);
}

const CONTROL = ':is(input:not([type="file"]), textarea, .line button):not([disabled])';
/** What stands for a field that is not drawn yet: its own place, that of its line, or that of all lines that are still to come. */
function awayOf(key: string): Element | null {
  const { field, line } = parseAddress(key);
  const place = root.value?.querySelector(`[data-field="${key}"]`);
  const lines = line === undefined ? null : root.value?.querySelector(`[data-lines="${field.split('.')[0]}"]`);
  return (place ?? lines?.querySelector(`[data-line="${line}"]`) ?? lines?.querySelector('[data-rest]'))?.closest('[data-away]') ?? null;
}
/** The control of a field, drawn where it was not yet. */
async function controlOf(key: string): Promise<HTMLElement | null> {
  for (let away = awayOf(key); away; away = awayOf(key)) {
    away.dispatchEvent(new CustomEvent('reveal'));
    await nextTick();
    if (away === awayOf(key)) break;
  }
  return root.value?.querySelector<HTMLElement>(`[data-field="${key}"] ${CONTROL}`) ?? null;
}
/** the height of a field, and of what stands above the first, in pixels */
const ROW = 36;
const ABOVE = 150;
/** what stands in the first screen is drawn at once */
const first = computed(() => new Set(placedOrder(form.value!).slice(0, Math.ceil((window.innerHeight - ABOVE) / ROW))));
/** A field needs the clerk unless it is locked, hidden, waiting, or has filled itself. */
function needsClerk(key: string): boolean {
  const { shown, locked, offer, value, state } = props.host.view(key);
  if (!shown || locked || offer?.status === 'waiting') return false;
  // what somebody has folded away is left out, unless it must be filled
  const section = sectionOf(key);
  if (section && isFolded(section) && !isOpen(key)) return false;
  return value === null || !isByItself(state.origin);
}
function reachable(key: string): boolean {
  const { shown, locked } = props.host.view(key);
  return shown && !locked;
}
function keyOf(element: EventTarget | null): string | null {
  return (element as HTMLElement | null)?.closest<HTMLElement>('[data-field]')?.dataset.field ?? null;
}
/** Addresses in the order of filling: fields, and line by line those of lines. */
const order = computed(() =>
  placedOrder(form.value!).flatMap((key) => {
    const lines = form.value!.lines[key];
    if (!lines) return [key];
    const { ids, shown } = props.host.lines(key);
    return shown ? ids.flatMap((line) => lines.columns.map((c) => addressOf(`${key}.${c}`, line))) : [];
  }),
);
/** Past the last field of a last line that holds something, a new line begins. */
function nextLine(here: string): string | null {
  const { field, line } = parseAddress(here);
  const [key = ''] = field.split('.');
  const entry = props.host.entry.value;
  if (line === undefined || !entry || entry.lines(key).at(-1) !== line || entry.isBlankLine(key, line)) return null;
  const made = entry.freeLine(key);
  props.host.apply([{ kind: 'addLine', field: key, line: made }]);
  return order.value.find((k) => k.endsWith(`#${made}`) && k.startsWith(`${key}.`) && needsClerk(k)) ?? null;
}

const STOPS = ':is(input:not([type="file"]), textarea, button, a[href]):not([disabled], [tabindex="-1"])';
/** Whether the field has another stop behind (or before) the one the keys are in. */
function besideIn(target: HTMLElement, back: boolean): boolean {
  const stops = [...(target.closest('[data-field]')?.querySelectorAll<HTMLElement>(STOPS) ?? [])].filter((e) => e.offsetParent !== null);
  // the two of yes and no are one stop
  const at = stops.indexOf(target);
  const other = (e: HTMLElement | undefined): boolean => e !== undefined && !(e instanceof HTMLInputElement && e.type === 'radio');
  return at >= 0 && other(back ? stops[at - 1] : stops.slice(at + 1).find(other));
}
function step(event: KeyboardEvent): void {
  const here = keyOf(event.target);
  if (here === null || event.ctrlKey || event.altKey || event.metaKey) return;
  const isEnter =
    event.key === 'Enter' &&
    (event.target as HTMLElement).tagName !== 'BUTTON' &&
    !((event.target as HTMLElement).tagName === 'TEXTAREA' && event.shiftKey);
  if (event.key !== 'Tab' && !isEnter) return;
  const back = event.shiftKey;
  const at = order.value.indexOf(here);
  // presses inside a field (use it, remove, try again) come after its control, one by one
  if (event.key === 'Tab' && besideIn(event.target as HTMLElement, back)) return;
  // before the first field stands what is above the form
  if (back && !order.value.slice(0, at).some(reachable)) return;
  event.preventDefault();
  // what was typed is taken first, since it may fill or hide the fields after it
  (event.target as HTMLElement).blur();
  const rest = back ? order.value.slice(0, at).reverse() : order.value.slice(at + 1);
  const stays = props.host.view(here);
  const next = rest.find((k) => (back ? reachable(k) : needsClerk(k)));
  // Enter passes what is folded away; Tab stops at its heading, where it is opened
  const head = event.key === 'Tab' && !back ? foldedHead(here, next ? rest.slice(0, rest.indexOf(next)) : rest) : null;
  if (head) return head.focus();
  // what cannot be read is to be mended before one goes on; Tab leaves all the same
  if (isEnter && stays.shown && stays.unreadable) return focus(here);
  const leavesLines = !back && here.includes('#') && (!next || parseAddress(next).line !== parseAddress(here).line);
  const fresh = leavesLines && !(next?.includes('#') ?? false) ? nextLine(here) : null;
  if (fresh) focus(fresh);
  else if (next) focus(next);
  else if (!back) emit('past');
  else (event.target as HTMLElement).focus();
}
function focus(key: string, unlessWithin = false): void {
  if (!unlessWithin || !root.value?.contains(document.activeElement)) turnTo(key);
  void nextTick(async () => {
    const control = await controlOf(key);
    if (unlessWithin && root.value?.contains(document.activeElement)) return;
    control?.focus();
    if (control instanceof HTMLInputElement) control.select();
  });
}
/** Focus on the first field that needs the clerk; who is in a field already, and may be typing, stays there. */
function focusFirst(): void {
  const first = order.value.find(needsClerk);
  if (first) focus(first, true);
}
defineExpose({ focusFirst, focus, keyOf });
</script>

<template>
  <div v-if="form" ref="root" class="body" @keydown="step">
    <PlaceMessages :messages="host.placeChecks({ kind: 'form' })" />
    <PagePath v-if="pages.length > 1" :pages="pages" :current="here" :open="open" @go="goTo" />
    <div
      v-for="page in form.pages"
      v-show="pages.length < 2 || page.id === here"
      :key="page.id"
      class="columns"
      :class="`of${columnsOf(page).length}`"
    >
      <div v-for="(column, c) in columnsOf(page)" :key="c">
        <section v-for="s in column" v-show="fieldsShown(s.fields)" :key="s.id" :aria-label="s.label || undefined">
          <h3 v-if="s.folds !== 'never'" class="folds" :data-fold="s.id">
            <Button
              text
              severity="secondary"
              size="small"
              :icon="isFolded(s) ? 'pi pi-chevron-right' : 'pi pi-chevron-down'"
              :label="s.label || 'More'"
              :aria-expanded="!isFolded(s)"
              @click="fold(s, !isFolded(s))"
            /><span v-if="isFolded(s) && openIn(s)" class="muted"> {{ openIn(s) }} open</span>
          </h3>
          <h3 v-else-if="s.label">{{ s.label }}</h3>
          <PlaceMessages :messages="saidAt(s)" />
          <template v-for="k in isFolded(s) ? [] : drawn(s.fields)" :key="k">
            <LinesTable v-if="isLines(k)" :host="host" :name="k" :prefix="prefix" @why="emit('why', $event)" />
            <NearView v-else soon :height="host.view(k).shown ? ROW : 0" :now="first.has(k)"
              ><EntryField :host="host" :name="k" :prefix="prefix" @why="emit('why', $event)" /><template #still
                ><FieldStill v-if="host.view(k).shown" :host="host" :name="k" /></template
            ></NearView>
          </template>
        </section>
      </div>
    </div>
    <p v-if="pages.length > 1" class="turn">
      <Button v-if="beside(-1)" severity="secondary" size="small" @click="goTo(beside(-1)!.id)">‹ {{ beside(-1)!.label || 'Back' }}</Button>
      <Button v-if="beside(1)" severity="secondary" size="small" @click="goTo(beside(1)!.id)">{{ beside(1)!.label || 'Next' }} ›</Button>
    </p>
  </div>
</template>

<style scoped>
.turn {
  display: flex;
  gap: 10px;
  padding: 4px 8px 10px;
}
.body {
  container-type: inline-size;
}
/* columns stand side by side where each has room for its fields and their origins */
@container (min-width: 1040px) {
  .of2,
  .of3 {
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    gap: 0 16px;
  }
}
@container (min-width: 1560px) {
  .of3 {
    grid-template-columns: repeat(3, minmax(0, 1fr));
  }
}
section {
  padding-bottom: 10px;
}
h3 {
  padding: 8px 8px 4px;
}
.folds {
  padding: 4px 4px 0;
}
.folds .p-button {
  padding: 2px 4px;
  font-size: inherit;
}
</style>
