<script setup lang="ts">
import { addRule, changeRule, moveRule } from '~~/core/form/editRules.ts';
import { isAct, ruleName } from '~~/core/form/rules.ts';
import { ruleFound, ruleSentence } from '~/components/design/ruleWords';

/* The rules of a form: a register in the order in which they act, and the one that is looked at. */
const route = useRoute();
const draft = useDraft();
const tryout = useTryout();
await draft.open(String(route.params.key));
useHead({ title: computed(() => `Rules of ${draft.form?.label ?? 'a form'} · Brisk Acorn`) });
const form = computed(() => draft.form!);
const selected = ref<string | null>(null);
// gone to from the same rule of another form
watch(() => route.params.key, (key) => key && draft.open(String(key))); // prettier-ignore
watch(() => route.query.rule, (id) => (selected.value = typeof id === 'string' ? id : selected.value), { immediate: true }); // prettier-ignore
const sought = ref('');
const shown = computed(() =>
  form.value.rules.map((rule, number) => ({ rule, number })).filter(({ rule }) => !sought.value.trim() || ruleFound(rule, form.value, draft.scope!, sought.value)),
); // prettier-ignore
const at = computed(() => form.value.rules.findIndex((r) => r.id === selected.value));
const current = computed(() => form.value.rules[at.value] ?? null);
function add(): void {
  const { form: next, id } = addRule(form.value);
  sought.value = '';
  draft.change(next);
  selected.value = id;
  // it is named next
  void nextTick(() => document.querySelector<HTMLElement>('.rule .title')?.focus());
}
const problemsOf = (id: string) => draft.problems.filter((p) => p.rule === id);
/** What each rule that acts did last in the entry that is tried. */
const lately = computed(() => {
  const found = new Map<string, { at: string; held: boolean }>();
  for (const step of tryout.host.steps.value)
    for (const c of step.change.changes)
      if (c.cell === 'rule' && !found.has(c.field)) found.set(c.field, { at: step.at, held: c.to === true });
  return found;
});
function now(rule: (typeof form.value.rules)[number]): string {
  if (!rule.on) return 'off';
  const seen = lately.value.get(rule.id);
  if (seen) return seen.held ? `acted ${seen.at}` : `did not hold, ${seen.at}`;
  return [...rule.then, ...rule.otherwise].some(isAct) ? 'not asked yet' : 'follows all the time';
}
function moments(rule: (typeof form.value.rules)[number]): string {
  const all = [rule.opens && 'opening', rule.changes.length && (rule.changes.length === 1 ? 'one change' : `${rule.changes.length} changes`), rule.reaches.length && (rule.reaches.length === 1 ? 'one step' : `${rule.reaches.length} steps`), rule.saves && 'saving']; // prettier-ignore
  return all.filter(Boolean).join(', ');
}
// ---- order: by dragging, or Alt+arrows ----
const list = ref<HTMLElement>();
useDragOrder(list, ({ item, to }) => draft.change(moveRule(form.value, item.dataset.rule ?? '', to)), { draggable: '.item' });
function keys(event: KeyboardEvent, id: string, number: number): void {
  if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
  event.preventDefault();
  draft.change(moveRule(form.value, id, number + (event.key === 'ArrowUp' ? -1 : 1)));
  void nextTick(() => document.querySelector<HTMLElement>(`[data-rule="${id}"] .grip`)?.focus());
}
onBeforeRouteLeave(() => draft.flush());
useUndoKeys();
</script>

<template>
  <div class="rules">
    <PlaceTrail
      :above="[
        { label: 'Forms', to: '/design/forms' },
        { label: draft.form?.label ?? String(route.params.key), to: `/design/forms/${route.params.key}` },
      ]"
      here="Rules"
    />
    <DraftBar />
    <div v-if="draft.failed" class="page">
      <Note kind="bad" :retry="() => draft.open(draft.formKey)">{{ draft.failed }}</Note>
    </div>
    <div v-else-if="draft.form" class="two">
      <div class="register">
        <header class="row">
          <h1>Rules</h1>
          <span class="muted grow">{{ form.rules.length ? `${form.rules.length}, they act in this order` : '' }}</span>
          <InputText v-if="form.rules.length" v-model="sought" class="find" size="small" placeholder="Find" aria-label="Find a rule" />
          <Button size="small" severity="secondary" label="+ rule" @click="add" />
        </header>
        <p v-if="!form.rules.length" class="muted">
          No rules yet. A rule shows, hides, requires, locks, says or sets something of several fields, when its condition holds.
          <NuxtLink to="/guide/rules">How rules work</NuxtLink>
        </p>
        <p v-else-if="!shown.length" class="muted">No rule speaks of “{{ sought }}”.</p>
        <ol ref="list">
          <li
            v-for="{ rule, number } in shown"
            :key="rule.id"
            class="item"
            :class="{ selected: rule.id === selected, off: !rule.on }"
            :data-rule="rule.id"
            @keydown="keys($event, rule.id, number)"
          >
            <Button
              text
              severity="secondary"
              size="small"
              class="grip"
              :label="String(number + 1)"
              :aria-label="`${ruleName(rule, number)}: drag, or Alt and arrows, to move`"
            />
            <ToggleSwitch
              :model-value="rule.on"
              :aria-label="`${ruleName(rule, number)} is on`"
              @update:model-value="draft.change(changeRule(form, rule.id, { on: $event }))"
            />
            <Button text severity="secondary" class="what" :aria-current="rule.id === selected || undefined" @click="selected = rule.id">
              <span
                ><b v-if="rule.label">{{ rule.label }}: </b>{{ ruleSentence(rule, form, draft.scope!) }}
                <span v-if="moments(rule)" class="muted">At {{ moments(rule) }}.</span>
                <span v-for="(p, i) in problemsOf(rule.id)" :key="i" class="problem" :class="{ bad: p.severity === 'error' }"
                  ><i class="pi pi-exclamation-triangle" aria-hidden="true" /> {{ p.message }}</span
                ></span
              >
            </Button>
            <span class="muted now">{{ now(rule) }}</span>
          </li>
        </ol>
      </div>
      <RulePanel v-if="current" :key="current.id" :rule="current" :number="at" class="panel" @select="selected = $event" />
      <div v-else class="panel muted none">{{ form.rules.length ? 'Press a rule to look at it.' : '' }}</div>
    </div>
    <div v-else class="page"><Skeleton v-for="i in 6" :key="i" style="margin: 10px 0" /></div>
  </div>
</template>

<style scoped>
.rules {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.two {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1.35fr) minmax(360px, 1fr);
}
.register {
  overflow: auto;
  padding: 14px 18px 40px;
}
.panel {
  overflow: auto;
  background: var(--ground-2);
  border-left: 1px solid var(--line);
}
header {
  gap: 12px;
}
.find {
  width: 180px;
  flex: none;
}
.none {
  padding: 18px;
}
ol {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
.item {
  display: grid;
  grid-template-columns: 30px 46px minmax(0, 1fr) 120px;
  gap: 6px;
  align-items: start;
  padding: 6px 4px;
  border-top: 1px solid var(--line);
}
.item.selected {
  background: var(--flow-wash);
}
.off .what {
  color: var(--ink-2);
}
.grip {
  min-width: 24px;
  padding: 2px;
  cursor: grab;
}
.what {
  justify-content: start;
  text-align: start;
  font-weight: 400;
  white-space: normal;
  padding: 2px 4px;
}
.problem {
  display: block;
  font-size: 13px;
}
.now {
  font-size: 12.5px;
  padding-top: 4px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
    overflow: auto;
  }
}
</style>
