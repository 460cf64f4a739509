<script setup lang="ts">
import type { Clash } from '~/state/clashes';
import type { EntryHost } from '~/composables/useEntryHost';

/* Somebody else saved the record meanwhile: of each field both changed, whose value is to stand. */
const props = defineProps<{ clashes: readonly Clash[]; host: EntryHost }>();
/** `decided` tells the addresses whose value stays what was typed here. */
const emit = defineEmits<{ decided: [mine: ReadonlySet<string>] }>();

const SIDES = [
  { value: 'theirs', label: 'Theirs' },
  { value: 'mine', label: 'Yours' },
] as const;
const choices = ref<Record<string, 'mine' | 'theirs'>>({});
// read again, theirs may be others
watch(() => props.clashes, () => (choices.value = {})); // prettier-ignore
const undecided = computed(() => props.clashes.filter((c) => !choices.value[c.address]).length);
function decideAll(choice: 'mine' | 'theirs'): void {
  choices.value = Object.fromEntries(props.clashes.map((c) => [c.address, choice]));
}
const goOn = (): void => emit('decided', new Set(Object.keys(choices.value).filter((a) => choices.value[a] === 'mine')));
</script>

<template>
  <StayDialog visible modal :closable="false" :close-on-escape="false" header="Both of you changed this" :style="{ width: '640px' }">
    <p>Somebody else saved this record after you opened it. Choose which value is to stand in each field.</p>
    <DataTable :value="[...clashes]" data-key="address" size="small" :table-props="{ 'aria-label': 'Fields both of you changed' }">
      <Column header="Field"
        ><template #body="{ data: c }"
          ><b>{{ host.label(c.address) }}</b></template
        ></Column
      >
      <Column v-for="side in SIDES" :key="side.value" :header="side.label"
        ><template #body="{ data: c }"
          ><label class="side-choice"
            ><RadioButton
              :name="`clash-${c.address}`"
              :value="side.value"
              :model-value="choices[c.address]"
              @update:model-value="choices = { ...choices, [c.address]: side.value }"
            />
            {{ host.show(c.address, side.value === 'mine' ? c.mine : c.theirs) || 'empty' }}</label
          ></template
        ></Column
      >
    </DataTable>
    <template #footer>
      <Button text severity="secondary" label="All theirs" @click="decideAll('theirs')" />
      <Button text severity="secondary" label="All mine" @click="decideAll('mine')" />
      <Button :disabled="undecided > 0" :label="undecided ? `${undecided} still to choose` : 'Go on'" @click="goOn" />
    </template>
  </StayDialog>
</template>

<style scoped>
.side-choice {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
