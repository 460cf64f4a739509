<script setup lang="ts">
import {
  type EachSentence, type Quantifier, type Root, type SentencePart, type SimpleSentence, NEGATABLE, QUANTIFIERS, columnFormula, isFinished, valuesTaken,
} from '~~/core/choices/sentence.ts'; // prettier-ignore
import { useConditionValues } from './conditionValues';
import { ENTRY_TABLE } from '~~/core/choices/entrySentence.ts';
import { formula } from '~~/core/formula/formula.ts';
import { type Scope, withBinding } from '~~/core/formula/scope.ts';
import * as T from '~~/core/values/typing.ts';
import {
  CONSTANT, FORMULA, LINES_TABLE, QUANTIFIER_WORDS, columnAt, columnChoices, columnText, constantIn, constantText, daysFromToday, everyChoice, fromToday, operatorsFor, quantifiersFor, valueText, valuesFor,
} from './conditionChoices'; // prettier-ignore

/*
 * The parts of a condition that one word joins, "and" or "or"; groups stand inside groups. A part that was begun and not finished
 * stands here too, marked: it does not apply.
 */
const props = defineProps<{
  parts: readonly SentencePart[];
  any: boolean;
  scope: Scope;
  table: string | null;
  own: string;
  depth: number;
  /** what the columns are of, when that is not the row on offer: the one of a list */
  root?: Root;
  /** outside of any form */
  alone?: boolean;
  /** a group that was just begun asks for its first column */
  fresh?: boolean;
}>();
const emit = defineEmits<{ change: [parts: readonly SentencePart[]]; join: [any: boolean] }>();

const draft = useDraft();
const fixed = useConditionValues();
const columns = computed(() => columnChoices(props.scope, props.table));
const everyColumn = () => everyChoice(columns.value);
const typeOf = (path: string): T.Type => formula(columnFormula(path, props.root ?? 'choice'), props.scope).type;
const columnWords = (path: string): string => columnText(path, props.scope, props.table);

