<script setup lang="ts">
import { changeField } from '~~/core/form/edit.ts';
import { type FieldSource, type RowsSource, sourceSchema } from '~~/core/form/definition.ts';
import { levelsOf } from '~~/core/form/lists.ts';

/* Where a field's choices come from, which of them are offered, and what happens as drivers change. */
const props = defineProps<{ name: string }>();
const draft = useTheDraft();
const field = computed(() => draft.form.value!.fields[props.name]!);
const source = computed(() => field.value.source);
const rows = computed(() => (source.value?.kind === 'rows' ? source.value : null));
const table = computed(() => (rows.value ? (draft.tables.value.get(rows.value.table) ?? null) : null));
const set = (change: Partial<FieldSource>): void => {
  const base = source.value;
  if (base) draft.change(changeField(draft.form.value!, props.name, { source: { ...base, ...change } as FieldSource }));
};
const tables = computed(() =>
  [...draft.tables.value.values()].map((t) => ({ value: t.key, label: t.label, note: t.rows.toLocaleString(LOCALE) })),
);
function chooseTable(key: string): void {
  const chosen = draft.tables.value.get(key);
  const shown = chosen?.shown ?? null;
  const fresh = sourceSchema.parse({ kind: 'rows', table: key, show: shown, sort: shown ? [shown] : [], waiting: rows.value?.waiting });
  draft.change(changeField(draft.form.value!, props.name, { source: fresh }));
}
const columns = computed(() => (table.value?.columns ?? []).map((c) => ({ value: c.key, label: c.label.toLowerCase() })));
const withNone = computed(() => [...columns.value, { value: '', label: 'nothing' }]);
const one = (list: readonly string[]): string => list[0] ?? '';

const offer = computed(() => draft.host.view(props.name).offer);
const counted = shallowRef<{ all: number; remaining: readonly number[] } | null>(null);
const large = computed(() => offer.value?.status === 'ready' && offer.value.rows === null);
watch([large, () => offer.value?.key, () => rows.value?.where], async () => {
  counted.value = null;
  if (large.value) counted.value = await draft.host.funnel(props.name).catch(() => null);
}, { immediate: true }); // prettier-ignore
const funnel = computed(() => {
  const o = offer.value;
  const parts = draft.host.view(props.name).field.choices?.narrowing?.parts ?? [];
  if (!o || o.status !== 'ready') return null;
  const all = counted.value?.all ?? o.all;
  if (all === null) return null;
  let before = all;
  return {
    all,
    parts: parts.map((p, i) => {
      const step = o.funnel?.[i];
      const remaining = counted.value?.remaining[i] ?? step?.remaining ?? null;
      const emptied = remaining === 0 && before > 0 && !step?.skipped;
      before = remaining ?? before;
      return { text: p.text.replaceAll('choice.', ''), remaining, skipped: step?.skipped ?? o.open.includes(i), emptied };
    }),
  };
});
const drivers = computed(() => {
  const narrowing = draft.host.view(props.name).field.choices?.narrowing;
  return (narrowing?.drivers ?? []).map((s) => draft.plan.value!.fields[s]!.definition.label);
});
const equated = computed(() => {
  const narrowing = draft.host.view(props.name).field.choices?.narrowing;
  return (narrowing?.parts ?? []).flatMap((p) => (p.equates ? [draft.plan.value!.fields[p.equates.slot]!.definition.label] : []));
});
const WAITING = [
  { value: 'none', label: 'offer nothing' },
  { value: 'all', label: 'offer all' },
  { value: 'hide', label: 'hide the field' },
] as const;
const ON_CHANGE = [
  { value: 'clearIfGone', label: 'clear the choice if it is no longer offered' },
  { value: 'clear', label: 'always clear the choice' },
  { value: 'keep', label: 'keep the choice and flag it' },
] as const;
const SINGLE = [
  { value: 'take', label: 'take it' },
  { value: 'leave', label: 'leave it to be chosen' },
] as const;
const FILL = [
  { value: 'yes', label: 'also fills' },
  { value: 'no', label: 'does not fill' },
] as const;

