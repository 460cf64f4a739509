<script setup lang="ts">
import { searchFor } from '~~/core/engine/wants.ts';
import { searchRows } from '~~/core/choices/order.ts';
import { inQuotes, nearest } from '~~/core/values/text.ts';
import { storedOf } from '~~/core/engine/candidates.ts';
import { isSeveral } from '~~/core/model/tables.ts';
import type { Datum, Row } from '~~/core/values/types.ts';
import type { Placed } from '~/composables/listPlace';

/*
 * A look-up: type to search, arrows to move, Enter to choose. For a field that holds several choices, what is chosen stands before
 * the input and the list stays open.
 */
const props = defineProps<{
  host: EntryHost;
  name: string;
  id: string;
  describedby?: string;
  invalid?: boolean;
  placeholder?: string | null;
}>();
const emit = defineEmits<{
  choose: [value: Datum];
  /** text stands here that is none of the choices; null once it does not any more */
  misread: [unreadable: { text: string; message: string } | null];
  funnel: [];
}>();

/** Options are drawn as they are scrolled to from this many on; each is then one line of this height, in pixels. */
const LONG = 40;
const LINE = 30;
const HIGHEST = 268;
/** Options drawn above and below those in view: when the rows come while the list has no height yet, twice as many are drawn, which fill it. */
const ALSO = 5;
/** What of the control's instance is used: what it is moved by when a key means something of its own here. */
interface Box extends Placed {
  readonly $el: HTMLElement;
  focusedOptionIndex: number;
  overlayVisible: boolean;
  searching: boolean;
  show(): void;
  scrollInView(index: number): void;
  changeFocusedOptionIndex(event: Event, index: number): void;
}
const box = ref<Box>();
const inputOf = (): HTMLInputElement | null => box.value?.$el.querySelector('input') ?? null;
const open = ref(false);
/** what is typed, or stands typed and is none of the choices; null shows what is chosen */
const text = ref<string | null>(props.host.view(props.name).unreadable?.text ?? null);
const usual = shallowRef<readonly Row[]>([]);

const view = computed(() => props.host.view(props.name));
const offer = computed(() => view.value.offer);
const several = computed(() => isSeveral(view.value.field.definition.type));
const chosen = computed<readonly Datum[]>(() => {
  const { value } = view.value;
  return Array.isArray(value) ? (value as readonly Datum[]) : value === null ? [] : [value];
});
/** The option held, with its colour. */
const current = computed(() => {
  const { field, value } = view.value;
  return field.choices?.options?.find((o) => o.value === value) ?? retiredOf(field, value);
});
const isLarge = computed(() => offer.value?.status === 'ready' && offer.value.rows === null);
const { paged, reading, pagedFor, readPage, readSoon, readFurther } = useChoicePages(props.host, {
  name: () => props.name,
  open,
  isLarge,
  narrowedBy: () => offer.value?.key,
  text,
});

const found = computed<readonly Row[]>(() => {
  if (text.value !== null && offer.value?.rows) return searchRows(offer.value.rows, searched.value, text.value);
  const all = offer.value?.rows ?? paged.value.rows;
  if (text.value?.trim() || !usual.value.length) return all;
  // what is usual stands first, and only once
  const first = usual.value.flatMap((u) => (isLarge.value ? u : (all.find((r) => r.id === u.id) ?? [])));
  return [...first, ...all.filter((r) => !first.some((u) => u.id === r.id))];
});
const searched = computed(() => view.value.field.choices?.search ?? []);
/** nothing is found for a control that is shut, however many of them a form has */
const rows = computed(() => (open.value ? (found.value as Row[]) : []));
const long = computed(() => isLarge.value || rows.value.length > LONG);

// the list has been drawn with the rows there are: where nothing is pointed at, the first is
watch(rows, async () => {
  await nextTick();
  const b = box.value;
  if (b && open.value && b.focusedOptionIndex < 0 && rows.value.length) b.focusedOptionIndex = 0;
});

