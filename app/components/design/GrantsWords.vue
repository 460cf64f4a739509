<script setup lang="ts">
import type { Grant } from '~~/core/form/steps.ts';
import { EVERYBODY } from '~~/core/form/who.ts';

/* Who, at which steps: one grant is enough. Without any, nothing is asked. */
const props = defineProps<{ grants: readonly Grant[]; label: string }>();
const emit = defineEmits<{ change: [grants: Grant[]] }>();
const draft = useDraft();
const hasSteps = computed(() => draft.form?.steps !== null);
const put = (i: number, change: Partial<Grant>): void => emit('change', props.grants.map((g, j) => (i === j ? { ...g, ...change } : g))); // prettier-ignore
const add = (): void => emit('change', [...props.grants, { who: EVERYBODY, steps: [] }]);
</script>

<template>
  <template v-if="!grants.length"
    ><b>everybody</b>{{ hasSteps ? ' at every step' : ''
    }}<Button link severity="secondary" class="small" :aria-label="`${label}: only some`" @click="add">only some…</Button></template
  ><template v-for="(g, i) in grants" :key="i"
    ><template v-if="i">, and by </template><WhoWords :who="g.who" :label="`${label}: who`" @change="put(i, { who: $event })" /><template
      v-if="hasSteps"
    >
      at <StepWords :steps="g.steps" :label="`${label}: at which steps`" none="every step" @change="put(i, { steps: $event })" /></template
    ><IconButton
      icon="pi pi-minus-circle"
      :aria-label="`${label}: take grant ${i + 1} away`"
      @click="
        emit(
          'change',
          grants.filter((_, j) => j !== i),
        )
      " /></template
  ><Button v-if="grants.length" link severity="secondary" class="small" :aria-label="`${label}: and by others`" @click="add"
    >and by…</Button
  >
</template>

<style scoped>
.small {
  font-size: 13px;
  margin-left: 8px;
}
</style>
