<script setup lang="ts">
import type { Answer } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import { parseAddress } from '~~/core/engine/state.ts';
import type { Datum } from '~~/core/values/types.ts';

/* What saving would say of what is tried: what must be corrected, or what would be stored. Nothing is written. */
const emit = defineEmits<{ go: [field: string] }>();
const draft = useDraft();
const tryout = useTryout();
const visible = ref(false);
const failed = ref('');
const told = shallowRef<Answer<typeof contract.forms.trySave> | null>(null);
const isRead = computed(() => tryout.tried.record !== null && tryout.tried.mode === 'view');
async function ask(): Promise<void> {
  visible.value = true;
  told.value = null;
  failed.value = '';
  if (isRead.value) return;
  try {
    told.value = await tryout.trySave();
  } catch (e) {
    failed.value = messageOf(e);
  }
}
// ---- what was tried, with what came of it, as a rehearsal ----
const keptAs = ref('');
const keeping = ref(false);
const keepProblem = ref('');
async function keep(): Promise<void> {
  keeping.value = true;
  keepProblem.value = '';
  try {
    const rehearsal = await tryout.asRehearsal(keptAs.value.trim());
    const { id } = await api.rehearsals.add({ key: draft.formKey }, { rehearsal });
    visible.value = false;
    keptAs.value = '';
    await navigateTo({ path: `/design/forms/${draft.formKey}/rehearsals`, query: { rehearsal: id } });
  } catch (e) {
    keepProblem.value = messageOf(e);
  } finally {
    keeping.value = false;
  }
}
const { label } = tryout.host;
function text(key: string, value: Datum | undefined): string {
  const plan = draft.plan;
  const field = plan?.fields[plan.slots.get(key) ?? -1];
  return value === null || value === undefined
    ? 'empty'
    : plan && field
      ? showValue(plan, tryout.host.cache(), field, value)
      : String(value as string);
}
function go(address: string): void {
  visible.value = false;
  emit('go', parseAddress(address).field);
}
</script>

<template>
  <span
    ><Button link severity="secondary" @click="ask">What would saving say?</Button
    ><StayDialog v-model:visible="visible" modal header="What saving would say" :style="{ width: '560px' }">
      <Note v-if="isRead">It is opened to be read: nothing can be saved. Try it to be changed instead (<i>otherwise…</i>).</Note>
      <Note v-else-if="failed" kind="bad" :retry="ask">{{ failed }}</Note>
      <Skeleton v-else-if="!told" height="4rem" />
      <div v-else class="told">
        <template v-if="told.issues.length">
          <Note kind="bad">Not saved: this must be corrected.</Note>
          <ul>
            <li v-for="i in told.issues" :key="i.address">
              <Button link :label="label(i.address)" @click="go(i.address)" />: {{ i.message }}
            </li>
          </ul>
        </template>
        <Note v-else kind="good">It would be saved{{ Object.keys(told.changes).length ? ', with' : ': nothing would change.' }}</Note>
        <p v-for="s in told.said" :key="s">{{ s }}</p>
        <dl class="pairs">
          <template v-for="([from, to], key) in told.changes" :key="key">
            <dt>{{ label(String(key)) }}</dt>
            <dd>
              {{ text(String(key), to) }}<span v-if="from !== null" class="muted"> (was {{ text(String(key), from) }})</span>
            </dd>
          </template>
        </dl>
        <form class="row keep" @submit.prevent="keep">
          <InputText
            v-model="keptAs"
            size="small"
            aria-label="What the rehearsal is called"
            placeholder="What is it called?"
            maxlength="200"
          />
          <Button type="submit" severity="secondary" size="small" label="Keep as a rehearsal" :disabled="!keptAs.trim() || keeping" />
        </form>
        <p v-if="keepProblem" class="bad" role="alert">{{ keepProblem }}</p>
        <p class="muted">Nothing was written.</p>
      </div>
    </StayDialog></span
  >
</template>

<style scoped>
.told {
  display: grid;
  gap: 10px;
}
</style>