// ---- what stands in the control ----
const HELD = Symbol('held');
interface Held {
  readonly id: number;
  readonly [HELD]: string;
}
/** What is typed; else what is chosen, known by the row it is, so that the list begins there. */
const model = computed<string | Held>(() => {
  if (text.value !== null) return text.value;
  const { value, field } = view.value;
  if (several.value || value === null) return '';
  const row = field.choices?.stores === 'row' ? (value as number) : (rows.value.find(isChosen)?.id ?? -1);
  return { id: row, [HELD]: props.host.show(props.name) };
});
const textsOf = (row: Row) => candidateTexts(props.host.entry.value!.plan, view.value.field, row, props.host.cache());
const labelOf = (option: Row | Held): string => (HELD in option ? (option as Held)[HELD] : textsOf(option as Row).text);
const isChosen = (row: Row): boolean => chosen.value.includes(storedOf(view.value.field, row));

async function show(): Promise<void> {
  if (view.value.locked || open.value) return;
  open.value = true;
  const { source } = view.value.field.definition;
  if (source?.kind === 'rows' && source.first !== 'none') void props.host.usual(props.name).then(putFirst);
  // with the rows in it, it finds the one that is chosen
  await nextTick();
  box.value?.show();
  await nextTick();
  if (box.value && box.value.focusedOptionIndex > 0) box.value.scrollInView(box.value.focusedOptionIndex);
}
/** What is usual comes before the rest, also while the list is open: what is pointed at stays so, unless it is only the first. */
function putFirst(rowsUsual: readonly Row[]): void {
  const b = box.value;
  const at = b?.focusedOptionIndex ?? -1;
  const pointed = rows.value[at];
  usual.value = rowsUsual;
  if (!b || !pointed || (at === 0 && !isChosen(pointed))) return;
  b.focusedOptionIndex = rows.value.findIndex((r) => r.id === pointed.id);
  void nextTick(() => b.focusedOptionIndex > 0 && b.scrollInView(b.focusedOptionIndex));
}
/** Shuts the list; what is typed stays. */
function shut(): void {
  open.value = false;
  const b = box.value;
  if (b) {
    b.overlayVisible = false;
    b.focusedOptionIndex = -1;
  }
}
/** Shuts the list and shows what is chosen. */
function hide(): void {
  shut();
  text.value = null;
  near.value = [];
  if (view.value.unreadable) emit('misread', null);
}
/** Leaving with text that is exactly one candidate takes it; an emptied text empties the field; other text stays, marked. */
async function leave(): Promise<void> {
  shut();
  const typed = text.value?.trim();
  if (typed === undefined) return;
  if (typed === '') {
    if (view.value.value !== null && !several.value) emit('choose', null);
    return hide();
  }
  // the rows for it may not have come yet
  if (isLarge.value && pagedFor.value !== searchFor(typed)) await readPage();
  if (text.value?.trim() !== typed || open.value) return;
  const exact = found.value.filter((r) => textsOf(r).text.toUpperCase() === typed.toUpperCase());
  if (exact.length === 1 && exact[0]) return take(exact[0], false);
  emit('misread', { text: typed, message: `${inQuotes(typed)} is not one of the choices.` });
  note(null);
  near.value = await nearTo(typed);
}
/** Choices that are spelled nearly as what stands typed. */
const near = shallowRef<readonly Row[]>([]);
async function nearTo(typed: string): Promise<readonly Row[]> {
  const rows = offer.value?.rows ?? (await props.host.page(props.name, typed.slice(0, 3), 0, FIRST_PAGE)).rows;
  const byText = new Map(rows.map((r) => [textsOf(r).text, r]));
  return nearest(typed, byText.keys()).flatMap((t) => byText.get(t) ?? []);
}
onMounted(async () => {
  if (view.value.unreadable) near.value = await nearTo(view.value.unreadable.text);
});
/** Tells the entry how a choice was made: the place of the one chosen; null where what is typed was not found. */
function note(at: number | null): void {
  const { value: o } = offer;
  const offered = o?.status === 'ready' ? o.total : null;
  props.host.noteChoice(props.name, { offered, at: at === -1 ? 0 : at, searched: searchFor(text.value ?? '') });
}
/** Leaves one of several out. */
function drop(value: Datum): void {
  const left = chosen.value.filter((v) => v !== value);
  emit('choose', left.length ? left : null);
  inputOf()?.focus();
}
function take(row: Row, stay = true): void {
  const value = storedOf(view.value.field, row);
  if (!isChosen(row)) note(found.value.findIndex((r) => r.id === row.id));
  if (view.value.unreadable) emit('misread', null);
  near.value = [];
  if (several.value) {
    if (isChosen(row)) drop(value);
    else emit('choose', [...chosen.value, value]);
    text.value = null;
  } else {
    if (value !== view.value.value || view.value.state.gone) emit('choose', value);
    hide();
  }
  if (stay) inputOf()?.focus();
}
function typed(event: Event): void {
  text.value = (event.target as HTMLInputElement).value;
  // opened by typing, it is read once at once and again when typing rests
  void show();
  if (box.value) box.value.focusedOptionIndex = rows.value.length ? 0 : -1;
  if (isLarge.value) void readSoon();
}
function move(event: Event, by: number): void {
  const b = box.value;
  if (!open.value || !b) return void show();
  const to = Math.min(Math.max(0, b.focusedOptionIndex + by), rows.value.length - 1);
  if (to >= 0) b.changeFocusedOptionIndex(event, to);
  if (to >= rows.value.length - 2) readFurther();
}
/** Up to so many choices are picked by their digit, where no text among them has one that could be meant. */
const MOST_BY_DIGIT = 9;
const byDigit = computed(() => {
  const all = offer.value?.rows;
  if (!all || text.value?.trim() || all.length > MOST_BY_DIGIT || all.length < 2) return false;
  return !all.some((r) => /(^|[\s(])\d/.test(`${textsOf(r).text} ${textsOf(r).beside}`));
});
/** The choice that a digit picks: counted as they stand in the list. */
const pickedBy = (digit: string): Row | undefined => (byDigit.value && /^[1-9]$/.test(digit) ? found.value[Number(digit) - 1] : undefined);
const MOVES: Readonly<Record<string, number>> = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8 };
/** The keys that mean something of their own here, before the control has them; others are the control's. */
function key(event: KeyboardEvent): void {
  const b = box.value;
  if (!b || !(event.target instanceof HTMLInputElement)) return;
  const digit = event.ctrlKey || event.altKey || event.metaKey || view.value.locked ? undefined : pickedBy(event.key);
  const at = rows.value[b.focusedOptionIndex] ?? (text.value?.trim() ? rows.value[0] : undefined);
  if (digit) take(digit);
  else if (event.altKey && event.key === 'ArrowDown') void show();
  else if (event.altKey && event.key === 'ArrowUp') void leave();
  else if (event.key in MOVES) move(event, MOVES[event.key] as number);
  else if (event.key === 'Backspace' && several.value && !text.value && chosen.value.length && !view.value.locked)
    drop(chosen.value.at(-1) ?? null);
  else if (event.key === ' ' && several.value && open.value && text.value === null && at) take(at);
  else if (event.key === 'Escape' && open.value) shut();
  else if (event.key === 'Enter' && open.value && !event.ctrlKey) {
    if (text.value?.trim() === '') void leave();
    // with nothing typed, Enter ends the choosing of several
    else if (several.value && text.value === null) hide();
    else if (at) take(at);
    // Enter goes on to the form, which moves to the next field that needs somebody
    return event.preventDefault();
  } else if (event.key === 'Tab') {
    // what is pointed at after typing is what the clerk means
    if (open.value && text.value?.trim() && at) take(at, false);
    else void leave();
    return;
  } else return;
  event.preventDefault();
  event.stopPropagation();
}
function pressed(event: MouseEvent): void {
  if (event.target instanceof HTMLInputElement) void show();
}
/** What stands there is marked, so that typing takes its place. */
function clicked(event: MouseEvent): void {
  if (text.value === null && event.target instanceof HTMLInputElement) event.target.select();
}
/** The press beside the input: the control says that it wants its choices. */
function wanted(): void {
  if (box.value) box.value.searching = false;
  void show();
}

