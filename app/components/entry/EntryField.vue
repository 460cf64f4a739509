<script setup lang="ts">
import { FileInput } from '~/components/lateParts';
import { isLockedByFill } from '~~/core/form/fills/index.ts';
import { isByItself } from '~~/core/model/origin.ts';
import { decimalsFor } from '~~/core/form/fit.ts';
import { addressOf, parseAddress } from '~~/core/engine/state.ts';
import type { Datum } from '~~/core/values/types.ts';

/* One field of a live form: label, control, where the value comes from, what is wrong with it. */
const props = defineProps<{ host: EntryHost; name: string; prefix?: string; selected?: boolean; compact?: boolean }>();
const emit = defineEmits<{ why: [field: string] }>();

const view = computed(() => props.host.view(props.name));
const def = computed(() => view.value.field.definition);
const id = computed(() => `${props.prefix ?? 'f'}-${props.name}`);
/** a control somebody is in is never taken away by an answer */
const within = ref(false);
const issue = computed(() => props.host.issues.value.find((i) => addressOf(i.field, i.line) === props.name)?.message ?? null);
const byItself = computed(() => isByItself(view.value.state.origin) && view.value.value !== null);
const decimals = computed(() => decimalsFor(def.value, view.value.field.column));
const messages = computed(() => {
  const list: { text: string; bad: boolean; retry?: boolean }[] = [];
  if (view.value.filesProblem) list.push({ text: view.value.filesProblem, bad: true });
  if (view.value.unreadable) list.push({ text: view.value.unreadable.message, bad: true });
  if (view.value.error) list.push({ text: view.value.error, bad: true, retry: view.value.canRetry });
  // its list could not be had: no mistake of the person who fills it in
  if (view.value.offer?.status === 'failed' && view.value.offer.reason)
    list.push({ text: view.value.offer.reason, bad: false, retry: true });
  for (const c of view.value.checks) list.push({ text: c.message, bad: c.severity === 'error' });
  if (issue.value && !list.some((m) => m.text === issue.value)) list.push({ text: issue.value, bad: true });
  if (view.value.state.gone) list.push({ text: 'This choice is no longer offered.', bad: view.value.state.origin.kind !== 'stored' });
  return list;
});
const invalid = computed(() => messages.value.some((m) => m.bad));
function set(value: Datum): void {
  props.host.set(props.name, value);
}
const control = computed(() => COLUMN_LOOKS[def.value.type].control);
const suggestion = computed(() => {
  const s = view.value.state.suggestion;
  return view.value.differs ? props.host.show(props.name, (s ?? null) as Datum) || 'empty' : null;
});
</script>

<template>
  <div
    v-if="view.shown"
    class="field"
    :class="[`of-${def.width}`, { self: byItself, locked: view.locked, selected, compact, waiting: view.waiting }]"
    :data-field="name"
  >
    <label :for="id" class="name" :class="{ sr: compact }"
      >{{ view.words.called }}<span v-if="view.required" class="star" title="required"> *</span></label
    >
    <div class="control" @focusin="within = true" @focusout="within = false">
      <Skeleton v-if="view.waiting && !within" height="32px" />
      <ChoiceInput
        v-else-if="control === 'choice' && view.offer"
        :id="id"
        :host="host"
        :name="name"
        :invalid="invalid"
        :describedby="`${id}-say`"
        :placeholder="view.words.placeholder"
        @choose="set"
        @misread="host.misread(name, $event)"
        @funnel="emit('why', name)"
      />
      <div v-else-if="control === 'yesno'" class="yesno" role="radiogroup" :aria-labelledby="`${id}-l`">
        <span :id="`${id}-l`" class="sr">{{ view.words.called }}</span>
        <label v-for="o in [true, false]" :key="String(o)"
          ><RadioButton
            :input-id="o ? id : undefined"
            :name="id"
            :value="o"
            :model-value="view.value"
            :disabled="view.locked"
            @update:model-value="set(o)"
          />
          {{ o ? 'yes' : 'no' }}</label
        >
        <Button v-if="view.value !== null && !view.locked" link severity="secondary" label="clear" @click="set(null)" />
      </div>
      <FileInput
        v-else-if="control === 'file'"
        :id="id"
        :files="host.files(name)"
        :several="def.type === 'files'"
        :label="view.words.called ?? def.label"
        :accept="def.accept"
        :locked="view.locked"
        :describedby="`${id}-say`"
        @change="set"
      />
      <InputText v-else-if="control === 'choice'" :id="id" disabled model-value="" placeholder="No list yet" />
      <TypedInput
        v-else
        :id="id"
        :type="def.type"
        :label="view.words.called ?? def.label"
        :placeholder="view.words.placeholder"
        :value="view.value"
        :locked="view.locked"
        :required="view.required"
        :invalid="invalid"
        :describedby="`${id}-say`"
        :decimals="decimals"
        :format="def.format"
        :today="host.entry.value?.context.today"
        :unread="view.unreadable?.text"
        live
        @change="set"
        @misread="host.misread(name, $event)"
      />
      <div :id="`${id}-say`" class="say">
        <p v-for="m in messages" :key="m.text" :class="{ bad: m.bad }" class="message">
          <i class="pi" :class="m.bad ? 'pi-times-circle' : 'pi-exclamation-triangle'" aria-hidden="true" /> {{ m.text }}
          <Button v-if="m.retry" link @click="host.retry()">Try again</Button>
        </p>
        <p v-if="suggestion !== null" class="message">
          {{ isLockedByFill(view.field) ? 'Recalculated today it would be' : 'Suggested:' }} <b>{{ suggestion }}</b>.
          <Button link @click="host.apply([{ kind: 'takeSuggestion', ...parseAddress(name) }])">Use it</Button>
        </p>
        <p v-if="view.words.hint && !messages.length && !compact" class="message muted">{{ view.words.hint }}</p>
      </div>
    </div>
    <div v-if="!compact" class="from"><OriginNote :host="host" :name="name" @why="emit('why', name)" /></div>
  </div>
</template>

<style scoped>
.field {
  display: grid;
  grid-template-columns: 152px minmax(0, 304px) minmax(92px, 1fr);
  gap: 0 10px;
  align-items: start;
  padding: 2px 8px;
}
.name {
  padding-top: 6px;
  line-height: 1.3;
}
.star {
  color: var(--bad);
}
.from {
  min-height: 32px;
  display: flex;
  align-items: center;
  line-height: 1.15;
}
.self :deep(.p-inputtext) {
  background: var(--act-wash);
  border-color: var(--act-line);
}
.locked :deep(.p-inputtext) {
  border-style: dashed;
}
.selected :deep(.p-inputtext) {
  border-color: var(--flow);
  box-shadow: inset 0 0 0 1px var(--flow);
}
.message {
  font-size: 13px;
  padding: 2px 0;
}
.message .pi {
  font-size: 12px;
}
.yesno {
  display: flex;
  gap: 16px;
  min-height: 32px;
  align-items: center;
}
.of-narrow:not(.compact) .control {
  max-width: 150px;
}
.of-wide:not(.compact) {
  grid-template-columns: 152px minmax(0, 1fr) auto;
}
.compact {
  display: block;
  padding: 0;
}
@media (max-width: 640px) {
  .field:not(.compact) {
    grid-template-columns: minmax(0, 1fr) auto;
    padding: 6px 0;
  }
  .control {
    grid-column: 1 / -1;
    grid-row: 2;
  }
  .name,
  .from {
    padding-top: 0;
    min-height: 0;
  }
}
</style>
