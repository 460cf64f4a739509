<script setup lang="ts">
import type { FormProblem } from '~~/core/form/problems.ts';
import { placeKey } from '~~/core/form/formulas.ts';
import { mended } from '~~/core/form/mended.ts';
import { ruleName } from '~~/core/form/rules.ts';

/* Everything found wrong without running the form; pressing a line goes to the field. */
const draft = useDraft();
const tryout = useTryout();
const emit = defineEmits<{ go: [field: string] }>();
/** those of the form; then what stands in rows, which is mended in the tables */
const parts = computed(() => [
  { head: '', problems: draft.problems },
  ...(draft.noticed.length ? [{ head: 'In the rows of the tables', problems: draft.noticed }] : []),
]);
const label = (p: FormProblem): string => (p.rule ? ruleLabel(p.rule) : p.field ? tryout.host.label(p.field) : 'The form');
function ruleLabel(id: string): string {
  const at = draft.form!.rules.findIndex((r) => r.id === id);
  return at < 0 ? 'A rule' : ruleName(draft.form!.rules[at]!, at);
}
/** To the field or the rule, and to the formula, opened where it stands. */
function go(p: FormProblem): unknown {
  draft.openAt(p.at && placeKey(p.at));
  return p.rule ? navigateTo(`/design/forms/${draft.formKey}/rules?rule=${p.rule}`) : p.field && emit('go', p.field);
}
</script>

<template>
  <div class="all">
    <template v-for="part in parts" :key="part.head">
      <h3 v-if="part.head">{{ part.head }}</h3>
      <ul class="list">
        <li v-for="(p, i) in part.problems" :key="i">
          <Button text severity="secondary" size="small" class="item" @click="go(p)">
            <i class="pi" :class="p.severity === 'error' ? 'pi-times-circle bad' : 'pi-exclamation-triangle'" :aria-label="p.severity" />
            <span
              ><b>{{ label(p) }}</b> {{ p.message }}</span
            > </Button
          ><Button v-if="p.mend" link size="small" class="mend" @click="draft.change(mended(draft.form!, p.mend))">{{
            p.mend.label
          }}</Button>
        </li>
        <li v-if="!part.problems.length" class="muted">No problems.</li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.list {
  display: grid;
  gap: 2px;
}
.all {
  max-height: 360px;
  overflow: auto;
}
h3 {
  margin: 10px 8px 2px;
  font-size: 13px;
}
.item {
  display: flex;
  justify-content: flex-start;
  align-items: flex-start;
  gap: 10px;
  width: 100%;
  padding: 6px 8px;
  text-align: left;
  white-space: normal;
  font-weight: 400;
}
.mend {
  margin: 0 8px 6px 34px;
}
.item:hover {
  background: var(--flow-wash);
}
.pi {
  padding-top: 3px;
}
</style>
