<script setup lang="ts">
import { onClickOutside, useDebounceFn } from '@vueuse/core';
import { searchRows } from '~~/core/choices/order.ts';
import { storedOf } from '~~/core/engine/candidates.ts';
import { isSeveral } from '~~/core/form/tables.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

/*
 * A look-up: type to search, arrows to move, Enter to choose. An ARIA combobox with a list. For a field that holds several
 * choices, what is chosen stands before the input and the list stays open.
 */
const props = defineProps<{ host: EntryHost; name: string; id: string; describedby?: string; invalid?: boolean; placeholder?: string }>();
const emit = defineEmits<{ choose: [value: Datum]; funnel: [] }>();

const PAGE = 60;
const root = ref<HTMLElement>();
const input = ref<HTMLInputElement>();
const listbox = ref<HTMLElement>();
const open = ref(false);
const text = ref<string | null>(null);
const at = ref(0);
const limit = ref(PAGE);
const paged = shallowRef<{ rows: readonly Row[]; more: boolean; failed: string | null }>({ rows: [], more: false, failed: null });
const reading = ref(false);
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
const shownText = computed(() => text.value ?? (several.value ? '' : props.host.show(props.name)));
const isLarge = computed(() => offer.value?.status === 'ready' && offer.value.rows === null);

const found = computed<readonly Row[]>(() => {
  if (text.value !== null && offer.value?.rows) return searchRows(offer.value.rows, searched.value, text.value);
  const all = offer.value?.rows ?? paged.value.rows;
  if (text.value?.trim() || !usual.value.length) return all;
  // what is usual stands first, and only once
  const first = usual.value.flatMap((u) => (isLarge.value ? u : (all.find((r) => r.id === u.id) ?? [])));
  return [...first, ...all.filter((r) => !first.some((u) => u.id === r.id))];
});
const searched = computed(() => view.value.field.choices?.search ?? []);
const rows = computed(() => found.value.slice(0, limit.value));
const more = computed(() => found.value.length - rows.value.length || (isLarge.value && paged.value.more ? 1 : 0));

let asked = 0;
/** Reads the first page, or the one after what is there. */
async function readPage(further = false): Promise<void> {
  const mine = ++asked;
  const before = further ? paged.value.rows : [];
  reading.value = true;
  const page = await props.host.page(props.name, text.value ?? '', before.length, PAGE);
  // a late answer never replaces a newer one
  if (mine !== asked) return;
  // a row that was added meanwhile may have moved another onto the next page
  const known = new Set(before.map((r) => r.id));
  paged.value = { ...page, rows: [...before, ...page.rows.filter((r) => !known.has(r.id))] };
  limit.value = Math.max(limit.value, paged.value.rows.length);
  reading.value = false;
}
const readSoon = useDebounceFn(() => readPage(), 120);
// the list may be opened before it is known what it offers, or change while it is open; rows of another parent never stand in it
watch([open, isLarge, () => offer.value?.key], ([isOpen, large, offered], [, , before]) => {
  if (offered !== before) paged.value = { rows: [], more: false, failed: null };
  if (isOpen && large) void readPage();
});

function show(): void {
  if (view.value.locked || open.value) return;
  open.value = true;
  limit.value = PAGE;
  at.value = Math.max(0, several.value ? 0 : rows.value.findIndex(isChosen));
  const { source } = view.value.field.definition;
  if (source?.kind === 'rows' && source.first !== 'none') void props.host.usual(props.name).then((rows) => (usual.value = rows));
  void nextTick(scrollToActive);
}
function hide(): void {
  open.value = false;
  text.value = null;
}
onClickOutside(root, () => leave());

