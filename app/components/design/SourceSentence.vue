<script setup lang="ts">
import { changeField } from '~~/core/form/edit.ts';
import { type FieldSource, fieldAt, sourceSchema } from '~~/core/form/definition.ts';
import { subsetScope } from '~~/core/engine/sources.ts';
import { TEXT } from '~~/core/values/typing.ts';
import { isFolded } from '~~/core/choices/order.ts';
import { levelsOf } from '~~/core/form/lists.ts';

/* Where a field's choices come from, as one sentence: rows, values of a column, an option list, a feed, attributes, JSON. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const field = computed(() => fieldAt(draft.form!, props.name)!);
const source = computed(() => field.value.source);
const of = <K extends FieldSource['kind']>(kind: K) =>
  computed(() => (source.value?.kind === kind ? (source.value as Extract<FieldSource, { kind: K }>) : null));
const [rows, distinct, listed, feed, attributes, json] = [of('rows'), of('distinct'), of('list'), of('feed'), of('attributes'), of('json')];
const put = (fresh: FieldSource): void => draft.change(changeField(draft.form!, props.name, { source: fresh }));
function set(change: object): void {
  if (source.value) put({ ...source.value, ...change } as FieldSource);
}

const tables = computed(() =>
  [...draft.tables.values()].map((t) => ({ value: t.key, label: t.label, note: t.rows.toLocaleString(LOCALE) })),
);
const table = computed(() => draft.tables.get(rows.value?.table ?? distinct.value?.table ?? '') ?? null);
function chooseTable(key: string): void {
  const shown = draft.tables.get(key)?.shown ?? null;
  put(sourceSchema.parse({ kind: 'rows', table: key, show: shown, sort: shown ? [shown] : [], waiting: rows.value?.waiting }));
}
const subsets = computed(() => [
  { value: '', label: 'all rows' },
  ...(table.value?.subsets ?? []).map((s) => ({ value: s.key, label: s.label.toLowerCase() })),
]);
const columns = computed(() => (table.value?.columns ?? []).map((c) => ({ value: c.key, label: c.label.toLowerCase() })));
const textColumns = computed(() =>
  (table.value?.columns ?? []).filter((c) => isFolded(c.type)).map((c) => ({ value: c.key, label: c.label.toLowerCase() })),
);
/** A list of columns as words: each can be exchanged or left out, and one more added. */
const others = (taken: readonly string[], own: string | null) => [
  ...columns.value.filter((c) => c.value === own || !taken.includes(c.value)),
  ...(own === null ? [] : [{ value: '', label: 'leave it out' }]),
];
function setAt(key: 'beside' | 'search' | 'sort', at: number, value: string): void {
  const list = rows.value?.[key] ?? [];
  const next =
    value === '' ? list.filter((_, i) => i !== at) : at === list.length ? [...list, value] : list.map((c, i) => (i === at ? value : c));
  set({ [key]: next });
}
/** a text is being written although there is none yet */
const writing = ref(false);
watch(() => [props.name, rows.value?.table], () => (writing.value = false)); // prettier-ignore
const rowScope = computed(() => subsetScope(draft.scope!, rows.value?.table ?? ''));
const FIRST = [
  { value: 'none', label: 'nothing in particular' },
  { value: 'recent', label: 'what I chose last' },
  { value: 'used', label: 'what is chosen most' },
] as const;

