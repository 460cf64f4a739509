<script setup lang="ts">
import { fieldOrder } from '~~/core/form/definition.ts';
import { changeMove, removeMove } from '~~/core/form/editSteps.ts';
import { isLockedByFill } from '~~/core/form/fills/index.ts';
import { moveAt } from '~~/core/form/references.ts';
import type { Move } from '~~/core/form/steps.ts';

/* One move: from where to where, who may, under which condition, what must be filled, what it sets. */
const props = defineProps<{ move: Move }>();
const emit = defineEmits<{ removed: [] }>();
const draft = useDraft();
const form = computed(() => draft.form!);
const set = (change: Partial<Move>): void => draft.change(changeMove(form.value, props.move.id, change));
const steps = computed(() => form.value.steps!.list.map(({ value, label }) => ({ value, label })));
const fields = computed(() => fieldOrder(form.value).filter((k) => k !== form.value.steps!.field).map((value) => ({ value, label: form.value.fields[value]!.label }))); // prettier-ignore
const lines = computed(() => Object.entries(form.value.lines).map(([value, l]) => ({ value, label: l.label })));
const labelOf = (key: string): string => form.value.fields[key]?.label ?? form.value.lines[key]?.label ?? `“${key}”, which is not there`;
const fillable = computed(() => [...fields.value, ...lines.value].filter((f) => !props.move.filled.includes(f.value)));
const settable = computed(() => fields.value.filter((f) => !isLockedByFill(form.value.fields[f.value]!)));
const place = computed(() => moveAt(props.move));
const typeOf = (key: string) => draft.scope!.bindings.get(key)?.type ?? null;
const opened = ref(-1);
function addSet(field: string): void {
  opened.value = props.move.sets.length;
  set({ sets: [...props.move.sets, { field, formula: '' }] });
}
function remove(): void {
  draft.change(removeMove(form.value, props.move.id));
  emit('removed');
}
</script>

<template>
  <section class="move" :aria-label="`Move ${move.label}`">
    <header class="row">
      <TextEdit
        class="bare title grow"
        :value="move.label"
        aria-label="Name of the move, as it stands on its button"
        @change="($event.target as HTMLInputElement).value.trim() && set({ label: ($event.target as HTMLInputElement).value.trim() })"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
      />
      <Button severity="secondary" size="small" label="Remove" @click="remove" />
    </header>
    <dl class="pairs sentence">
      <dt>From</dt>
      <dd><StepWords :steps="move.from" label="From" none="every other step" @change="set({ from: $event })" /></dd>
      <dt>To</dt>
      <dd><PickWord :value="move.to" :options="steps" label="To" empty="choose a step" @pick="set({ to: $event })" /></dd>
      <dt>Made by</dt>
      <dd><WhoWords :who="move.who" label="Made by" @change="set({ who: $event })" /></dd>
      <dt>If</dt>
      <dd><EntryCondition :key="move.id" :when="move.when" :place="`${place} when`" label="If" @change="set({ when: $event })" /></dd>
      <dt>Must be filled</dt>
      <dd>
        <template v-for="(key, i) in move.filled" :key="key"
          ><template v-if="i">, </template><b>{{ labelOf(key) }}</b
          ><IconButton
            icon="pi pi-times"
            :aria-label="`${labelOf(key)} need not be filled`"
            @click="set({ filled: move.filled.filter((f) => f !== key) })" /></template
        ><PickWord
          :value="''"
          :text="move.filled.length ? ' and…' : 'nothing more'"
          :options="fillable"
          label="Must be filled"
          @pick="set({ filled: [...move.filled, $event] })"
        />
      </dd>
      <dt>It sets</dt>
      <dd>
        <p v-for="(s, i) in move.sets" :key="`${i} ${s.field}`">
          <b>{{ labelOf(s.field) }}</b> to
          <FormulaWord
            :text="s.formula"
            :expected="typeOf(s.field)"
            :label="`Set ${labelOf(s.field)} to`"
            :place="`${place} then.${i}`"
            placeholder="empty clears it"
            :start-open="opened === i"
            @change="(set({ sets: move.sets.map((x, j) => (i === j ? { ...x, formula: $event } : x)) }), (opened = -1))"
          />
          <IconButton
            icon="pi pi-times"
            :aria-label="`It does not set ${labelOf(s.field)}`"
            @click="set({ sets: move.sets.filter((_, j) => j !== i) })"
          />
        </p>
        <PickWord
          :value="''"
          :text="move.sets.length ? '+ another' : 'nothing but the step'"
          :options="settable"
          label="It sets"
          @pick="addSet"
        />
      </dd>
    </dl>
  </section>
</template>

<style scoped>
.move {
  padding: 14px 18px 30px;
}
.title {
  font-size: 17px;
  font-weight: 700;
}
</style>
