<script setup lang="ts">
import { narrowingText, sentencesOf, type SentenceOperator, type SentencePart } from '~~/core/choices/sentence.ts';
import { formula } from '~~/core/formula/formula.ts';
import { withBinding } from '~~/core/formula/scope.ts';
import * as T from '~~/core/formula/types.ts';
import type { Field } from '~~/core/form/definition.ts';
import type { Column, Table } from '~~/core/form/tables.ts';

/* A narrowing as sentences: "genus is the entry's Genus and active is yes". A view of the formula. */
const props = defineProps<{ name: string; where: string | null; table: Table | null }>();
const emit = defineEmits<{ change: [where: string | null] }>();
const draft = useTheDraft();
const whole = ref(false);

const scope = computed(() => {
  const base = draft.plan.value!.scope;
  const type: T.Type = props.table ? T.rowOf(props.table.key) : T.UNKNOWN;
  return withBinding(base, { name: 'choice', label: 'The row on offer', type, source: { kind: 'candidate' } });
});
const compiled = computed(() => formula(props.where ?? '', scope.value, T.YESNO));
const parts = computed(() => sentencesOf(compiled.value));
const broken = computed(() => compiled.value.problems.some((p) => p.severity === 'error'));

const columns = computed(() => (props.table?.columns ?? []).map((c) => ({ value: c.key, label: c.label.toLowerCase() })));
const columnOf = (key: string): Column | undefined => props.table?.columns.find((c) => c.key === key);
const typeOf = (path: string): T.Type => formula(`choice.${path}`, scope.value).type;

const OPERATORS: Readonly<Record<SentenceOperator, string>> = {
  '=': 'is', '<>': 'is not', '<': 'is less than', '<=': 'is at most', '>': 'is more than', '>=': 'is at least', isBlank: 'is empty', isNotBlank: 'is filled', isYes: 'is yes', isNo: 'is no',
}; // prettier-ignore
function operatorsFor(path: string): { value: SentenceOperator; label: string }[] {
  const { kind } = typeOf(path);
  const keys: SentenceOperator[] =
    kind === 'yesno' ? ['isYes', 'isNo', '=', 'isBlank', 'isNotBlank']
    : kind === 'row' ? ['=', '<>', 'isBlank', 'isNotBlank']
    : ['=', '<>', '<', '<=', '>', '>=', 'isBlank', 'isNotBlank']; // prettier-ignore
  return keys.map((value) => ({ value, label: OPERATORS[value] }));
}
const fieldLabel = (key: string): string => draft.form.value?.fields[key]?.label ?? key;

/** What the column could be compared with: fields of the same type, the person signed in, today, or a formula. */
function valuesFor(path: string, value: string): { value: string; label: string; note?: string }[] {
  const type = typeOf(path);
  const list: { value: string; label: string; note?: string }[] = [];
  for (const [key, binding] of draft.plan.value!.scope.bindings) {
    if (binding.source.kind === 'slot' && key !== props.name && T.comparable(type, binding.type))
      list.push({ value: key, label: `the entry’s ${binding.label}` });
    if (binding.source.kind === 'slot' && binding.type.kind === 'row') {
      for (const c of draft.plan.value!.scope.tables.get(binding.type.table)?.columns.values() ?? []) {
        if (c.key !== 'id' && T.comparable(type, c.type) && (c.type.kind !== 'text' || type.kind === 'text'))
          list.push({ value: `${key}.${c.key}`, label: `${binding.label}’s ${c.label.toLowerCase()}` });
      }
    }
  }
  if (type.kind === 'row' && type.table === 'people') list.push({ value: 'me', label: 'the person signed in' });
  if (type.kind === 'date') list.push({ value: 'TODAY()', label: 'today' });
  if (type.kind === 'text') list.push({ value: 'me.team', label: 'the team of the person signed in' });
  list.push({ value: FORMULA, label: 'something else…', note: 'formula' });
  if (!list.some((o) => o.value === value)) list.unshift({ value, label: value });
  return list;
}
const FORMULA = '\u0000';
const editing = ref<number | null>(null);

