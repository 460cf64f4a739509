<script setup lang="ts">
/* Where a record stands: its steps as a path, and the moves that whoever is signed in may make, with what each still asks for. */
const props = defineProps<{ host: EntryHost }>();
const emit = defineEmits<{ focus: [key: string] }>();
const life = computed(() => props.host.life());
const last = computed(() => life.value?.made.at(-1) ?? null);
/** Makes a move; where something is missing, the keys go to the first of it. */
function press(move: NonNullable<typeof life.value>['now'][number]): void {
  if (move.problem === null) props.host.makeMove(move.move.id);
  else if (move.lacks[0]) emit('focus', move.lacks[0]);
}
</script>

<template>
  <div v-if="life" class="life">
    <ol class="path" aria-label="Steps">
      <li
        v-for="s in life.list"
        :key="s.value"
        :class="{ here: s.value === life.step.value }"
        :aria-current="s.value === life.step.value ? 'step' : undefined"
      >
        <StepMark :step="s" :quiet="s.value !== life.step.value" />
      </li>
    </ol>
    <span v-if="last" class="made" role="status"
      ><b>{{ last.to.label }}</b> when it is saved
      <Button link severity="secondary" @click="host.makeMove(null)">take back “{{ last.move.label }}”</Button></span
    >
    <span v-for="m in life.now" :key="m.move.id" class="move">
      <Button
        size="small"
        severity="secondary"
        :class="{ not: m.problem !== null }"
        :aria-describedby="m.problem === null ? undefined : `not-${m.move.id}`"
        @click="press(m)"
        >{{ m.move.label }}</Button
      >
      <span v-if="m.problem !== null" :id="`not-${m.move.id}`" class="muted reason">{{ m.problem }}</span>
    </span>
  </div>
</template>

<style scoped>
.life {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  padding: 0 8px 8px;
}
.path {
  display: flex;
  flex-wrap: wrap;
  margin: 0;
  padding: 0;
  list-style: none;
  border: 1px solid var(--line);
  border-radius: var(--r);
  color: var(--ink-2);
}
.path li {
  padding: 3px 12px;
}
.path li + li {
  border-left: 1px solid var(--line);
}
.here {
  font-weight: 700;
  background: var(--flow-wash);
  box-shadow: inset 0 -2px 0 var(--flow);
}
.move {
  display: inline-flex;
  align-items: center;
  gap: 8px;
}
.not {
  border-style: dashed;
  color: var(--ink-2);
}
.reason {
  font-size: 13px;
}
</style>
