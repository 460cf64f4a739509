<script setup lang="ts">
import StayPopover from '~/components/parts/StayPopover.ts';
import type { KeptView } from '~/stores/records';

/* Which view stands on the screen, and keeping it by a name: for oneself, or for all who see the records. */
const records = useRecordViews();
const session = useSession();
const ALL = 0;
const choices = computed(() => [
  { value: ALL, label: 'All records' },
  ...(records.about?.views ?? []).map((v) => ({ value: v.id, label: v.label, note: v.mine ? (v.shared ? 'mine, shared' : 'mine') : `shared by ${v.by}` })),
]); // prettier-ignore
const mayDecide = computed(() => session.builds);
const popover = ref<{ toggle(event: Event): void; hide(): void }>();
const open = ref(false);
const label = ref('');
const shared = ref(false);
const usual = ref(false);
const problem = ref('');
const removed = shallowRef<KeptView | null>(null);
function shown(): void {
  open.value = true;
  problem.value = '';
  label.value = records.kept?.mayChange ? records.kept.label : '';
  shared.value = records.kept?.shared ?? false;
  usual.value = records.kept?.usual ?? false;
}
/** the view that is changed by keeping: the one it was made from, while it is called the same */
const instead = computed(() => (records.kept?.mayChange && records.kept.label === label.value.trim() ? records.kept : null));
async function during(act: () => Promise<void>): Promise<void> {
  problem.value = '';
  try {
    await act();
    popover.value?.hide();
  } catch (e) {
    problem.value = messageOf(e);
  }
}
const isUsual = computed(() => usual.value && (!shared.value || mayDecide.value));
const keep = (): Promise<void> =>
  during(() => records.keep({ label: label.value.trim(), shared: shared.value, usual: isUsual.value }, instead.value));
const keepChanges = (): Promise<void> => during(() => records.keep(records.kept!, records.kept));
async function remove(): Promise<void> {
  const gone = records.kept;
  if (!gone) return;
  await during(() => records.remove(gone));
  if (!problem.value) removed.value = gone;
}
async function putBack(): Promise<void> {
  const gone = removed.value;
  if (!gone) return;
  removed.value = null;
  await during(() => records.keep(gone, null));
}
</script>

<template>
  <span class="views">
    <PickWord
      :value="records.keptId ?? ALL"
      :text="records.kept ? records.kept.label : 'All records'"
      :options="choices"
      label="View"
      @pick="records.choose($event === ALL ? null : $event)"
    />
    <template v-if="records.isChanged">
      <span class="flow">changed</span>
      <Button v-if="records.kept?.mayChange" link label="keep the changes" @click="keepChanges" />
      <Button link severity="secondary" label="as it was" @click="records.choose(records.keptId)" />
    </template>
    <Button
      link
      severity="secondary"
      aria-haspopup="dialog"
      :aria-expanded="open"
      :label="records.kept && !records.isChanged ? 'about this view…' : 'keep this view…'"
      @click="popover?.toggle($event)"
    />
    <span v-if="removed" class="muted" role="status">{{ removed.label }} was removed. <Button link label="Undo" @click="putBack" /></span>
    <span v-else-if="problem && !open" class="bad" role="alert">{{ problem }}</span>
    <StayPopover ref="popover" :pt="{ root: { 'aria-label': 'Keep this view' } }" @show="shown" @hide="open = false">
      <form class="keep" @submit.prevent="keep">
        <label>Name<InputText v-model="label" size="small" maxlength="120" autofocus placeholder="Waiting for the lab" fluid /></label>
        <label class="row"><Checkbox v-model="shared" binary /> everybody who sees these records has it too</label>
        <label v-if="!shared || mayDecide" class="row"
          ><Checkbox v-model="usual" binary /> {{ shared ? 'everybody sees it first' : 'I see it first' }}</label
        >
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
        <span class="row">
          <Button type="submit" size="small" :disabled="!label.trim()" :label="instead ? 'Keep' : 'Keep as a view of its own'" />
          <Button
            v-if="records.kept?.mayChange"
            size="small"
            severity="secondary"
            :label="`Remove ${records.kept.label}`"
            @click="remove"
          />
        </span>
      </form>
    </StayPopover>
  </span>
</template>

<style scoped>
.views {
  display: inline-flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 12px;
}
.views > :deep(.pick .p-button) {
  font-size: 20px;
  font-weight: 700;
  color: var(--ink);
}
.flow {
  color: var(--flow-ink);
  font-size: 13px;
}
.keep {
  display: grid;
  gap: 10px;
  padding: 8px;
  width: 340px;
}
</style>
