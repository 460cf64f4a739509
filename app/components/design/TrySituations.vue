<script setup lang="ts">
import type { Answer } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import StayPopover from '~/components/parts/StayPopover.ts';

/* Situations in which one tries the form: chosen again by their names, and kept as it is tried now. */
const draft = useDraft();
const tryout = useTryout();
const popover = ref<{ toggle(event: Event): void; hide(): void }>();
const open = ref(false);
const kept = shallowRef<Answer<typeof contract.situations.list>>([]);
const name = ref('');
const problem = ref('');
const busy = ref(false);
async function during(act: () => Promise<unknown>): Promise<void> {
  busy.value = true;
  problem.value = '';
  try {
    await act();
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
const read = async (): Promise<void> => void (kept.value = await api.situations.list({ key: draft.formKey }));
function shown(): void {
  open.value = true;
  void during(read);
}
const enter = (of: (typeof kept.value)[number]['situation']): Promise<void> =>
  during(async () => {
    await tryout.enter(of);
    name.value = of.label;
    popover.value?.hide();
  });
const replaces = computed(() => kept.value.some((k) => k.situation.label === name.value.trim()));
const keep = (): Promise<void> =>
  during(async () => {
    await api.situations.keep({ key: draft.formKey }, { situation: tryout.asSituation(name.value.trim()) });
    await read();
  });
const remove = (id: number): Promise<void> =>
  during(async () => {
    await api.situations.remove({ key: draft.formKey, id });
    await read();
  });
</script>

<template>
  <span
    ><Button link severity="secondary" aria-haspopup="dialog" :aria-expanded="open" @click="popover?.toggle($event)">situations…</Button
    ><StayPopover ref="popover" :pt="{ root: { 'aria-label': 'Situations' } }" @show="shown" @hide="open = false"
      ><div class="situations">
        <ul v-if="kept.length">
          <li v-for="k in kept" :key="k.id">
            <Button link :disabled="busy" @click="enter(k.situation)">{{ k.situation.label }}</Button>
            <IconButton
              icon="pi pi-trash"
              :aria-label="`Remove the situation ${k.situation.label}`"
              :disabled="busy"
              @click="remove(k.id)"
            />
          </li>
        </ul>
        <p v-else class="muted">
          Keep how you try this form now (as whom, on what, when, with what is typed) and choose it again later. Only you see it.
        </p>
        <form class="row" @submit.prevent="keep">
          <InputText
            v-model="name"
            size="small"
            maxlength="200"
            aria-label="What the situation is called"
            placeholder="What is it called?"
          />
          <Button
            type="submit"
            size="small"
            severity="secondary"
            :disabled="!name.trim() || busy"
            :label="replaces ? 'Keep it so instead' : 'Keep as it is now'"
          />
        </form>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      </div></StayPopover
    ></span
  >
</template>

<style scoped>
.situations {
  display: grid;
  gap: 8px;
  padding: 6px;
  width: 380px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 240px;
  overflow: auto;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.row :deep(.p-button) {
  flex: none;
}
</style>