/** Leaving with text that is exactly one candidate takes it; an emptied text empties the field; other text is dropped. */
function leave(): void {
  if (text.value !== null) {
    const typed = text.value.trim();
    const exact = rows.value.filter((r) => textsOf(r).text.toUpperCase() === typed.toUpperCase());
    if (typed === '' && view.value.value !== null && !several.value) emit('choose', null);
    else if (typed !== '' && exact.length === 1 && exact[0]) take(exact[0]);
  }
  hide();
}
const textsOf = (row: Row) => candidateTexts(props.host.entry.value!.plan, view.value.field, row, props.host.cache());
const isChosen = (row: Row): boolean => chosen.value.includes(storedOf(view.value.field, row));
/** Leaves one of several out. */
function drop(value: Datum): void {
  const left = chosen.value.filter((v) => v !== value);
  emit('choose', left.length ? left : null);
  input.value?.focus();
}
function take(row: Row): void {
  const value = storedOf(view.value.field, row);
  if (several.value) {
    if (isChosen(row)) drop(value);
    else emit('choose', [...chosen.value, value]);
    text.value = null;
    return input.value?.focus();
  }
  if (value !== view.value.value || view.value.state.gone) emit('choose', value);
  hide();
  input.value?.focus();
}
function typed(event: Event): void {
  text.value = (event.target as HTMLInputElement).value;
  // opened by typing, it is read once at once and again when typing rests
  open.value = true;
  at.value = 0;
  limit.value = PAGE;
  if (isLarge.value) void readSoon();
}
function move(by: number): void {
  if (!open.value) return show();
  at.value = Math.min(Math.max(0, at.value + by), Math.max(0, rows.value.length - 1));
  if (at.value >= rows.value.length - 2 && more.value) grow();
  void nextTick(scrollToActive);
}
function grow(): void {
  if (!isLarge.value) limit.value += PAGE;
  else if (paged.value.more && !reading.value) void readPage(true);
}
function scrollToActive(): void {
  listbox.value?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest' });
}
function key(event: KeyboardEvent): void {
  if (event.key === 'ArrowDown' && event.altKey) show();
  else if (event.key === 'ArrowUp' && event.altKey) leave();
  else if (event.key === 'ArrowDown') move(1);
  else if (event.key === 'ArrowUp') move(-1);
  else if (event.key === 'PageDown') move(8);
  else if (event.key === 'PageUp') move(-8);
  else if (event.key === 'Enter' && open.value && !event.ctrlKey) {
    const row = rows.value[at.value];
    if (text.value?.trim() === '') leave();
    // with nothing typed, Enter ends the choosing of several
    else if (several.value && text.value === null) return hide();
    else if (row) take(row);
    // Enter goes on to the form, which moves to the next field that needs somebody
    else return;
  } else if (event.key === 'Backspace' && several.value && !text.value && chosen.value.length && !view.value.locked) {
    drop(chosen.value.at(-1) ?? null);
  } else if (event.key === ' ' && several.value && open.value && text.value === null && rows.value[at.value]) {
    take(rows.value[at.value] as Row);
  } else if (event.key === 'Escape' && open.value) {
    hide();
    event.stopPropagation();
  } else if (event.key === 'Tab' && open.value) {
    // what is highlighted after typing is what the clerk means
    const row = rows.value[at.value];
    if (text.value !== null && text.value.trim() !== '' && row) take(row);
    else leave();
    return;
  } else return;
  event.preventDefault();
}
const waitsFor = computed(() => (offer.value?.waitsFor ?? []).map(props.host.label).join(' and '));
const hint = computed(() => {
  const o = offer.value;
  if (!o) return '';
  if (o.status === 'waiting') return `Waiting for ${waitsFor.value}`;
  if (o.status === 'loading') return 'Reading…';
  if (o.status === 'failed') return 'The list could not be read';
  if (o.total === 0) return 'Nothing is offered';
  return props.placeholder ?? '';
});
const count = computed(() => {
  const o = offer.value;
  if (!o) return '';
  const total = o.capped ? `more than ${o.total.toLocaleString(LOCALE)}` : o.total.toLocaleString(LOCALE);
  return text.value?.trim() ? `${found.value.length}${isLarge.value && paged.value.more ? '+' : ''} of ${total} match` : `${total} offered`;
});
defineExpose({ focus: () => input.value?.focus() });
</script>