// ---- a field of type Choice ----
const KINDS = [
  { value: 'options', label: 'a list typed in here' },
  { value: 'list', label: 'an option list' },
  { value: 'distinct', label: 'the values of a column' },
  { value: 'feed', label: 'what a feed answers' },
  { value: 'attributes', label: 'what a row or JSON has' },
  { value: 'json', label: 'JSON typed in here' },
] as const;
function setKind(kind: (typeof KINDS)[number]['value']): void {
  const first = <T,>(map: ReadonlyMap<string, T>, otherwise: string): string => map.keys().next().value ?? otherwise;
  const link = [...(draft.scope?.bindings.values() ?? [])].find((b) => b.source.kind === 'slot' && b.type.kind === 'row');
  const fresh: Record<typeof kind, object> = {
    options: { kind },
    list: { kind, list: first(draft.lists, 'list') },
    distinct: { kind, table: first(draft.tables, 'people') },
    feed: { kind, feed: first(draft.feeds, 'feed') },
    attributes: { kind, of: link?.name ?? '' },
    json: { kind, text: '[\n  { "value": "a", "label": "A" }\n]' },
  };
  put(sourceSchema.parse(fresh[kind]));
}
const kind = computed((): (typeof KINDS)[number]['value'] =>
  source.value && source.value.kind !== 'rows' ? source.value.kind : 'options',
);
const lists = computed(() => [...draft.lists.values()].map((l) => ({ value: l.key, label: l.label, note: `${l.items.length} choices` })));
const levels = computed(() => {
  const list = listed.value ? draft.lists.get(listed.value.list) : undefined;
  const n = list ? levelsOf(list) : 1;
  return [
    { value: 0, label: 'the whole tree' },
    ...Array.from({ length: n }, (_, i) => ({ value: i + 1, label: i === 0 ? 'the top level' : `level ${i + 1}` })),
  ];
});
/** Fields that offer the level above in the same list: what this one can stand under. */
const parents = computed(() => {
  const own = listed.value;
  const fields = Object.entries(draft.form!.fields).filter(
    ([k, f]) =>
      k !== props.name && own?.level && f.source?.kind === 'list' && f.source.list === own.list && f.source.level === own.level - 1,
  );
  return [{ value: '', label: 'any choice above' }, ...fields.map(([k, f]) => ({ value: k, label: `the entry’s ${f.label}` }))];
});
const under = computed(() => parents.value.find((p) => p.value && listed.value?.where === `choice.parent = ${p.value}`)?.value ?? '');

const typed = computed(() =>
  source.value?.kind === 'options'
    ? source.value.options.map((o) => (o.label === o.value ? o.value : `${o.value} = ${o.label}`)).join('\n')
    : '',
);
function setOptions(text: string): void {
  const seen = new Set<string>();
  const options = text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const [value = '', label] = line.split(/\s*=\s*(.*)/s);
      return { value, label: label?.trim() || value };
    })
    .filter((o) => !seen.has(o.value) && seen.add(o.value));
  set({ options });
}

// ---- feeds ----
const feeds = computed(() => [...draft.feeds.values()].map((f) => ({ value: f.key, label: f.label })));
const asked = computed(() => (feed.value ? draft.feeds.get(feed.value.feed) : undefined));
function chooseFeed(key: string): void {
  const chosen = draft.feeds.get(key);
  // a parameter named like a field most likely takes that field
  const params = Object.fromEntries((chosen?.params ?? []).filter((p) => draft.scope?.bindings.has(p.key)).map((p) => [p.key, p.key]));
  put(sourceSchema.parse({ kind: 'feed', feed: key, params }));
}
const paramType = (type: string) => (type === 'text' ? null : { kind: type as 'number' });
</script>

