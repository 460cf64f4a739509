<script setup lang="ts">
import { sourceSchema } from '~~/core/choices/sources/schemas.ts';
import { subsetScope } from '~~/core/choices/subsets.ts';
import { fieldAt } from '~~/core/form/definition.ts';
import { KINDS } from '~~/core/values/kinds/index.ts';
import { TEXT } from '~~/core/values/typing.ts';
import ColumnWords from './ColumnWords.vue';
import { MORE, type SourcePart, useSource, useTableWords } from './useSource';

/* Rows of a table: which, what of them is shown, sorted and searched by what. Without a source the table is chosen first. */
const props = defineProps<Pick<SourcePart<'rows'>, 'name'> & { source: SourcePart<'rows'>['source'] | null }>();
const { draft, put, set } = useSource(() => props.name);
const { tables, subsets, columns } = useTableWords(() => props.source?.table ?? '');
/** of a type that holds rows of one table always there is nothing to choose */
const always = computed(() => {
  const { rows } = KINDS[fieldAt(draft.form!, props.name)!.type];
  return rows !== null && rows !== 'named' ? (draft.tables.get(rows.table)?.label ?? rows.table) : null;
});
function chooseTable(key: string): void {
  const shown = draft.tables.get(key)?.shown ?? null;
  put(sourceSchema.parse({ kind: 'rows', table: key, show: shown, sort: shown ? [shown] : [], waiting: props.source?.waiting }));
}
/** With one searched column more, what was searched until then still is. */
function setSearch(to: string[]): void {
  const { source } = props;
  const usual = source?.show ? [source.show, ...source.beside] : [];
  set({ search: source?.search.length === 0 ? [...new Set([...usual, ...to])] : to });
}
/** a text is being written although there is none yet */
const writing = ref(false);
watch(() => [props.name, props.source?.table], () => (writing.value = false)); // prettier-ignore
const rowScope = computed(() => subsetScope(draft.scope!, props.source?.table ?? ''));
const FIRST = [
  { value: 'none', label: 'in that order' },
  { value: 'recent', label: 'what I chose last' },
  { value: 'used', label: 'what is chosen most' },
] as const;
const more = inject(MORE, ref(true));
</script>

<template>
  <p v-if="!source">
    Choices are rows of <PickWord :value="''" :options="tables" empty="choose a table" label="Table" @pick="chooseTable" />.
  </p>
  <p v-else>
    Choices are
    <template v-if="always"
      >the <b>{{ always.toLowerCase() }}</b></template
    ><template v-else>rows of <PickWord :value="source.table" :options="tables" label="Table" @pick="chooseTable" /></template
    ><template v-if="subsets.length > 1 && (more || source.subset)">
      (<PickWord :value="source.subset ?? ''" :options="subsets" label="Subset" @pick="set({ subset: $event || null })" />)</template
    >, shown as
    <PickWord
      :value="source.show"
      :options="columns"
      empty="choose a column"
      label="Shown column"
      @pick="set({ show: $event, sort: source.sort.length ? source.sort : $event ? [$event] : [] })"
    />
    <template v-if="source.shownAs !== null || writing"
      >, written as
      <FormulaWord
        :key="`${name} shownAs`"
        :text="source.shownAs ?? ''"
        :expected="TEXT"
        :scope="rowScope"
        :start-open="writing"
        :placeholder="`TEMPLATE(&quot;{choice.${source.show ?? 'name'}} …&quot;)`"
        label="What a row is shown as"
        :place="`${name} shownAs`"
        no-result
        @change="(set({ shownAs: $event.trim() || null }), (writing = false))"
    /></template>
    <template v-else-if="more">
      {{ ' '
      }}<span class="nowrap"
        >(<Button link severity="secondary" @click="writing = true">or a text of several columns</Button>)</span
      ></template
    ><template v-if="more || source.beside.length">
      with
      <ColumnWords
        :taken="source.beside"
        :columns="columns"
        between=" and "
        none="nothing"
        label="Column beside"
        more="One more column beside"
        @change="set({ beside: $event })"
      />
      beside it</template
    >, sorted by
    <ColumnWords
      :taken="source.sort"
      :columns="columns"
      between=", then "
      none="nothing"
      label="Sort"
      more="Sort further"
      @change="set({ sort: $event })"
    /><template v-if="more || source.search.length"
      >, searched by
      <ColumnWords
        :taken="source.search"
        :columns="columns"
        between=" and "
        none="the columns shown"
        label="Searched column"
        more="One more searched column"
        @change="setSearch" /></template
    ><template v-if="more || source.first !== 'none'"
      >, listed <PickWord :value="source.first" :options="FIRST" label="Listed first" @pick="set({ first: $event })" /><template
        v-if="source.first !== 'none'"
      >
        first</template
      ></template
    >.
  </p>
</template>

<style scoped>
.nowrap {
  white-space: nowrap;
}
</style>
