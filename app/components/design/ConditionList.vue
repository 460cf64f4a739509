<script setup lang="ts">
import { sentencesOf } from '~~/core/choices/sentence.ts';
import { subsetScope } from '~~/core/choices/subsets.ts';
import { formula } from '~~/core/formula/formula.ts';
import { withBinding, type Scope } from '~~/core/formula/scope.ts';
import * as T from '~~/core/values/typing.ts';
import type { Table } from '~~/core/model/tables.ts';
import { likelyConditions } from '~/state/conditions';
import { useConditionRoot } from './conditionRoot';

/* A condition over rows as sentences: "genus is the entry's Genus and active is yes". A view of the formula. */
const props = defineProps<{ name: string; where: string | null; table: Table | null; base: Scope; verb?: string; ofSubset?: boolean }>();
const emit = defineEmits<{ change: [where: string | null] }>();
const draft = useDraft();
const whole = ref(false);
useOpening((place) => !props.ofSubset && place === `${props.name} where`, () => (whole.value = true), false); // prettier-ignore

const scope = computed(() => {
  if (props.ofSubset && props.table) return subsetScope(props.base, props.table.key);
  const type: T.Type = props.table ? T.rowOf(props.table.key) : T.UNKNOWN;
  return withBinding(props.base, { name: 'choice', label: 'The row on offer', type, source: { kind: 'candidate' } });
});
const compiled = computed(() => formula(props.where ?? '', scope.value, T.YESNO));
const broken = computed(() => compiled.value.problems.some((p) => p.severity === 'error'));

const { root, write, unfinished } = useConditionRoot({
  place: () => (props.ofSubset ? null : `${draft.formKey} ${props.name}`),
  where: () => props.where,
  compiled: () => compiled.value,
  change: (where) => emit('change', where),
});

const suggestions = computed(() =>
  props.ofSubset || !props.table ? [] : likelyConditions(props.table, props.name, props.base, draft.form!, props.where ?? ''),
);
const add = (text: string): void => {
  const added = sentencesOf(formula(text, scope.value, T.YESNO));
  const { any, parts } = root.value;
  // beside an OR it narrows the whole
  write(
    any && parts.length > 1
      ? { any: false, parts: [{ kind: 'group', any, not: false, parts }, ...added] }
      : { any: false, parts: [...parts, ...added] },
  );
};
/** A name is compared with the column that holds the same. */
const unfit = ref('');
function take(path: string): void {
  const wanted = formula(path, props.base).type;
  const column = props.table?.columns.find((c) => {
    const { type } = formula(`choice.${c.key}`, scope.value);
    return type.kind === wanted.kind && (type.kind !== 'row' || wanted.kind !== 'row' || type.table === wanted.table);
  });
  unfit.value = column ? '' : `${props.table?.label ?? 'The list'} has no column that holds what ${path} holds.`;
  if (column) add(`choice.${column.key} = ${path}`);
}
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
        {{ verb ?? 'Offered' }} <b v-if="!root.parts.length">always</b><template v-else>when</template>{{ ' '
        }}<ConditionGroup
          :parts="root.parts"
          :any="root.any"
          :scope="scope"
          :table="table?.key ?? null"
          :own="name"
          :alone="ofSubset"
          :depth="0"
          @change="write({ ...root, parts: $event })"
          @join="write({ ...root, any: $event })"
        />. <Button link severity="secondary" class="small" @click="whole = true">as formula</Button
        ><ConditionHand
          v-if="!ofSubset && table"
          :scope="base"
          :text="where ?? ''"
          :place="`${name} where`"
          does="A press compares it with the column that holds the same."
          @take="take"
          @whole="emit('change', $event)"
        />
      </p>
      <p v-if="unfit" class="small" role="status">{{ unfit }}</p>
      <p v-if="unfinished" class="small flow" role="status">What is not finished does not apply yet.</p>
      <p v-if="suggestions.length" class="more">
        <Button v-for="s in suggestions" :key="s.text" size="small" severity="warn" @click="add(s.text)">+ {{ s.label }}</Button>
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
.small {
  font-size: 13px;
}
.flow {
  color: var(--flow-ink);
}
</style>
