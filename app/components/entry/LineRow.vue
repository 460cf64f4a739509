<script lang="ts">
export interface LineColumn {
  readonly path: string;
  readonly label: string;
  readonly looks: Readonly<Record<string, boolean>>;
}
</script>

<script setup lang="ts">
/*
 * One line: its fields as live controls while it is near the screen, somebody is in it or its table is short, else their values in plain
 * text. A row of its own, so that an edit draws one line again and not all of them.
 */
const props = defineProps<{
  host: EntryHost;
  line: number;
  /** where it stands among the lines, from 0 */
  place: number;
  columns: readonly LineColumn[];
  locked: boolean;
  /** its table has few lines, or it is near the screen: it is live */
  near: boolean;
  prefix?: string;
}>();
// where it stands is told with each, so that whoever listens needs no handler for every line
const emit = defineEmits<{
  why: [field: string];
  keys: [event: KeyboardEvent, line: number, place: number];
  duplicate: [line: number, place: number];
  remove: [line: number, place: number];
}>();

const row = ref<HTMLElement>();
/** somebody is in it, or is about to be: what they type into is not taken away by scrolling */
const held = ref(false);
const live = computed(() => props.near || held.value);
function left(event: FocusEvent): void {
  if (!row.value?.contains(event.relatedTarget as Node | null)) held.value = false;
}
</script>

<template>
  <tr
    ref="row"
    :data-line="line"
    :data-away="live ? undefined : ''"
    @reveal="held = true"
    @focusin="held = true"
    @focusout="left"
    @keydown="emit('keys', $event, line, place)"
  >
    <template v-if="live">
      <td class="place">
        <Button
          text
          severity="secondary"
          size="small"
          class="grip"
          tabindex="-1"
          :aria-label="`Line ${place + 1}: drag, or Alt and arrows, to move`"
          :label="String(place + 1)"
        />
      </td>
      <td v-for="c in columns" :key="c.path" :data-label="c.label" :class="c.looks">
        <EntryField compact :host="host" :name="`${c.path}#${line}`" :prefix="prefix" @why="emit('why', $event)" />
      </td>
      <td class="tools">
        <template v-if="!locked">
          <Button
            v-tooltip.bottom="'Duplicate (Ctrl+D)'"
            text
            severity="secondary"
            size="small"
            icon="pi pi-clone"
            tabindex="-1"
            :aria-label="`Duplicate line ${place + 1}`"
            @click="emit('duplicate', line, place)"
          /><Button
            v-tooltip.bottom="'Take out (Ctrl+Delete)'"
            text
            severity="secondary"
            size="small"
            icon="pi pi-times"
            tabindex="-1"
            :aria-label="`Remove line ${place + 1}`"
            @click="emit('remove', line, place)"
          />
        </template>
      </td>
    </template>
    <template v-else>
      <td class="place still">{{ place + 1 }}</td>
      <td v-for="c in columns" :key="c.path" class="still" :data-label="c.label" :class="c.looks">{{ host.show(`${c.path}#${line}`) }}</td>
      <td />
    </template>
  </tr>
</template>

<style scoped>
td {
  padding: 2px 3px;
  vertical-align: top;
}
.place {
  width: 26px;
}
.grip {
  width: auto;
  min-width: 24px;
  min-height: 32px;
  padding: 0;
  cursor: grab;
  font-weight: 400;
}
.tools {
  white-space: nowrap;
}
.tools .p-button {
  margin-top: 3px;
  color: var(--ink-2);
}
.still {
  height: 36px;
  padding: 8px 12px;
}
.place.still {
  padding-inline: 3px;
  text-align: center;
}
@media (max-width: 640px) {
  td[data-label]::before {
    /* said by the label of the control */
    content: attr(data-label) / '';
    display: block;
    font-size: 12.5px;
    font-weight: 600;
    text-align: start;
  }
  td.wide {
    grid-column: 1 / -1;
  }
  .still {
    height: auto;
    padding: 2px 3px;
  }
  td.place,
  td.tools {
    width: auto;
    grid-row: 1;
  }
  td.tools {
    grid-column: 2;
    text-align: end;
  }
}
</style>
