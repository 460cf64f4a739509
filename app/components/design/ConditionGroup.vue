<script setup lang="ts">
import { type SentencePart, type SimpleSentence, NEGATABLE } from '~~/core/choices/sentence.ts';
import { formula } from '~~/core/formula/formula.ts';
import type { Scope } from '~~/core/formula/scope.ts';
import * as T from '~~/core/values/typing.ts';
import {
  CONSTANT, FORMULA, columnChoices, constantIn, constantText, daysFromToday, fromToday, operatorsFor, valueWords, valuesFor, valuesTaken,
} from './conditionWords'; // prettier-ignore

/* The parts of a condition that one word joins, "and" or "or"; groups stand inside groups. */
const props = defineProps<{
  parts: readonly SentencePart[];
  any: boolean;
  scope: Scope;
  table: string | null;
  own: string;
  depth: number;
  /** outside of any form */
  alone?: boolean;
}>();
const emit = defineEmits<{ change: [parts: readonly SentencePart[]] }>();

const columns = computed(() => columnChoices(props.scope, props.table));
const typeOf = (path: string): T.Type => formula(path === '' ? 'choice' : `choice.${path}`, props.scope).type;
const columnWords = (path: string): string => columns.value.find((c) => c.value === path)?.label ?? (path === '' ? 'the row' : path);

function put(index: number, part: SentencePart | null): void {
  const next = props.parts.flatMap((p, i) => (i === index ? (part ? [part] : []) : [p]));
  if (index === props.parts.length && part) next.push(part);
  emit('change', next);
}
function fresh(column: string): SimpleSentence {
  const type = typeOf(column);
  const { operator, not } = operatorsFor(type)[0]!;
  return { kind: 'simple', column, operator, not, values: valuesTaken(operator) === 0 ? [] : [firstValue(type)] };
}
function firstValue(type: T.Type): string {
  const picked = valuesFor(type, props.scope, props.own).find(
    (v) => v.value !== FORMULA && v.value !== CONSTANT && !v.value.startsWith('entry.url'),
  );
  const of = type.kind === 'list' ? type.of : type;
  return picked?.value ?? (of.kind === 'number' ? '0' : of.kind === 'date' ? 'TODAY()' : '""');
}
function setOperator(index: number, part: SimpleSentence, key: string): void {
  const type = typeOf(part.column);
  const chosen = operatorsFor(type).find((o) => o.value === key)!;
  const taken = valuesTaken(chosen.operator);
  const one = part.values[0] ?? firstValue(type);
  const values =
    taken === 0 ? [] : taken === 1 ? [one] : taken === 2 ? [one, part.values[1] ?? one] : part.values.length ? part.values : [one];
  put(index, { ...part, operator: chosen.operator, not: chosen.not, values });
}
const operatorKey = (p: SimpleSentence): string => (p.not && NEGATABLE.has(p.operator) ? `not ${p.operator}` : p.operator);

// ---- values ----
const editing = ref<{ part: number; value: number; how: 'formula' | 'constant' } | null>(null);
const isEditing = (part: number, value: number, how: 'formula' | 'constant'): boolean =>
  editing.value?.part === part && editing.value.value === value && editing.value.how === how;
function setValue(index: number, part: SimpleSentence, at: number, value: string): void {
  if (value === FORMULA || value === CONSTANT) {
    editing.value = { part: index, value: at, how: value === FORMULA ? 'formula' : 'constant' };
    return;
  }
  editing.value = null;
  const values = part.values.map((v, i) => (i === at ? value : v));
  put(index, { ...part, values: at === part.values.length ? [...part.values, value] : values });
}
const wrong = ref('');
function setConstant(index: number, part: SimpleSentence, at: number, typed: string): void {
  const text = constantText(typeOf(part.column), typed);
  wrong.value = text === null ? `“${typed}” does not fit ${columnWords(part.column)}.` : '';
  if (text !== null) setValue(index, part, at, text);
}
function dropValue(index: number, part: SimpleSentence, at: number): void {
  put(index, { ...part, values: part.values.filter((_, i) => i !== at) });
}
const choicesOf = (part: SimpleSentence, value: string) => {
  const list = valuesFor(typeOf(part.column), props.scope, props.own);
  const type = typeOf(part.column);
  const of = type.kind === 'list' ? type.of : type;
  const options = of.kind === 'choice' ? (of.options ?? []).map((o) => ({ value: `"${o.replaceAll('"', '""')}"`, label: `“${o}”` })) : [];
  const all = [...options, ...list];
  return all.some((o) => o.value === value) ? all : [{ value, label: valueWords(value, props.scope) }, ...all];
};
const JOINS = [
  { value: 'all', label: 'all of' },
  { value: 'any', label: 'any of' },
  { value: 'none', label: 'none of' },
  { value: 'not all', label: 'not all of' },
] as const;
type Group = Extract<SentencePart, { kind: 'group' }>;
const joinOf = (g: Group): (typeof JOINS)[number]['value'] => (g.any ? (g.not ? 'none' : 'any') : g.not ? 'not all' : 'all');
const setJoin = (index: number, g: Group, value: string): void =>
  put(index, { ...g, any: value === 'any' || value === 'none', not: value === 'none' || value === 'not all' });
</script>