/** How a long list is drawn. */
const drawn = computed(() => {
  const onLazyLoad = ({ last }: { last: number }): void => void (last >= rows.value.length - 8 && readFurther());
  return long.value ? { itemSize: LINE, numToleratedItems: ALSO, lazy: isLarge.value, onLazyLoad } : undefined;
});

// ---- words: each changes only when it says something else, since the control is drawn anew, and its list put in place, with each change ----
const READING = 'Reading…';
const failed = computed(() =>
  offer.value?.status === 'failed' ? (offer.value.reason ?? 'The list could not be read.') : paged.value.failed,
);
const saying = computed(() => {
  const status = offer.value?.status;
  if (status === 'waiting') return `Choose ${waitsFor.value} first.`;
  if (failed.value !== null) return failed.value;
  if (status === 'loading' || (reading.value && !rows.value.length)) return READING;
  if (rows.value.length) return '';
  return text.value?.trim() ? `No choice contains ${inQuotes(text.value)}.` : 'There is nothing to choose here.';
});
const waitsFor = computed(() => (offer.value?.waitsFor ?? []).map(props.host.label).join(' and '));
const hint = computed(() => {
  const o = offer.value;
  if (!o) return '';
  if (o.status === 'waiting') return `Waiting for ${waitsFor.value}`;
  if (o.status === 'loading') return READING;
  if (o.status === 'failed') return 'The list could not be read';
  if (o.total === 0) return 'Nothing to choose';
  return props.placeholder ?? '';
});
const count = computed(() => {
  const o = offer.value;
  if (!o) return '';
  const total = o.capped ? `more than ${o.total.toLocaleString(LOCALE)}` : o.total.toLocaleString(LOCALE);
  return text.value?.trim() ? `${found.value.length}${isLarge.value && paged.value.more ? '+' : ''} of ${total} match` : `${total} offered`;
});
const label = computed(() => view.value.field.definition.label);
const keepFocus = { onMousedown: (event: Event) => event.preventDefault() };
const isStill = computed(() => view.value.locked || offer.value?.status === 'waiting');
const isRequired = computed(() => view.value.required || undefined);
const pt = computed(() => ({
  pcInputText: {
    root: {
      readonly: isStill.value,
      spellcheck: false,
      'aria-describedby': props.describedby,
      'aria-required': isRequired.value,
    },
  },
  dropdown: { tabindex: -1, 'aria-label': `Choices of ${label.value}`, ...keepFocus },
  overlay: keepFocus,
  // it scrolls; keys reach it through the input
  listContainer: { tabindex: 0 },
  virtualScroller: { root: { tabindex: 0 } },
  list: { 'aria-label': label.value, 'aria-multiselectable': several.value || undefined },
  option: ({ context }: { context: { option: Row } }) => ({ 'aria-selected': isChosen(context.option) }),
}));
usePlacedOnce(box, () => `${rows.value.length} ${chosen.value.length} ${saying.value}`);
defineExpose({ focus: () => inputOf()?.focus() });
</script>