<template>
  <p v-if="field.type === 'choice' || field.type === 'choices'">
    Choices are
    <PickWord :value="kind" :options="KINDS" label="Kind of list" @pick="setKind" /><template v-if="listed"
      >: <PickWord :value="listed.level ?? 0" :options="levels" label="Level" @pick="set({ level: $event || null })" /> of
      <PickWord :value="listed.list" :options="lists" empty="choose a list" label="Option list" @pick="set({ list: $event })" /><template
        v-if="(listed.level ?? 0) > 1"
        >, under
        <PickWord
          :value="under"
          :options="parents"
          label="Under"
          @pick="set({ where: $event ? `choice.parent = ${$event}` : null })" /></template></template
    ><template v-else-if="distinct"
      >:
      <PickWord
        :value="distinct.values"
        :options="textColumns"
        empty="choose a column"
        label="Column of values"
        @pick="set({ values: $event })" />
      of <PickWord :value="distinct.table" :options="tables" label="Table" @pick="set({ table: $event, values: null, subset: null })" />,
      each once<template v-if="subsets.length > 1"
        >, from
        <PickWord
          :value="distinct.subset ?? ''"
          :options="subsets"
          label="Subset"
          @pick="set({ subset: $event || null })" /></template></template
    ><template v-else-if="feed"
      >: <PickWord :value="feed.feed" :options="feeds" empty="choose a feed" label="Feed" @pick="chooseFeed" /><template
        v-for="p in asked?.params ?? []"
        :key="`${name} ${p.key}`"
        >, {{ p.label.toLowerCase() }} is
        <FormulaWord
          :text="feed.params[p.key] ?? ''"
          :expected="paramType(p.type)"
          :label="`Parameter ${p.label}`"
          :place="`${name} params.${p.key}`"
          @change="set({ params: { ...feed.params, [p.key]: $event } })" /></template></template
    ><template v-else-if="attributes"
      >: the names of what
      <FormulaWord
        :key="`${name} of`"
        :text="attributes.of"
        :expected="null"
        label="Of which row or JSON"
        :place="`${name} of`"
        @change="set({ of: $event })"
      />
      has; what stands there is <code>{{ name.split('.').at(-1) }}.holds</code></template
    >.
  </p>
  <p v-else-if="!rows">
    Choices are rows of <PickWord :value="''" :options="tables" empty="choose a table" label="Table" @pick="chooseTable" />.
  </p>
  <p v-else>
    Choices are <template v-if="field.type === 'person'">the <b>people</b></template
    ><template v-else>rows of <PickWord :value="rows.table" :options="tables" label="Table" @pick="chooseTable" /></template
    ><template v-if="subsets.length > 1">
      (<PickWord :value="rows.subset ?? ''" :options="subsets" label="Subset" @pick="set({ subset: $event || null })" />)</template
    >, shown as
    <PickWord
      :value="rows.show"
      :options="columns"
      empty="choose a column"
      label="Shown column"
      @pick="set({ show: $event, sort: rows.sort.length ? rows.sort : $event ? [$event] : [] })"
    />
    <template v-if="rows.shownAs === null && !writing">
      (<Button link severity="secondary" @click="writing = true">or a text of several</Button>)</template
    ><template v-else
      >, written as
      <FormulaWord
        :key="`${name} shownAs`"
        :text="rows.shownAs ?? ''"
        :expected="TEXT"
        :scope="rowScope"
        :start-open="writing"
        :placeholder="`TEMPLATE(&quot;{choice.${rows.show ?? 'name'}} …&quot;)`"
        label="What a row is shown as"
        :place="`${name} shownAs`"
        no-result
        @change="(set({ shownAs: $event.trim() || null }), (writing = false))"
    /></template>
    with
    <template v-for="(c, i) in rows.beside" :key="c"
      ><template v-if="i"> and </template
      ><PickWord :value="c" :options="others(rows.beside, c)" label="Column beside" @pick="setAt('beside', i, $event)" /></template
    ><template v-if="rows.beside.length">{{ ' ' }}</template
    ><PickWord
      :value="''"
      :text="rows.beside.length ? '+' : 'nothing'"
      :options="others(rows.beside, null)"
      label="One more column beside"
      @pick="setAt('beside', rows.beside.length, $event)"
    />
    beside it, sorted by
    <template v-for="(c, i) in rows.sort" :key="c"
      ><template v-if="i">, then </template
      ><PickWord :value="c" :options="others(rows.sort, c)" label="Sort" @pick="setAt('sort', i, $event)" /></template
    ><template v-if="rows.sort.length">{{ ' ' }}</template
    ><PickWord
      :value="''"
      :text="rows.sort.length ? '+' : 'nothing'"
      :options="others(rows.sort, null)"
      label="Sort further"
      @pick="setAt('sort', rows.sort.length, $event)"
    />. Searched are
    <template v-for="(c, i) in rows.search" :key="c"
      ><template v-if="i"> and </template
      ><PickWord :value="c" :options="others(rows.search, c)" label="Searched column" @pick="setAt('search', i, $event)" /></template
    ><template v-if="rows.search.length">{{ ' ' }}</template
    ><PickWord
      :value="''"
      :text="rows.search.length ? '+' : 'the columns shown'"
      :options="others(rows.search, null)"
      label="One more searched column"
      @pick="setAt('search', rows.search.length, $event)"
    />; first stands <PickWord :value="rows.first" :options="FIRST" label="What stands first" @pick="set({ first: $event })" />.
  </p>
  <Note v-if="listed && !lists.length">There are no option lists yet. <NuxtLink to="/design/lists">Make one</NuxtLink></Note>
  <Note v-if="feed && !feeds.length">There are no feeds yet. <NuxtLink to="/design/feeds">Make one</NuxtLink></Note>
  <template v-if="source?.kind === 'options'">
    <label class="label" :for="`options-${name}`">One a line; <code>value = label</code> where they differ</label>
    <TextEdit
      :id="`options-${name}`"
      class="mono"
      :rows="4"
      :value="typed"
      placeholder="clean = Clean"
      @change="setOptions(($event.target as HTMLTextAreaElement).value)"
    />
  </template>
  <template v-if="json">
    <label class="label" :for="`json-${name}`">A list of texts, of objects with value and label, or an object</label>
    <TextEdit
      :id="`json-${name}`"
      class="mono"
      :rows="5"
      :value="json.text"
      spellcheck="false"
      @change="set({ text: ($event.target as HTMLTextAreaElement).value })"
    />
  </template>
</template>

<style scoped>
.label {
  font-weight: 400;
  font-size: 13px;
}
</style>