<template>
  <span class="parts">
    <template v-for="(p, i) in parts" :key="i">
      <template v-if="i">{{ any ? ' or ' : ' and ' }}</template>
      <span v-if="p.kind === 'formula'" class="sentence"
        ><FormulaWord
          :text="p.text"
          :expected="T.YESNO"
          :scope="scope"
          :label="`Condition ${i + 1}`"
          :alone="alone"
          no-result
          @change="put(i, $event ? { kind: 'formula', text: $event } : null)" /><IconButton
          class="drop"
          :aria-label="`Remove condition ${i + 1}`"
          icon="pi pi-times"
          @click="put(i, null)"
      /></span>
      <span v-else-if="p.kind === 'group'" class="group" :class="`d${depth % 3}`">
        <PickWord :value="joinOf(p)" :options="JOINS" label="How the group joins" @pick="setJoin(i, p, $event)" />:
        <ConditionGroup
          :parts="p.parts"
          :any="p.any"
          :scope="scope"
          :table="table"
          :own="own"
          :alone="alone"
          :depth="depth + 1"
          @change="put(i, $event.length ? { ...p, parts: $event } : null)"
        />
      </span>
      <span v-else class="sentence">
        <PickWord :value="p.column" :text="columnWords(p.column)" :options="columns" label="Column" @pick="put(i, fresh($event))" />{{
          ' '
        }}
        <PickWord :value="operatorKey(p)" :options="operatorsFor(typeOf(p.column))" label="Compared" @pick="setOperator(i, p, $event)" />
        <template v-for="(v, at) in p.values" :key="at"
          ><template v-if="at">{{ p.operator === 'between' ? ' and' : ' or' }}</template
          >{{ ' '
          }}<FormulaWord
            v-if="isEditing(i, at, 'formula')"
            :text="v"
            :expected="p.operator === 'holds' ? null : typeOf(p.column)"
            :scope="scope"
            label="Value"
            start-open
            :alone="alone"
            no-result
            @change="setValue(i, p, at, $event)" /><TypedInput
            v-else-if="isEditing(i, at, 'constant') && typeOf(p.column).kind === 'date'"
            class="constant"
            type="date"
            :value="constantIn(v) || null"
            label="Fixed value"
            @change="setConstant(i, p, at, String($event ?? ''))" /><TextEdit
            v-else-if="isEditing(i, at, 'constant')"
            class="constant"
            size="small"
            :value="constantIn(v) ?? ''"
            aria-label="Fixed value"
            autofocus
            @change="setConstant(i, p, at, ($event.target as HTMLInputElement).value)"
            @keydown.enter="($event.target as HTMLInputElement).blur()" /><template v-else
            ><PickWord
              :value="v"
              :options="choicesOf(p, v)"
              label="With"
              :text="valueWords(v, scope)"
              @pick="setValue(i, p, at, $event)" /><InputNumber
              v-if="daysFromToday(v)"
              class="days"
              size="small"
              :model-value="Number(daysFromToday(v))"
              :max-fraction-digits="0"
              :use-grouping="false"
              aria-label="Days from today"
              @update:model-value="setValue(i, p, at, fromToday(Math.trunc($event ?? 0)))" /><IconButton
              v-if="p.operator === 'in' && p.values.length > 1"
              class="drop"
              :aria-label="`Leave out ${v}`"
              icon="pi pi-times"
              @click="dropValue(i, p, at)" /></template
        ></template>
        <PickWord
          v-if="p.operator === 'in'"
          :value="''"
          text=" or…"
          :options="choicesOf(p, p.values[0] ?? '')"
          label="One more value"
          @pick="setValue(i, p, p.values.length, $event === CONSTANT || $event === FORMULA ? '&quot;&quot;' : $event)"
        />
        <IconButton
          class="drop"
          :aria-label="`Remove the condition on ${columnWords(p.column)}`"
          icon="pi pi-times"
          @click="put(i, null)"
        />
      </span>
    </template>
    <span class="add"
      >{{ ' '
      }}<PickWord
        v-if="table"
        :value="''"
        :text="depth ? '+' : parts.length ? '+ condition' : 'Add a condition'"
        :options="columns"
        label="Add a condition on"
        @pick="put(parts.length, fresh($event))"
      /><Button
        v-if="table && parts.length && depth < 3"
        link
        severity="secondary"
        :aria-label="`Add a group of conditions`"
        @click="put(parts.length, { kind: 'group', any: !any, not: false, parts: [fresh(columns[0]!.value)] })"
      >
        {{ depth ? '+ group' : '+ group' }}
      </Button></span
    >
    <span v-if="wrong" class="bad small" role="alert"> {{ wrong }}</span>
  </span>
</template>

<style scoped>
.group {
  display: block;
  margin: 2px 0 2px 10px;
  padding-left: 10px;
  border-left: 2px solid var(--act-line);
}
.d1 {
  border-left-style: dashed;
}
.add {
  display: inline-flex;
  gap: 12px;
  font-size: 13px;
  margin-left: 6px;
}
.add :deep(.p-button-link) {
  font-weight: 400;
  color: var(--ink-2);
}
.drop {
  min-height: 18px;
  padding: 0 3px;
  color: var(--ink-2);
  font-size: 10px;
  opacity: 0.5;
}
.sentence:hover .drop,
.drop:focus-visible {
  opacity: 1;
}
.constant {
  width: 170px;
  display: inline-block;
}
.days {
  width: 64px;
  margin-left: 4px;
}
.small {
  font-size: 13px;
}
</style>