<template>
  <div
    class="choice"
    :class="{ waits: offer?.status === 'waiting' }"
    @keydown.capture="key"
    @input="typed"
    @mousedown="pressed"
    @click="clicked"
  >
    <p v-if="several && chosen.length" class="several">
      <Chip v-for="v in chosen" :key="String(v)" :label="host.show(name, v)" :removable="!view.locked" @remove="drop(v)">
        <template #removeicon="{ removeCallback, keydownCallback }"
          ><Button
            text
            severity="secondary"
            size="small"
            class="drop-one"
            tabindex="-1"
            :aria-label="`Remove ${host.show(name, v)}`"
            @click="removeCallback($event)"
            @keydown="keydownCallback($event)"
            ><i class="pi pi-times" aria-hidden="true" /></Button
        ></template>
      </Chip>
    </p>
    <StayAutoComplete
      ref="box"
      :model-value="model"
      :suggestions="rows"
      :option-label="labelOf"
      data-key="id"
      :input-id="id"
      :placeholder="hint"
      :invalid="invalid"
      :typeahead="false"
      :show-empty-message="false"
      :dropdown="!view.locked"
      auto-option-focus
      overlay-class="choices"
      :scroll-height="long ? `${Math.min(HIGHEST, rows.length * LINE)}px` : `${HIGHEST}px`"
      :virtual-scroller-options="drawn"
      :pt="pt"
      @complete="wanted"
      @option-select="take($event.value)"
      @before-hide="shut"
      @blur="leave"
    >
      <template #header>
        <p v-if="saying" class="say" :class="{ bad: failed !== null, muted: saying === READING }">
          {{ saying }} <Button v-if="failed !== null" link label="Try again" @click="(host.retry(), isLarge && readPage())" />
        </p>
      </template>
      <template #option="{ option, index }">
        <div class="one" :class="{ is: isChosen(option), line: long }" @click.stop="take(option)">
          <span class="what"
            ><span v-if="byDigit" class="digit" :data-digit="index + 1" aria-hidden="true" /><OptionSwatch :row="option" />
            {{ textsOf(option).text }}</span
          ><span class="beside"><template v-if="usual.some((u) => u.id === option.id)">usual </template>{{ textsOf(option).beside }}</span>
        </div>
      </template>
      <template #footer>
        <footer>
          <span>{{ count }}</span>
          <Button link severity="secondary" tabindex="-1" label="Why only these?" @click="(shut(), emit('funnel'))" />
        </footer>
      </template>
    </StayAutoComplete>
    <OptionSwatch v-if="!several && text === null && current" class="held" :row="current" />
    <p v-if="view.unreadable && !open && (near.length || (view.value !== null && !several))" class="near">
      <template v-if="near.length">Perhaps: </template>
      <Button v-for="r in near" :key="r.id" link :label="textsOf(r).text" @click="take(r)" />
      <Button
        v-if="view.value !== null && !several"
        link
        severity="secondary"
        :label="`keep ${host.show(name)}`"
        @click="(hide(), inputOf()?.focus())"
      />
    </p>
  </div>
