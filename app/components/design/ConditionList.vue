<script setup lang="ts">
import { type SentencePart, narrowingText, sentencesOf, withComments } from '~~/core/choices/sentence.ts';
import { subsetScope } from '~~/core/choices/subsets.ts';
import { formula } from '~~/core/formula/formula.ts';
import { withBinding, type Scope } from '~~/core/formula/scope.ts';
import * as T from '~~/core/values/typing.ts';
import type { Table } from '~~/core/model/tables.ts';

/* A condition over rows as sentences: "genus is the entry's Genus and active is yes". A view of the formula. */
const props = defineProps<{ name: string; where: string | null; table: Table | null; base: Scope; verb?: string; ofSubset?: boolean }>();
const emit = defineEmits<{ change: [where: string | null] }>();
const whole = ref(false);

const scope = computed(() => {
  if (props.ofSubset && props.table) return subsetScope(props.base, props.table.key);
  const type: T.Type = props.table ? T.rowOf(props.table.key) : T.UNKNOWN;
  return withBinding(props.base, { name: 'choice', label: 'The row on offer', type, source: { kind: 'candidate' } });
});
const compiled = computed(() => formula(props.where ?? '', scope.value, T.YESNO));
const parts = computed(() => sentencesOf(compiled.value));
const broken = computed(() => compiled.value.problems.some((p) => p.severity === 'error'));
/** One OR at the top is shown as such, so that no group of one stands around it. */
const top = computed(() => {
  const [only] = parts.value;
  return parts.value.length === 1 && only?.kind === 'group' && !only.not
    ? { any: only.any, parts: only.parts }
    : { any: false, parts: parts.value };
});

/** Conditions that the data suggests: the list's rows link to rows that another field holds. */
const suggestions = computed(() => {
  const used = props.where ?? '';
  const found: { text: string; label: string }[] = [];
  for (const c of props.table?.columns ?? []) {
    if (c.type !== 'link') continue;
    for (const [key, binding] of props.base.bindings) {
      const fits = binding.type.kind === 'row' && binding.type.table === c.target;
      if (!fits || key === props.name || (binding.source.kind !== 'slot' && binding.source.kind !== 'parent')) continue;
      const text = `choice.${c.key} = ${key}`;
      if (!used.includes(text))
        found.push({
          text,
          label: `${c.label.toLowerCase()} is the ${binding.source.kind === 'parent' ? 'opened record' : `entry’s ${binding.label}`}`,
        });
    }
  }
  return props.ofSubset ? [] : found;
});
/** The condition made of sentences again, with the comments that stood in it. */
const write = (all: readonly SentencePart[]): void => emit('change', withComments(props.where ?? '', narrowingText(all) ?? '') || null);
const add = (text: string): void => write([...parts.value, ...sentencesOf(formula(text, scope.value, T.YESNO))]);
</script>

<template>
  <div class="conditions">
    <template v-if="whole || broken">
      <FormulaWord
        :text="where ?? ''"
        :expected="T.YESNO"
        :scope="scope"
        label="Narrowing"
        :place="ofSubset ? undefined : `${name} where`"
        :start-open="whole && !broken"
        :alone="ofSubset"
        no-result
        @change="emit('change', $event || null)"
      />
      <Button v-if="!broken" link severity="secondary" class="small" @click="whole = false">as sentences</Button>
    </template>
    <template v-else>
      <p>
        {{ verb ?? 'Offered' }} <b v-if="!top.parts.length">always</b><template v-else>when</template>{{ ' '
        }}<ConditionGroup
          :parts="top.parts"
          :any="top.any"
          :scope="scope"
          :table="table?.key ?? null"
          :own="name"
          :alone="ofSubset"
          :depth="0"
          @change="write(top.any ? [{ kind: 'group', any: true, not: false, parts: $event }] : $event)"
        />.
      </p>
      <p class="more">
        <Button v-for="s in suggestions" :key="s.text" size="small" severity="warn" @click="add(s.text)">+ {{ s.label }}</Button>
        <Button link severity="secondary" @click="whole = true">as formula</Button>
      </p>
    </template>
  </div>
</template>

<style scoped>
.more {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  font-size: 13px;
  padding-top: 3px;
  align-items: center;
}
</style>
