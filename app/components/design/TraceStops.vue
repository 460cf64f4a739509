<script setup lang="ts">
/* Where the try-out stops, and going through what happened a change forward or back while the form shows each moment. */
const props = defineProps<{ label: (key: string) => string; isRule: (key: string) => boolean }>();
const { host, moments } = useTryout();
const { stops, position, count, current } = moments;
const said = computed(() => {
  const now = current.value;
  if (!now) return '';
  const of = host.steps.value.find((s) => s.number === now.step);
  return `After change ${now.index + 1} of ${of?.change.changes.length ?? 0}, ${of?.at ?? ''}: ${props.label(now.change.field)}`;
});
const gone = computed(() => host.moment.value?.gone ?? 0);
const next = computed(() => (stops.value.size ? 'Go on to the next stop' : 'Back to now'));
</script>

<template>
  <div class="stops" role="group" aria-label="Stops">
    <template v-if="position !== null">
      <Button
        size="small"
        severity="secondary"
        icon="pi pi-step-backward"
        label="Back"
        :disabled="position <= 1"
        @click="moments.step(-1)"
      />
      <Button
        size="small"
        severity="secondary"
        icon="pi pi-step-forward"
        label="Forward"
        :disabled="position >= count"
        @click="moments.step(1)"
      />
      <Button size="small" :label="next" @click="moments.goOn()" />
      <Button v-if="stops.size" link severity="secondary" label="Back to now" @click="moments.goTo(null)" />
      <b role="status">{{ said }}</b>
      <span class="muted">The form shows this moment.<template v-if="gone"> Lines taken out since are not shown.</template></span>
    </template>
    <span v-if="stops.size" class="at"
      >Stops when
      <Button
        v-for="key in stops"
        :key="key"
        size="small"
        severity="secondary"
        icon="pi pi-times"
        icon-pos="right"
        :label="isRule(key) ? `${label(key)} acts` : `${label(key)} changes`"
        :aria-label="`No longer stop at ${label(key)}`"
        @click="moments.toggleStop(key)"
    /></span>
  </div>
</template>

<style scoped>
.stops {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  padding: 4px 16px;
  background: var(--flow-wash);
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}
.at {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
}
</style>