</template>

<style scoped>
.choice {
  position: relative;
}
.choice :deep(.p-autocomplete-input) {
  text-overflow: ellipsis;
}
.waits :deep(.p-autocomplete-input) {
  border-style: dashed;
  background: var(--ground-2);
}
.several {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding-bottom: 4px;
}
/* drawn, not written: it is no part of what the choice is called */
.digit::before {
  content: attr(data-digit);
  margin-right: 8px;
  font-family: var(--mono);
  font-size: 12px;
  color: var(--ink-2);
}
.drop-one {
  min-width: 24px;
  min-height: 24px;
  padding: 0;
  font-size: 10px;
}
.near {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  font-size: 13px;
  padding-top: 3px;
}
.held {
  position: absolute;
  right: 34px;
  bottom: 6px;
}
.one {
  display: flex;
  justify-content: space-between;
  gap: 16px;
  width: 100%;
  padding: 4px 10px;
}
.one.line {
  height: 100%;
  align-items: center;
  padding: 0 10px;
  white-space: nowrap;
  overflow: hidden;
}
.one.line .what {
  overflow: hidden;
  text-overflow: ellipsis;
}
.one.is .what {
  font-weight: 700;
}
.one.is .what::before {
  content: '✓ ';
}
.beside {
  color: var(--ink-2);
  text-align: right;
}
.say {
  padding: 8px 10px;
}
footer {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 5px 10px;
  border-top: 1px solid var(--line);
  color: var(--ink-2);
  font-size: 12px;
}
</style>
<style>
.choices {
  min-width: 260px;
  max-width: min(560px, 96vw);
}
.choices .p-autocomplete-option {
  padding: 0;
}
.choices .p-autocomplete-list {
  padding: 3px 0;
}
@media (forced-colors: active) {
  .choices .p-autocomplete-option.p-focus {
    outline: 2px solid Highlight;
    outline-offset: -2px;
  }
}
</style>