/** The part whose next word opens by itself, since it was just begun. */
const asking = ref<number | null>(null);
function put(index: number, part: SentencePart | null): void {
  const next = props.parts.flatMap((p, i) => (i === index ? (part ? [part] : []) : [p]));
  if (index === props.parts.length && part) next.push(part);
  emit('change', next);
}
/** Begins a condition on a column: what it is compared with is asked for next. */
function begin(index: number, column: string): void {
  if (quantifiersFor(typeOf(column)).length && props.root !== 'each') {
    asking.value = index;
    return put(index, { kind: 'each', column, of: 'any', any: false, parts: [] });
  }
  const { operator, not } = operatorsFor(typeOf(column))[0]!;
  asking.value = index;
  put(index, { kind: 'simple', column, operator, not, values: [] });
}
/** Begins a group joined by the other word, with its first part to be chosen. */
function beginGroup(): void {
  asking.value = props.parts.length;
  put(props.parts.length, { kind: 'group', any: !props.any, not: false, parts: [] });
}
function setOperator(index: number, part: SimpleSentence | EachSentence, key: string): void {
  const { column } = part;
  const of = QUANTIFIERS.find((q) => q === key);
  if (of) return setQuantifier(index, part, of);
  if (part.kind === 'each') return setOperator(index, { kind: 'simple', column, operator: 'isBlank', not: false, values: [] }, key);
  const chosen = operatorsFor(typeOf(part.column)).find((o) => o.value === key)!;
  const taken = valuesTaken(chosen.operator);
  asking.value = index;
  put(index, { ...part, operator: chosen.operator, not: chosen.not, values: taken === 'many' ? part.values : part.values.slice(0, taken) });
}
function setQuantifier(index: number, part: SimpleSentence | EachSentence, of: Quantifier): void {
  asking.value = index;
  put(index, part.kind === 'each' ? { ...part, of } : { kind: 'each', column: part.column, of, any: false, parts: [] });
}
/** What can be said of a column: how it compares; of lists of rows also for how many of them something holds. */
const saysOf = (column: string) => [...(props.root === 'each' ? [] : quantifiersFor(typeOf(column))), ...operatorsFor(typeOf(column))];
/** The names for what is asked of each of a list, and the table it is a row of. */
function eachOf(p: EachSentence): { scope: Scope; table: string | null } {
  const list = typeOf(p.column);
  const type = list.kind === 'list' ? list.of : T.UNKNOWN;
  const scope = withBinding(props.scope, { name: 'each', label: 'The one looked at', type, source: { kind: 'each', lines: null } });
  return { scope, table: type.kind === 'row' ? type.table : null };
}
const operatorKey = (p: SimpleSentence): string => (p.not && NEGATABLE.has(p.operator) ? `not ${p.operator}` : p.operator);
/** The places of a part's values, with that of the one still asked for. */
function placesOf(p: SimpleSentence): number[] {
  const taken = valuesTaken(p.operator);
  const shown = Math.max(p.values.length, taken === 'many' ? 1 : taken);
  return Array.from({ length: shown }, (_, i) => i);
}

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
  const values = at >= part.values.length ? [...part.values, value] : part.values.map((v, i) => (i === at ? value : v));
  put(index, { ...part, values });
}
const wrong = ref('');
function setConstant(index: number, part: SimpleSentence, at: number, typed: string): void {
  const type = typeOf(part.column);
  const of = type.kind === 'list' ? type.of : type;
  if (of.kind === 'row') return setRow(index, part, at, typed);
  const text = constantText(type, typed);
  wrong.value = text === null ? `“${typed}” does not fit ${columnWords(part.column)}.` : '';
  if (text !== null) setValue(index, part, at, text);
}
/** A row has no formula of its own: what it is known by is compared instead. */
function setRow(index: number, part: SimpleSentence, at: number, known: string): void {
  const of = typeOf(part.column);
  const target = of.kind === 'row' ? props.scope.tables.get(of.table) : undefined;
  if (!target?.shown) return;
  editing.value = null;
  const column = part.column === '' ? target.shown : `${part.column}.${target.shown}`;
  put(index, { ...part, column, values: [constantText(T.TEXT, known) ?? '""', ...part.values.slice(at + 1)] });
}
function dropValue(index: number, part: SimpleSentence, at: number): void {
  put(index, { ...part, values: part.values.filter((_, i) => i !== at) });
}
/** The values of the list that a column’s choices come from, where they are known. */
function optionsOf(part: SimpleSentence): { value: string; label: string }[] | null {
  const type = typeOf(part.column);
  const of = type.kind === 'list' ? type.of : type;
  return of.kind === 'choice' && of.options ? of.options.map((value) => ({ value, label: value })) : null;
}
/** The column whose values a fixed one is chosen from: of texts, and of links what their rows are known by. */
function valuesIn(part: SimpleSentence): { table: string; key: string } | null {
  const at = part.column === '' ? null : columnAt(part.column, props.scope, props.table);
  if (!at || !(T.isTextual(at.type) || at.type.kind === 'row')) return null;
  const lines = at.table.startsWith(LINES_TABLE) ? draft.form?.lines[at.table.slice(LINES_TABLE.length)] : undefined;
  if (at.table !== ENTRY_TABLE && !lines) return fixed.has(at.table) ? at : null;
  // a field’s values are those of the column it is saved in
  const column = (lines ? lines.fields[at.key] : draft.form?.fields[at.key])?.column;
  const saved = lines?.table ?? draft.form?.table;
  const table = saved === undefined ? undefined : draft.tables.get(saved);
  return column && table?.columns.some((c) => c.key === column) ? { table: table.key, key: column } : null;
}
const choosesFixed = (part: SimpleSentence): boolean => valuesIn(part) !== null || optionsOf(part) !== null;
const choicesOf = (part: SimpleSentence, value: string) => {
  const all = valuesFor(typeOf(part.column), props.scope, props.own, columnAt(part.column, props.scope, props.table));
  const list = (optionsOf(part) ?? []).map((o) => ({ value: constantText(T.TEXT, o.value) ?? o.value, label: `“${o.value}”` }));
  // the fields that are likely meant, then what the list has, then the rest
  const place = all.findIndex((c) => !c.label.startsWith('the entry’s') && !c.label.startsWith('the line’s'));
  const choices = [...all.slice(0, place), ...list, ...all.slice(place)];
  return value === '' || everyChoice(choices).some((o) => o.value === value)
    ? choices
    : [{ value, label: valueText(value, props.scope) }, ...choices];
};
/** A fixed value that the list it belongs to does not have. */
const misses = (part: SimpleSentence, value: string): boolean => {
  const list = optionsOf(part);
  const constant = list && /^\s*"/.test(value) ? constantIn(value) : null;
  return constant !== null && list !== null && !list.some((o) => o.value.toUpperCase() === constant.toUpperCase());
};

