<script setup lang="ts">
import { fieldOrder } from '~~/core/form/definition.ts';
import { useQuery } from '@pinia/colada';
import { changeRule, duplicateRule, removeRule, withShared } from '~~/core/form/editRules.ts';
import { type Rule, isAct, ruleContent, ruleName } from '~~/core/form/rules.ts';

/* One rule: when, if, then, otherwise, each a sentence; and what it did just now in the entry that is tried. */
const props = defineProps<{ rule: Rule; number: number }>();
const emit = defineEmits<{ select: [id: string | null] }>();
const draft = useDraft();
const tryout = useTryout();
const form = computed(() => draft.form!);
const set = (change: Partial<Rule>): void => draft.change(changeRule(form.value, props.rule.id, change));
const problems = computed(() => draft.problems.filter((p) => p.rule === props.rule.id));
const place = computed(() => `@${props.rule.id}`);
const acts = computed(() => [...props.rule.then, ...props.rule.otherwise].some(isAct));

const fields = computed(() => [
  ...fieldOrder(form.value).map((value) => ({ value, label: form.value.fields[value]!.label })),
  ...Object.entries(form.value.lines).flatMap(([key, l]) =>
    l.columns.map((c) => ({ value: `${key}.${c}`, label: `${l.label} › ${l.fields[c]?.label ?? c}` })),
  ),
]);
const labelOf = (path: string): string => fields.value.find((f) => f.value === path)?.label ?? path;
const MODES = [
  { value: 'both', label: 'new and changed entries' },
  { value: 'new', label: 'new entries only' },
  { value: 'edit', label: 'changed entries only' },
] as const;
const OPENS = ' opens';
const SAVES = ' saves';
const REACHES = ' reaches ';
const stepLabel = (value: string): string => form.value.steps?.list.find((s) => s.value === value)?.label ?? value;
const moments = computed(() => [
  ...(props.rule.opens ? [] : [{ value: OPENS, label: 'the entry opens' }]),
  ...(props.rule.saves ? [] : [{ value: SAVES, label: 'it is about to be saved' }]),
  ...(form.value.steps?.list ?? []).filter((s) => !props.rule.reaches.includes(s.value)).map((s) => ({ value: `${REACHES}${s.value}`, label: `the step ${s.label} is reached` })), // prettier-ignore
  ...fields.value.filter((f) => !props.rule.changes.includes(f.value)).map((f) => ({ value: f.value, label: `${f.label} changes` })),
]);
function addMoment(value: string): void {
  if (value === OPENS) set({ opens: true });
  else if (value === SAVES) set({ saves: true });
  else if (value.startsWith(REACHES)) set({ reaches: [...props.rule.reaches, value.slice(REACHES.length)] });
  else set({ changes: [...props.rule.changes, value] });
}
const chosen = computed(() => [
  ...(props.rule.opens ? [{ label: 'the entry opens', drop: () => set({ opens: false }) }] : []),
  ...props.rule.changes.map((path) => ({
    label: `${labelOf(path)} changes`,
    drop: () => set({ changes: props.rule.changes.filter((c) => c !== path) }),
  })),
  ...props.rule.reaches.map((step) => ({
    label: `the step ${stepLabel(step)} is reached`,
    drop: () => set({ reaches: props.rule.reaches.filter((r) => r !== step) }),
  })),
  ...(props.rule.saves ? [{ label: 'it is about to be saved', drop: () => set({ saves: false }) }] : []),
]);
/** What it did last in the entry that is tried: asked when, whether its condition held, and what that changed. */
const last = computed(() => {
  for (const step of tryout.host.steps.value) {
    const asked = step.change.changes.find((c) => c.cell === 'rule' && c.field === props.rule.id);
    if (!asked) continue;
    const because =
      asked.cause.kind === 'cell' ? `${tryout.host.label(asked.cause.field)} changed` : asked.cause.kind === 'open' ? 'the entry opened' : 'it was to be saved';
    const changes = step.change.changes.filter((c) => c.cause.kind === 'rule' && c.cause.rule === props.rule.id && c.cell === 'value');
    return { at: step.at, held: asked.to === true, because, changed: changes.map((c) => `${tryout.host.label(c.field)} became ${c.to === null ? 'empty' : tryout.host.show(c.field)}`) };
  }
  return null;
}); // prettier-ignore
// ---- one rule in several forms ----
const toast = useToast();
const { data: all, refetch } = useQuery({ key: () => ['rules'], query: () => api.forms.rules() });
const { data: forms } = useForms();
/** Where else it is used, and whether it says the same there. */
const elsewhere = computed(() =>
  (all.value ?? [])
    .filter((r) => props.rule.shared !== null && r.rule.shared === props.rule.shared && r.form !== draft.formKey)
    .map((r) => ({ form: r.form, label: r.formLabel, id: r.rule.id, same: ruleContent(r.rule) === ruleContent(props.rule) })),
);
const further = computed(() =>
  (forms.value ?? [])
    .filter((f) => f.key !== draft.formKey && f.broken === null && !elsewhere.value.some((e) => e.form === f.key))
    .map((f) => ({ value: f.key, label: f.label })),
);
/** Puts the rule, as it stands here, into the draft of another form: what does not match there is a problem of the rule there. */
async function putInto(key: string): Promise<void> {
  const shared = props.rule.shared ?? `${draft.formKey}-${props.rule.id}-${crypto.randomUUID().slice(0, 8)}`;
  if (props.rule.shared === null) set({ shared });
  try {
    const { draft: other, revision } = await api.forms.draft({ key });
    await api.forms.saveDraft({ key }, { draft: withShared(other, { ...props.rule, shared }), revision });
    await refetch();
    const label = forms.value?.find((f) => f.key === key)?.label ?? key;
    toast.add({ severity: 'success', summary: `It is in the draft of ${label}`, life: 4000 });
  } catch (e) {
    toast.add({ severity: 'error', summary: 'Not put there', detail: messageOf(e), life: 8000 });
  }
}
function duplicate(): void {
  const { form: next, id } = duplicateRule(form.value, props.rule.id);
  draft.change(next);
  emit('select', id);
}
function remove(): void {
  draft.change(removeRule(form.value, props.rule.id));
  emit('select', null);
}
</script>