function put(index: number, part: SentencePart | null): void {
  const next = parts.value.flatMap((p, i) => (i === index ? (part ? [part] : []) : [p]));
  if (index === parts.value.length && part) next.push(part);
  emit('change', narrowingText(next));
}
function setColumn(index: number, column: string): void {
  const operator = operatorsFor(column)[0]!.value;
  const first = valuesFor(column, FORMULA).find((v) => v.value !== FORMULA)?.value ?? '""';
  put(index, { kind: 'simple', column, operator, value: operator === '=' ? first : '' });
}
function setOperator(index: number, part: Extract<SentencePart, { kind: 'simple' }>, operator: SentenceOperator): void {
  const takes = !['isBlank', 'isNotBlank', 'isYes', 'isNo'].includes(operator);
  const value = takes && part.value === '' ? (valuesFor(part.column, FORMULA).find((v) => v.value !== FORMULA)?.value ?? '0') : part.value;
  put(index, { ...part, operator, value: takes ? value : '' });
}
function setValue(index: number, part: Extract<SentencePart, { kind: 'simple' }>, value: string): void {
  if (value === FORMULA) editing.value = index;
  else put(index, { ...part, value });
}

/** Conditions that the data suggests: the list's rows link to rows another field holds. */
const suggestions = computed(() => {
  const form = draft.form.value;
  if (!form || !props.table) return [];
  const used = new Set(parts.value.map((p) => (p.kind === 'simple' ? `${p.column}=${p.value}` : '')));
  const found: { column: string; field: string; label: string }[] = [];
  for (const c of props.table.columns) {
    if (c.type !== 'link') continue;
    for (const [key, field] of Object.entries(form.fields) as [string, Field][]) {
      if (key !== props.name && field.source?.kind === 'rows' && field.source.table === c.target && !used.has(`${c.key}=${key}`)) {
        found.push({ column: c.key, field: key, label: `${c.label.toLowerCase()} is the entry’s ${field.label}` });
      }
    }
  }
  return found;
});
</script>

<template>
  <div class="conditions">
    <template v-if="whole || broken">
      <FormulaWord
        :text="where ?? ''"
        :expected="T.YESNO"
        :scope="scope"
        label="Narrowing"
        :start-open="whole && !broken"
        no-result
        @change="emit('change', $event || null)"
      />
      <button v-if="!broken" class="word light small" type="button" @click="whole = false">as sentences</button>
    </template>
    <p v-else>
      Offered <template v-if="!parts.length"><b>always</b></template
      ><template v-else>when </template>
      <template v-for="(p, i) in parts" :key="i">
        <template v-if="i"> and </template>
        <span v-if="p.kind === 'formula'"
          ><FormulaWord
            :text="p.text"
            :expected="T.YESNO"
            :scope="scope"
            :label="`Condition ${i + 1}`"
            no-result
            @change="put(i, $event ? { kind: 'formula', text: $event } : null)"
        /></span>
        <span v-else class="sentence">
          <PickWord
            :value="p.column"
            :text="columnOf(p.column)?.label.toLowerCase() ?? p.column"
            :options="columns"
            label="Column"
            @pick="setColumn(i, $event)"
          />{{ ' ' }}
          <PickWord :value="p.operator" :options="operatorsFor(p.column)" label="Compared" @pick="setOperator(i, p, $event)" />
          <template v-if="p.value"
            >{{ ' '
            }}<FormulaWord
              v-if="editing === i"
              :text="p.value"
              :expected="typeOf(p.column)"
              label="Value"
              start-open
              @change="(put(i, { ...p, value: $event }), (editing = null))" /><PickWord
              v-else
              :value="p.value"
              :options="valuesFor(p.column, p.value)"
              label="With"
              :text="draft.form.value?.fields[p.value] ? `the entry’s ${fieldLabel(p.value)}` : undefined"
              @pick="setValue(i, p, $event)"
          /></template>
          <button class="drop" type="button" :aria-label="`Remove the condition on ${p.column}`" @click="put(i, null)">
            <i class="pi pi-times" />
          </button>
        </span> </template
      >.
    </p>
    <p v-if="!whole && !broken" class="more">
      <PickWord
        v-if="table"
        :value="''"
        text="Add a condition"
        :options="columns"
        label="Add a condition on"
        @pick="setColumn(parts.length, $event)"
      />
      <button
        v-for="s in suggestions"
        :key="s.column + s.field"
        class="chip flow"
        type="button"
        @click="put(parts.length, { kind: 'simple', column: s.column, operator: '=', value: s.field })"
      >
        + {{ s.label }}
      </button>
      <button class="word light" type="button" @click="whole = true">as formula</button>
    </p>
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
.more :deep(.word) {
  font-weight: 400;
  color: var(--ink-2);
}
.chip {
  cursor: pointer;
}
.drop {
  border: 0;
  background: none;
  padding: 0 3px;
  color: var(--ink-2);
  cursor: pointer;
  font-size: 10px;
  opacity: 0.5;
}
.sentence:hover .drop,
.drop:focus-visible {
  opacity: 1;
}
</style>
