<script setup lang="ts">
import { MOST_COLOURS, VIEW_SIGNS, type ViewColour } from '~~/core/choices/views.ts';
import { OPTION_COLOURS } from '~~/core/model/lists.ts';

/* The colours of a view: an ordered list of conditions, each with a colour, a sign and a word. The first that holds counts. */
const emit = defineEmits<{ close: [] }>();
const records = useRecordViews();
const base = computed(() => ({ bindings: new Map(), tables: records.scope.tables }));
const COLOURS = OPTION_COLOURS.map((value) => ({ value, label: value }));
const SIGNS = VIEW_SIGNS.map((value) => ({ value, label: value }));
/** one that was begun and has no condition yet: it does not apply */
const begun = ref<Omit<ViewColour, 'where'> | null>(null);
const colours = computed(() => records.colours);
const put = (all: readonly ViewColour[]): void => records.change({ colours: [...all] });
const change = (at: number, part: Partial<ViewColour>): void => put(colours.value.map((c, i) => (i === at ? { ...c, ...part } : c)));
function add(): void {
  const free = <V extends string>(all: readonly V[], taken: (c: ViewColour) => V): V =>
    all.find((x) => !colours.value.some((c) => taken(c) === x)) ?? all[0]!;
  begun.value = { colour: free(['brick', 'ochre', 'moss', ...OPTION_COLOURS], (c) => c.colour), sign: free(VIEW_SIGNS, (c) => c.sign), word: '' }; // prettier-ignore
}
function finish(where: string | null): void {
  const one = begun.value;
  if (!one || !where) return;
  put([...colours.value, { ...one, where, word: one.word.trim() || `colour ${colours.value.length + 1}` }]);
  begun.value = null;
}
function move(at: number, by: number): void {
  const all = [...colours.value];
  const [one] = all.splice(at, 1);
  if (one) all.splice(at + by, 0, one);
  put(all);
}
</script>

<template>
  <section aria-label="Colours of this view">
    <header class="row spread">
      <h2>Colours of this view</h2>
      <IconButton icon="pi pi-times" aria-label="Close the colours" @click="emit('close')" />
    </header>
    <p class="muted">Of each record the first that holds.</p>
    <ol v-if="colours.length">
      <li v-for="(c, i) in colours" :key="i">
        <div class="row">
          <ViewMark :colour="c" bare />
          <TextEdit
            class="word"
            size="small"
            :value="c.word"
            :aria-label="`Word of colour ${i + 1}`"
            @change="change(i, { word: ($event.target as HTMLInputElement).value.trim() || c.word })"
          />
          <span v-if="records.whole?.byColour[i] !== undefined" class="muted count">{{
            records.whole.byColour[i].toLocaleString(LOCALE)
          }}</span>
          <IconButton icon="pi pi-arrow-up" :aria-label="`Move ${c.word} up`" :disabled="i === 0" @click="move(i, -1)" />
          <IconButton
            icon="pi pi-arrow-down"
            :aria-label="`Move ${c.word} down`"
            :disabled="i === colours.length - 1"
            @click="move(i, 1)"
          />
          <IconButton icon="pi pi-trash" :aria-label="`Remove the colour ${c.word}`" @click="put(colours.filter((_, x) => x !== i))" />
        </div>
        <p>
          <PickWord :value="c.colour" :options="COLOURS" label="Colour" @pick="change(i, { colour: $event })" /> with the sign
          <PickWord :value="c.sign" :options="SIGNS" label="Sign" @pick="change(i, { sign: $event })" />
        </p>
        <ConditionList
          :name="`colour ${i}`"
          :where="c.where"
          :table="records.table"
          :base="base"
          verb="It has it"
          of-subset
          @change="$event ? change(i, { where: $event }) : put(colours.filter((_, x) => x !== i))"
        />
      </li>
    </ol>
    <div v-if="begun" class="begun">
      <div class="row">
        <ViewMark :colour="begun" bare />
        <InputText
          v-model="begun.word"
          class="word"
          size="small"
          placeholder="What it means, in a word"
          aria-label="Word of the new colour"
        />
        <IconButton icon="pi pi-times" aria-label="Give the new colour up" @click="begun = null" />
      </div>
      <ConditionList name="colour new" :where="null" :table="records.table" :base="base" verb="It has it" of-subset @change="finish" />
      <p class="row">
        <span class="muted">It applies once it has a condition.</span>
        <Button link label="All others" @click="finish('TRUE')" />
      </p>
    </div>
    <Button
      v-else-if="colours.length < MOST_COLOURS"
      size="small"
      severity="secondary"
      icon="pi pi-plus"
      label="Add a colour"
      @click="add"
    />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
  align-content: start;
}
h2 {
  font-size: 15px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
}
li,
.begun {
  border-top: 1px solid var(--line);
  padding-top: 8px;
}
.word {
  flex: 1;
  min-width: 0;
}
.count {
  font-variant-numeric: tabular-nums;
}
</style>