<template>
  <section class="rule" :aria-label="ruleName(rule, number)">
    <header class="row">
      <TextEdit
        class="bare title grow"
        :value="rule.label"
        :placeholder="ruleName(rule, number)"
        aria-label="Name of the rule"
        @change="set({ label: ($event.target as HTMLInputElement).value.trim() })"
        @keydown.enter="($event.target as HTMLInputElement).blur()"
      />
      <Button severity="secondary" size="small" label="Duplicate" @click="duplicate" />
      <Button severity="secondary" size="small" label="Remove" @click="remove" />
    </header>
    <ul v-if="problems.length" class="problems">
      <li v-for="(p, i) in problems" :key="i" class="note" :class="{ bad: p.severity === 'error' }">{{ p.message }}</li>
    </ul>
    <dl class="pairs sentence">
      <dt>When</dt>
      <dd>
        <template v-for="(m, i) in chosen" :key="m.label"
          ><template v-if="i"> or </template><b>{{ m.label }}</b
          ><IconButton class="drop" icon="pi pi-times" :aria-label="`Not when ${m.label}`" @click="m.drop()" /></template
        ><span v-if="!chosen.length && acts" class="bad">no moment yet </span
        ><span v-else-if="!chosen.length" class="muted">all the time </span
        ><PickWord :value="''" :text="chosen.length ? ' or…' : 'say when'" :options="moments" label="One more moment" @pick="addMoment" />,
        in <PickWord :value="rule.mode" :options="MODES" label="In" @pick="set({ mode: $event })" />
        <p v-if="acts" class="muted small">
          What it shows, hides, requires, makes read-only or says follows its condition all the time; what it sets, clears or adds is done
          at these moments.
        </p>
      </dd>
      <dt>If</dt>
      <dd><EntryCondition :key="rule.id" :when="rule.when" :place="`${place} when`" label="If" @change="set({ when: $event })" /></dd>
      <dt>Then</dt>
      <dd><RuleEffects :effects="rule.then" :place="place" branch="then" @change="set({ then: $event })" /></dd>
      <dt>Otherwise</dt>
      <dd><RuleEffects :effects="rule.otherwise" :place="place" branch="otherwise" @change="set({ otherwise: $event })" /></dd>
      <dt>Note</dt>
      <dd>
        <TextEdit
          :value="rule.note"
          placeholder="Why there is this rule"
          aria-label="Note"
          @change="set({ note: ($event.target as HTMLInputElement).value.trim() })"
        />
      </dd>
    </dl>
    <div class="now">
      <h3>In other forms</h3>
      <p v-for="e in elsewhere" :key="e.form">
        Also in <NuxtLink :to="`/design/forms/${e.form}/rules?rule=${e.id}`">{{ e.label }}</NuxtLink><template v-if="!e.same"
          >, where it says something else. <Button link @click="putInto(e.form)">Make it the same there</Button></template
        ><template v-else>.</template>
      </p>
      <p v-if="further.length">
        <PickWord :value="''" text="Use it in another form" :options="further" label="Use it in" @pick="putInto($event)" />
        <span class="muted small"> Its fields are found there by their names.</span>
      </p>
    </div>
    <div v-if="acts" class="now">
      <h3>Just now</h3>
      <p v-if="!rule.on" class="muted">It is off.</p>
      <p v-else-if="!last" class="muted">It has not been asked yet in the entry that is tried.</p>
      <p v-else>
        {{ last.at }}: asked because {{ last.because }}. Its condition <b>{{ last.held ? 'held' : 'did not hold' }}</b><template
          v-if="last.changed.length"
          >: {{ last.changed.join(', ') }}</template
        >.
      </p>
    </div>
  </section>
</template>

<style scoped>
.rule {
  padding: 12px 18px 32px;
  line-height: 1.6;
}
.title {
  font-weight: 700;
  font-size: 16px;
}
dl.pairs {
  grid-template-columns: 84px minmax(0, 1fr);
  gap: 12px 10px;
  padding-top: 10px;
}
dt {
  color: var(--ink-2);
  font-weight: 600;
  font-size: 13px;
  padding-top: 2px;
}
.drop {
  color: var(--ink-2);
  font-size: 10px;
  padding: 0 4px;
}
.small {
  font-size: 13px;
}
.now {
  border-top: 1px solid var(--line);
  margin-top: 14px;
  padding-top: 8px;
}
</style>
