<script setup lang="ts">
import { sentencesOf } from '~~/core/choices/sentence.ts';
import { formula } from '~~/core/formula/formula.ts';
import * as T from '~~/core/values/typing.ts';
import { useConditionRoot } from '~/components/design/conditionRoot';
import { groupChoices, groupFrom, groupKey, orderWords, sumChoices, sumFrom, sumWords } from './viewWords';

/* A view as a sentence: which records, grouped by what, summed, sorted, in which colours. */
withDefaults(
  defineProps<{
    /** whether the panel of colours is open; null where there is none */
    coloursOpen?: boolean | null;
  }>(),
  { coloursOpen: null },
);
const emit = defineEmits<{ colours: [] }>();
const records = useRecordViews();
const compiled = computed(() => formula(records.view.where ?? '', records.scope, T.YESNO));
const broken = computed(() => compiled.value.problems.find((p) => p.severity === 'error'));
const asFormula = ref(false);
const { root, write, unfinished } = useConditionRoot({
  place: () => null,
  where: () => records.view.where,
  compiled: () => compiled.value,
  change: (where) => records.change({ where }),
});
const isWhole = computed(() => sentencesOf(compiled.value).length === 0);

const groups = computed(() => groupChoices(records.options));
const sums = computed(() => sumChoices(records.options).filter((c) => !records.view.sums.some((s) => `${s.column} ${s.of}` === c.value)));
const NUMBER = { value: 'id', label: 'their number', type: 'number' as const };
const sortable = computed(() => [NUMBER, ...records.options.filter((c) => !['file', 'files', 'json'].includes(c.type))]);
const unsorted = computed(() => sortable.value.filter((c) => !records.view.sort.some((s) => s.column === c.value)));
const wordsOf = (column: string) => orderWords(sortable.value.find((c) => c.value === column)?.type);
const NO_SORT = '';
function sortBy(at: number, column: string): void {
  const sort = [...records.view.sort];
  if (column === NO_SORT) sort.splice(at, 1);
  else sort[at] = { column, descending: sort[at]?.descending ?? false };
  records.change({ sort: sort.filter((s, i) => sort.findIndex((x) => x.column === s.column) === i) });
}
const direction = (at: number, way: string): void =>
  records.change({ sort: records.view.sort.map((s, i) => (i === at ? { ...s, descending: way === 'down' } : s)) });
const ways = (column: string) => (['up', 'down'] as const).map((value) => ({ value, label: wordsOf(column)[value] }));
const colourWords = computed(() =>
  records.colours.length === 1 ? 'in one colour' : records.colours.length ? `in ${records.colours.length} colours` : 'without colours',
);
const dropSum = (at: number): void => records.change({ sums: records.view.sums.filter((_, i) => i !== at) });
</script>

<template>
  <div class="sentence" role="group" aria-label="The view">
    <span v-if="asFormula || broken"
      >Records for which
      <FormulaWord
        :text="records.view.where ?? ''"
        :expected="T.YESNO"
        :scope="records.scope"
        label="Which records"
        alone
        no-result
        @change="records.change({ where: $event || null })"
      />
      holds
      <Button v-if="!broken" link severity="secondary" class="small" @click="asFormula = false">as a sentence</Button></span
    >
    <template v-else
      >{{ isWhole && !root.parts.length ? 'All records' : 'Records whose' }}{{ ' '
      }}<ConditionGroup
        :parts="root.parts"
        :any="root.any"
        :scope="records.scope"
        :table="records.table?.key ?? null"
        own=""
        alone
        :depth="0"
        @change="write({ ...root, parts: $event })"
        @join="write({ ...root, any: $event })"
      /><Button v-if="root.parts.length" link severity="secondary" class="small" @click="asFormula = true">as formula</Button></template
    ><template v-if="records.looksAs === 'list'"
      >, grouped by
      <PickWord
        :value="groupKey(records.view.group)"
        :options="groups"
        label="Grouped by"
        @pick="records.change({ group: groupFrom($event) })" /><template v-for="(s, i) in records.view.sums" :key="`${s.column} ${s.of}`"
        >, {{ sumWords(s, records.options)
        }}<IconButton
          class="drop"
          icon="pi pi-times"
          :aria-label="`Leave out the ${sumWords(s, records.options)}`"
          @click="dropSum(i)" /></template
      >{{ ' '
      }}<template v-if="sums.length && records.view.sums.length < 8"
        >{{ ' '
        }}<PickWord
          class="add"
          value=""
          text="+ sum"
          :options="sums"
          label="Add a sum"
          @pick="records.change({ sums: [...records.view.sums, sumFrom($event)] })" /></template
      >, sorted by
      <template v-for="(s, i) in records.view.sort" :key="s.column"
        ><template v-if="i">, then </template
        ><PickWord
          :value="s.column"
          :options="[...sortable, { value: NO_SORT, label: 'nothing' }]"
          label="Sorted by"
          @pick="sortBy(i, $event)"
        />{{ ' '
        }}<PickWord :value="s.descending ? 'down' : 'up'" :options="ways(s.column)" label="In which order" @pick="direction(i, $event)" />{{
          ' '
        }}</template
      ><PickWord
        v-if="records.view.sort.length < 4"
        :class="{ add: records.view.sort.length > 0 }"
        value=""
        :text="records.view.sort.length ? '+ then' : 'the newest first'"
        :options="unsorted"
        :label="records.view.sort.length ? 'Then sorted by' : 'Sorted by'"
        @pick="sortBy(records.view.sort.length, $event)" /></template
    >, <Button v-if="coloursOpen !== null" link :aria-expanded="coloursOpen" @click="emit('colours')">{{ colourWords }}</Button><template
      v-else
      >{{ colourWords }}</template
    >. <span v-if="broken" class="bad" role="alert">{{ broken.message }}</span><span v-else-if="unfinished" class="flow" role="status">
      What is not finished does not apply yet.</span
    >
  </div>
</template>

<style scoped>
.sentence {
  font-size: 15px;
  line-height: 1.9;
}
.small {
  font-size: 13px;
  margin-left: 8px;
}
.flow {
  color: var(--flow-ink);
}
.drop {
  min-width: 24px;
  min-height: 24px;
  padding: 0;
  color: var(--ink-2);
  font-size: 10px;
}
/* on paper it is read: it has no words that add to it or take from it */
@media print {
  .sentence :deep(:is(.add, .drop, .small)) {
    display: none;
  }
  .sentence :deep(.p-button) {
    color: inherit;
    border: 0;
  }
}
</style>
