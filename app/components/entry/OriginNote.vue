<script setup lang="ts">
import { givesOnce } from '~~/core/form/fills/index.ts';
import { firstOrigin } from '~~/core/model/origin.ts';

/* Where a value comes from, in two words; pressing it opens the why. */
const props = defineProps<{ host: EntryHost; name: string }>();
const emit = defineEmits<{ why: [] }>();
const view = computed(() => props.host.view(props.name));
const { label } = props.host;

const drivers = computed(() => {
  const { value } = view.value.field;
  const entry = props.host.entry.value;
  if (!value || !entry) return [];
  return value.formula.slots.map((s) => entry.plan.fields[s]?.definition.label ?? '');
});
/** A number of a series, which is taken when the record is saved. */
const provisional = computed(() => [...(view.value.field.value?.formula.extras.values() ?? [])].some((e) => e.kind === 'series'));
const words = computed(() => {
  const { state, offer, waiting, value, error, field } = view.value;
  if (error) return 'why this error?';
  if (waiting) return 'reading…';
  if (state.gone) return 'no longer offered';
  if (value === null) {
    if (state.origin.kind === 'spread') return `cleared with ${label(state.origin.from)}`;
    if (state.origin.kind === 'rule') return `cleared by ${props.host.ruleLabel(state.origin.rule)}`;
    if (state.origin.kind === 'move') return `cleared by “${props.host.moveLabel(state.origin.move)}”`;
    if (state.origin.kind === 'cleared') return `cleared with ${state.origin.by.map(label).join(', ') || 'its list'}`;
    if (offer?.status === 'waiting') return 'why empty?';
    if (offer?.status === 'ready' && offer.total === 0) return 'why nothing?';
    if (field.value && !givesOnce(field)) return 'why empty?';
    return '';
  }
  if (state.origin.kind === 'default' && provisional.value) return 'provisional, given when saved';
  if (state.origin.kind === 'spread') return `set with ${label(state.origin.from)}`;
  if (state.origin.kind === 'rule') return `by ${props.host.ruleLabel(state.origin.rule)}`;
  if (state.origin.kind === 'move') return `by “${props.host.moveLabel(state.origin.move)}”`;
  if (state.origin.kind === 'prefill') return drivers.value.length ? `from ${drivers.value.join(', ')}` : 'filled in';
  if (state.origin.kind === 'filledUp') return `filled in from ${label(state.origin.from)}`;
  if (state.origin.kind === 'stored')
    return ORIGIN_WORDS[firstOrigin(state.origin).kind] === ORIGIN_WORDS.calculation ? 'calculated, saved' : 'saved';
  return ORIGIN_WORDS[state.origin.kind];
});
</script>

<template>
  <Button
    v-if="words"
    link
    severity="secondary"
    class="origin"
    tabindex="-1"
    :aria-label="`${view.field.definition.label}: ${words}. Why?`"
    @click="emit('why')"
  >
    {{ words }}
  </Button>
</template>

<style scoped>
.origin {
  font-size: 12.5px;
  color: var(--ink-2);
  line-height: 1.2;
}
</style>