/** A fixed text that must be one of a column’s, and that column. */
function lookedUp(part: SimpleSentence, value: string | undefined): { text: string; column: { table: string; key: string } } | null {
  const column = ['=', '<>', 'in', 'holds'].includes(part.operator) && !optionsOf(part) ? valuesIn(part) : null;
  const text = column && /^\s*"/.test(value ?? '') ? constantIn(value ?? '') : null;
  return column && text !== null ? { text, column } : null;
}

// ---- groups ----
const JOINS = [
  { value: 'all', label: 'all of' },
  { value: 'any', label: 'any of' },
  { value: 'none', label: 'none of' },
  { value: 'not all', label: 'not all of' },
] as const;
const WORDS = [
  { value: 'and', label: 'and', note: 'all must hold' },
  { value: 'or', label: 'or', note: 'one is enough' },
] as const;
type Group = Extract<SentencePart, { kind: 'group' }>;
const joinOf = (g: Group): (typeof JOINS)[number]['value'] => (g.any ? (g.not ? 'none' : 'any') : g.not ? 'not all' : 'all');
const setJoin = (index: number, g: Group, value: string): void =>
  put(index, { ...g, any: value === 'any' || value === 'none', not: value === 'none' || value === 'not all' });
</script>

<template>
  <span class="parts">
    <template v-for="(p, i) in parts" :key="i">
      <template v-if="i"
        >{{ ' '
        }}<PickWord
          v-if="i === 1 && (depth === 0 || root === 'each')"
          :value="any ? 'or' : 'and'"
          :options="WORDS"
          label="How the conditions join"
          @pick="emit('join', $event === 'or')"
        /><template v-else>{{ any ? 'or' : 'and' }}</template
        >{{ ' ' }}</template
      >
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
      <span v-else-if="p.kind === 'group'" class="group" :class="[`d${depth % 3}`, { begun: !isFinished(p) }]">
        <PickWord :value="joinOf(p)" :options="JOINS" label="How the group joins" @pick="setJoin(i, p, $event)" />:
        <ConditionGroup
          :parts="p.parts"
          :any="p.any"
          :scope="scope"
          :table="table"
          :own="own"
          :alone="alone"
          :depth="depth + 1"
          :fresh="asking === i"
          @change="put(i, $event.length ? { ...p, parts: $event } : null)"
        />
        <IconButton v-if="!p.parts.length" class="drop" aria-label="Remove the group" icon="pi pi-times" @click="put(i, null)" />
      </span>
      <span v-else-if="p.kind === 'each'" class="group of-each" :class="{ begun: !isFinished(p) }">
        <PickWord
          :value="p.column"
          :text="columnWords(p.column)"
          :options="columns"
          :every="everyColumn"
          label="Column"
          @pick="begin(i, $event)"
        />,{{ ' '
        }}<PickWord
          :value="p.of"
          :text="QUANTIFIER_WORDS[p.of]"
          :options="saysOf(p.column)"
          label="Compared"
          @pick="setOperator(i, p, $event)"
        />:{{ ' '
        }}<ConditionGroup
          v-bind="eachOf(p)"
          :parts="p.parts"
          :any="p.any"
          root="each"
          own=""
          :alone="alone"
          :depth="depth + 1"
          :fresh="asking === i"
          @change="put(i, { ...p, parts: $event })"
          @join="put(i, { ...p, any: $event })"
        /><IconButton
          class="drop"
          :aria-label="`Remove the condition on ${columnWords(p.column)}`"
          icon="pi pi-times"
          @click="put(i, null)"
        />
      </span>
      <span v-else class="sentence" :class="{ begun: !isFinished(p) }">
        <PickWord
          :value="p.column"
          :text="columnWords(p.column)"
          :options="columns"
          :every="everyColumn"
          label="Column"
          @pick="begin(i, $event)"
        />{{ ' ' }}
        <PickWord :value="operatorKey(p)" :options="saysOf(p.column)" label="Compared" @pick="setOperator(i, p, $event)" />
        <template v-for="at in placesOf(p)" :key="`${at} ${operatorKey(p)}`"
          ><template v-if="at">{{ p.operator === 'between' ? ' and' : ' or' }}</template
          >{{ ' '
          }}<FormulaWord
            v-if="isEditing(i, at, 'formula')"
            :text="p.values[at] ?? ''"
            :expected="p.operator === 'holds' ? null : typeOf(p.column)"
            :scope="scope"
            label="Value"
            start-open
            :alone="alone"
            no-result
            @change="setValue(i, p, at, $event)" /><FixedValue
            v-else-if="isEditing(i, at, 'constant') && choosesFixed(p)"
            :value="constantIn(p.values[at] ?? '') ?? ''"
            :column="valuesIn(p)"
            :options="optionsOf(p)"
            :label="`Fixed value of ${columnWords(p.column)}`"
            @take="setConstant(i, p, at, $event)"
            @cancel="editing = null" /><TypedInput
            v-else-if="isEditing(i, at, 'constant') && typeOf(p.column).kind === 'date'"
            class="constant"
            type="date"
            :value="constantIn(p.values[at] ?? '') || null"
            label="Fixed value"
            @change="setConstant(i, p, at, String($event ?? ''))" /><TextEdit
            v-else-if="isEditing(i, at, 'constant')"
            class="constant"
            size="small"
            :value="constantIn(p.values[at] ?? '') ?? ''"
            aria-label="Fixed value"
            takes-focus
            @change="setConstant(i, p, at, ($event.target as HTMLInputElement).value)"
            @keydown.enter="($event.target as HTMLInputElement).blur()" /><template v-else
            ><PickWord
              :value="p.values[at] ?? ''"
              :options="choicesOf(p, p.values[at] ?? '')"
              :every="() => everyChoice(choicesOf(p, p.values[at] ?? ''))"
              label="With"
              :asks="p.values[at] === undefined"
              :start-open="asking === i && p.values[at] === undefined"
              :text="p.values[at] === undefined ? 'choose what' : valueText(p.values[at], scope)"
              @pick="setValue(i, p, at, $event)" /><span
              v-if="p.values[at] !== undefined && misses(p, p.values[at])"
              class="bad small"
              role="note"
            >
              (not in the list)</span
            ><FixedMark v-else-if="lookedUp(p, p.values[at])" v-bind="lookedUp(p, p.values[at])!" /><InputNumber
              v-if="p.values[at] !== undefined && daysFromToday(p.values[at])"
              class="days"
              size="small"
              :model-value="Number(daysFromToday(p.values[at]))"
              :max-fraction-digits="0"
              :use-grouping="false"
              aria-label="Days from today"
              @update:model-value="setValue(i, p, at, fromToday(Math.trunc($event ?? 0)))" /><IconButton
              v-if="p.operator === 'in' && p.values.length > 1"
              class="drop"
              :aria-label="`Leave out ${valueText(p.values[at] ?? '', scope)}`"
              icon="pi pi-times"
              @click="dropValue(i, p, at)" /></template
        ></template>
        <PickWord
          v-if="p.operator === 'in' && p.values.length && !isEditing(i, p.values.length, 'constant')"
          :value="''"
          text=" or…"
          :options="choicesOf(p, p.values[0] ?? '')"
          label="One more value"
          @pick="setValue(i, p, p.values.length, $event)"
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
        :text="depth && !parts.length ? 'choose a column' : depth ? '+' : parts.length ? '+ condition' : 'Add a condition'"
        :asks="depth > 0 && !parts.length"
        :start-open="fresh && !parts.length"
        :options="columns"
        :every="everyColumn"
        label="Add a condition on"
        @pick="begin(parts.length, $event)"
      /><Button
        v-if="table && parts.length && depth < 3"
        link
        severity="secondary"
        aria-label="Add a group of conditions"
        @click="beginGroup()"
      >
        + group
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
.begun {
  outline: 1px dashed var(--flow);
  outline-offset: 2px;
  border-radius: 2px;
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
  min-width: 24px;
  min-height: 24px;
  padding: 0;
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