// ---- a field of type Choice: typed in place, an option list, or the values of a column ----
const KINDS = [
  { value: 'options', label: 'a list typed in here' },
  { value: 'list', label: 'an option list' },
  { value: 'distinct', label: 'the values of a column' },
] as const;
function setKind(kind: (typeof KINDS)[number]['value']): void {
  const list = draft.lists.value.keys().next().value ?? 'list';
  const first = draft.tables.value.keys().next().value ?? 'people';
  const fresh = kind === 'options' ? { kind } : kind === 'list' ? { kind, list } : { kind, table: first };
  draft.change(changeField(draft.form.value!, props.name, { source: sourceSchema.parse(fresh) }));
}
const listKind = computed((): (typeof KINDS)[number]['value'] =>
  source.value?.kind === 'list' || source.value?.kind === 'distinct' ? source.value.kind : 'options',
);
const distinct = computed(() => (source.value?.kind === 'distinct' ? source.value : null));
const distinctTable = computed(() => (distinct.value ? (draft.tables.value.get(distinct.value.table) ?? null) : null));
const textColumns = computed(() =>
  (distinctTable.value?.columns ?? [])
    .filter((c) => ['text', 'longtext', 'choice'].includes(c.type))
    .map((c) => ({ value: c.key, label: c.label.toLowerCase() })),
);
const listed = computed(() => (source.value?.kind === 'list' ? source.value : null));
const lists = computed(() =>
  [...draft.lists.value.values()].map((l) => ({ value: l.key, label: l.label, note: `${l.items.length} choices` })),
);
const levels = computed(() => {
  const list = listed.value ? draft.lists.value.get(listed.value.list) : undefined;
  const n = list ? levelsOf(list) : 1;
  return [
    { value: 0, label: 'the whole tree' },
    ...Array.from({ length: n }, (_, i) => ({ value: i + 1, label: i === 0 ? 'the top level' : `level ${i + 1}` })),
  ];
});
/** Fields that offer the level above in the same list: what this one can stand under. */
const parents = computed(() => {
  const own = listed.value;
  const fields = Object.entries(draft.form.value!.fields).filter(
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
  set({ options } as Partial<FieldSource>);
}
</script>

<template>
  <section>
    <h3>Choices</h3>
    <template v-if="field.type === 'choice'">
      <p>
        Choices are
        <PickWord :value="listKind" :options="KINDS" label="Kind of list" @pick="setKind" /><template v-if="listed"
          >:
          <PickWord
            :value="listed.level ?? 0"
            :options="levels"
            label="Level"
            @pick="set({ level: $event || null } as Partial<FieldSource>)" />
          of
          <PickWord
            :value="listed.list"
            :options="lists"
            empty="choose a list"
            label="Option list"
            @pick="set({ list: $event } as Partial<FieldSource>)" /><template v-if="(listed.level ?? 0) > 1"
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
            @pick="set({ values: $event } as Partial<FieldSource>)"
          />
          of
          <PickWord
            :value="distinct.table"
            :options="tables"
            label="Table"
            @pick="set({ table: $event, values: null } as Partial<FieldSource>)"
          />, each once</template
        >.
      </p>
      <p v-if="listed && !lists.length" class="note">There are no option lists yet. <NuxtLink to="/design/lists">Make one</NuxtLink></p>
      <template v-if="source?.kind === 'options'">
        <label class="label" :for="`options-${name}`">One a line; <code>value = label</code> where they differ</label>
        <textarea
          :id="`options-${name}`"
          class="in mono"
          rows="4"
          :value="typed"
          placeholder="clean = Clean"
          @change="setOptions(($event.target as HTMLTextAreaElement).value)"
        />
      </template>
    </template>
    <p v-else-if="!rows">
      Choices are rows of <PickWord :value="''" :options="tables" empty="choose a table" label="Table" @pick="chooseTable" />.
    </p>
    <p v-else>
      Choices are <template v-if="field.type === 'person'">the <b>people</b></template
      ><template v-else>rows of <PickWord :value="rows.table" :options="tables" label="Table" @pick="chooseTable" /></template>, shown as
      <PickWord
        :value="rows.show"
        :options="columns"
        empty="choose a column"
        label="Shown column"
        @pick="set({ show: $event, sort: rows.sort.length ? rows.sort : $event ? [$event] : [] } as Partial<RowsSource>)"
      />
      with
      <PickWord
        :value="one(rows.beside)"
        :options="withNone"
        label="Column beside"
        @pick="set({ beside: $event ? [$event] : [] } as Partial<RowsSource>)"
      />
      beside it, sorted by
      <PickWord
        :value="one(rows.sort)"
        :options="columns"
        empty="nothing"
        label="Sort"
        @pick="set({ sort: $event ? [$event] : [] } as Partial<RowsSource>)"
      />.
    </p>
    <template v-if="source && (rows || field.type === 'choice')">
      <ConditionList
        v-if="rows || distinct"
        :name="name"
        :where="source.where"
        :table="table ?? distinctTable"
        @change="set({ where: $event })"
      />
      <FunnelBars
        v-if="funnel && (rows || distinct)"
        class="bars"
        :source="`all rows of ${(table ?? distinctTable)?.label ?? ''}`"
        :all="funnel.all"
        :parts="funnel.parts"
      />
      <p v-else-if="offer?.status === 'waiting'" class="muted small">
        Waiting for {{ offer.waitsFor.map((k) => draft.form.value!.fields[k]?.label).join(' and ') }}: choose there to see the numbers.
      </p>
      <p v-else-if="offer?.status === 'failed'" class="bad small">{{ offer.reason }}</p>
      <p class="behave">
        <template v-if="drivers.length">
          Until {{ drivers.join(' and ') }} {{ drivers.length > 1 ? 'are' : 'is' }} chosen:
          <PickWord :value="source.waiting" :options="WAITING" label="While waiting" @pick="set({ waiting: $event })" />. When
          {{ drivers.length > 1 ? 'one of them' : drivers[0] }} changes:
          <PickWord
            :value="source.onDriverChange"
            :options="ON_CHANGE"
            label="When a driver changes"
            @pick="set({ onDriverChange: $event })"
          />.
        </template>
        When one is left: <PickWord :value="source.single" :options="SINGLE" label="The only one left" @pick="set({ single: $event })" />.
        <template v-if="equated.length">
          Choosing {{ field.label }} first
          <PickWord :value="source.fillUp ? 'yes' : 'no'" :options="FILL" label="Filling up" @pick="set({ fillUp: $event === 'yes' })" />
          {{ equated.join(' and ') }}.</template
        >
      </p>
    </template>
  </section>
</template>

<style scoped>
.bars {
  margin: 6px 0;
}
.behave {
  padding-top: 4px;
}
.small {
  font-size: 13px;
}
.label {
  font-weight: 400;
  font-size: 13px;
}
</style>