<template>
  <div ref="root" class="choice" :class="{ waits: offer?.status === 'waiting', open }">
    <p v-if="several && chosen.length" class="several">
      <span v-for="v in chosen" :key="String(v)" class="chip"
        >{{ host.show(name, v)
        }}<button
          v-if="!view.locked"
          type="button"
          class="drop-one"
          tabindex="-1"
          :aria-label="`Leave ${host.show(name, v)} out`"
          @click="drop(v)"
        >
          ×
        </button></span
      >
    </p>
    <input
      :id="id"
      ref="input"
      class="in"
      type="text"
      role="combobox"
      autocomplete="off"
      spellcheck="false"
      :aria-expanded="open"
      :aria-controls="`${id}-list`"
      :aria-activedescendant="open && rows.length ? `${id}-o${at}` : undefined"
      :aria-invalid="invalid || undefined"
      :aria-describedby="describedby"
      :aria-required="view.required || undefined"
      :value="shownText"
      :placeholder="hint"
      :readonly="view.locked || offer?.status === 'waiting'"
      @input="typed"
      @mousedown="show"
      @click="text === null && input?.select()"
      @keydown="key"
      @blur="!root?.contains(($event as FocusEvent).relatedTarget as Node) && leave()"
    />
    <OptionSwatch v-if="!several && text === null && current" class="held" :row="current" />
    <i v-if="!view.locked" class="pi pi-chevron-down mark" aria-hidden="true" />
    <div v-if="open" class="floating drop" @mousedown.prevent>
      <p v-if="offer?.status === 'waiting'" class="say">Choose {{ waitsFor }} first.</p>
      <p v-else-if="offer?.status === 'failed' || paged.failed" class="say bad">
        {{ offer?.reason ?? paged.failed }}
        <button class="word" type="button" @click="(host.retry(), isLarge && readPage())">Try again</button>
      </p>
      <p v-else-if="offer?.status === 'loading' || (reading && !rows.length)" class="say muted">Reading…</p>
      <p v-else-if="!rows.length" class="say">{{ text?.trim() ? `Nothing offered holds “${text}”.` : 'Nothing is offered here.' }}</p>
      <ul
        v-show="rows.length"
        :id="`${id}-list`"
        ref="listbox"
        role="listbox"
        :aria-label="view.field.definition.label"
        :aria-multiselectable="several || undefined"
      >
        <li
          v-for="(row, i) in rows"
          :id="`${id}-o${i}`"
          :key="row.id"
          role="option"
          :aria-selected="i === at"
          :class="{ at: i === at, is: isChosen(row) }"
          @mousemove="at = i"
          @click="take(row)"
        >
          <span><OptionSwatch :row="row" /> {{ textsOf(row).text }}</span
          ><span class="beside"><template v-if="usual.some((u) => u.id === row.id)">usual </template>{{ textsOf(row).beside }}</span>
        </li>
        <li v-if="more" class="more"><button class="word light" type="button" tabindex="-1" @click="grow">Show more</button></li>
      </ul>
      <footer>
        <span>{{ count }}</span>
        <button class="word light" type="button" tabindex="-1" @click="(hide(), emit('funnel'))">What am I not seeing?</button>
      </footer>
    </div>
  </div>
</template>

<style scoped>
.choice {
  position: relative;
}
.choice .in {
  padding-right: 26px;
  text-overflow: ellipsis;
}
.waits .in {
  border-style: dashed;
  background: var(--ground-2);
}
.several {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding-bottom: 4px;
}
.drop-one {
  border: 0;
  background: none;
  padding: 0 0 0 5px;
  color: var(--ink-2);
  cursor: pointer;
}
.held {
  position: absolute;
  right: 28px;
  bottom: 6px;
}
.mark {
  position: absolute;
  right: 9px;
  bottom: 10px;
  font-size: 11px;
  color: var(--ink-2);
  pointer-events: none;
}
.drop {
  position: absolute;
  z-index: 30;
  left: 0;
  right: 0;
  min-width: 260px;
  top: calc(100% + 3px);
}
.drop ul {
  max-height: 264px;
  overflow: auto;
  padding: 3px 0;
}
.drop li {
  display: flex;
  justify-content: space-between;
  gap: 16px;
  padding: 4px 10px;
  cursor: pointer;
}
.drop li.at {
  background: var(--flow-wash);
}
.drop li.is span:first-child {
  font-weight: 700;
}
.drop li.is span:first-child::before {
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
