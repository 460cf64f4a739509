<script setup lang="ts">
import { type WhyCondition, type WhyValue, why, wordsNow } from '~~/core/engine/why.ts';
import { addressOf, parseAddress } from '~~/core/engine/state.ts';
import { firstOrigin, type Origin } from '~~/core/model/origin.ts';
import { type ExplainedPart, explainWorking } from '~~/core/formula/explain.ts';
import type { Result } from '~~/core/formula/errors.ts';

/* Why a field holds, offers and is what it does. */
const props = defineProps<{ host: EntryHost; name: string }>();
defineEmits<{ close: []; go: [field: string] }>();

const told = computed(() => {
  void props.host.versions[props.name];
  const entry = props.host.entry.value;
  const { field, line } = parseAddress(props.name);
  return entry ? why(entry, field, line) : null;
});
const plan = computed(() => props.host.entry.value?.plan);
const show = (type: ExplainedPart['type'], result: Result): string =>
  plan.value ? showResult(plan.value, props.host.cache(), type, result) : '';
const fieldValue = (w: WhyValue): string => {
  const field = props.host.view(addressOf(w.field, w.line)).field;
  return show(field.type, w.value);
};
const { label } = props.host;
/** Where a name leads: the field it is of, in the same line where it has lines. */
function addressAt(slot: number): string {
  const field = plan.value!.fields[slot]!;
  return addressOf(field.key, field.group === null ? null : parseAddress(props.name).line);
}
const stepwise = ref(false);
/** A formula part by part, innermost first, each with what it comes to. */
const working = computed(() => {
  void props.host.versions[props.name];
  const entry = props.host.entry.value;
  const { field, line = null } = parseAddress(props.name);
  const formula = told.value?.value.formula && entry?.field(field).value?.formula;
  return entry && formula ? explainWorking(formula, entry.environmentOf(field, line)).slice(0, 60) : [];
});
function because(origin: Origin): string {
  const kept = origin.kind === 'stored' ? 'This is the saved value; ' : '';
  const first = firstOrigin(origin);
  const said: Record<Origin['kind'], string> = {
    none: 'nothing has filled it.',
    typed: 'it was typed.',
    chosen: 'it was chosen.',
    emptied: 'it was cleared by hand.',
    default: 'it is the default for a new entry.',
    prefill: 'it is prefilled, and follows its source until somebody types over it.',
    calculation: 'it is calculated.',
    onlyOne: 'it was the only choice left.',
    filledUp: `it was filled in from ${first.kind === 'filledUp' ? label(first.from) : ''}, which was chosen first.`,
    cleared: `its choice was cleared, because it was no longer offered when ${first.kind === 'cleared' ? first.by.map(label).join(' or ') || 'the list' : ''} changed.`,
    spread: `it was set or cleared when ${first.kind === 'spread' ? label(first.from) : ''} was changed by hand.`,
    rule: `${first.kind === 'rule' ? props.host.ruleLabel(first.rule) : ''} set or cleared it.`,
    move: `the move “${first.kind === 'move' ? props.host.moveLabel(first.move) : ''}” set or cleared it.`,
    hidden: 'the field is hidden, and hiding clears it.',
    url: 'it came with the link.',
    carried: 'it was kept from the entry saved before.',
    stored: '',
  };
  const text = kept + said[first.kind];
  return text.charAt(0).toUpperCase() + text.slice(1);
}
const lowered = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1);
const ownerWords = ({ of }: Pick<WhyCondition, 'of'>): string =>
  of.kind === 'rule' ? props.host.ruleLabel(of.id) : of.kind === 'access' ? 'who sees and fills it' : `its ${of.kind} ${of.label}`.trim();
const rows = ref<{ all: number; remaining: readonly number[] } | null>(null);
const large = computed(() => told.value?.list?.status === 'ready' && props.host.view(props.name).offer?.rows === null);
watchEffect(async () => {
  rows.value = null;
  if (large.value) rows.value = await props.host.funnel(props.name).catch(() => null);
});
const list = computed(() => {
  const l = told.value?.list;
  return l && rows.value ? { ...l, all: rows.value.all } : l;
});
const parts = computed(() => (list.value ? toldParts(props.host, props.name, list.value, rows.value?.remaining ?? null) : []));
const emptied = computed(() => parts.value.find((p) => p.emptied));
const stateWords = (c: WhyCondition): string => {
  const { field, line = null } = parseAddress(props.name);
  const entry = props.host.entry.value;
  return entry ? wordsNow(entry, c.ofForm ? null : { field, line }, c.formula, c.syntax, show) : c.text;
};
/** The row that a look-up holds: all its columns and what is related to it can be looked at from here. */
const chosenRow = computed(() => {
  const { field, value } = props.host.view(props.name);
  return field.type.kind === 'row' && typeof value === 'number' ? { table: field.type.table, id: value } : null;
});
const tableLabel = computed(() => (list.value?.table ? (plan.value?.tables.get(list.value.table)?.label ?? list.value.table) : 'the list'));
/** Its states, and what is said at it, each with the conditions for it. */
const reasons = computed(() => {
  const states = told.value?.states ?? [];
  const messages = told.value?.messages ?? [];
  return [
    ...states.map((s) => ({ head: STATE_WORDS[s.kind][s.holds ? 0 : 1], conditions: s.conditions, hides: s.kind === 'shown', of: null })),
    ...messages.map((m) => ({ head: `It says: ${m.message}`, conditions: m.conditions, hides: false, of: m.of })),
  ];
});
const STATE_WORDS = { shown: ['Shown', 'Hidden'], required: ['Required', 'Not required'], locked: ['Read-only', 'Not read-only'] } as const;
</script>

<template>
  <aside v-if="told" class="why" :aria-label="`Why ${told.value.label}`">
    <header class="row spread">
      <h2>Why {{ told.value.label }} is {{ told.value.value === null ? 'empty' : fieldValue(told.value) }}</h2>
      <IconButton aria-label="Close" icon="pi pi-times" @click="$emit('close')" />
    </header>
    <p>{{ because(told.value.origin) }}</p>
    <template v-if="told.value.formula">
      <p class="formula mono">{{ told.value.formula.text }}</p>
      <dl class="pairs names">
        <template v-for="(n, i) in told.value.formula.names" :key="i">
          <dt class="mono">
            <Button v-if="n.slot !== null" link :label="n.text" @click="$emit('go', addressAt(n.slot))" /><template v-else>{{
              n.text
            }}</template>
          </dt>
          <dd>is {{ show(n.type, n.value) }}</dd>
        </template>
      </dl>
      <div v-if="working.length > 1" class="working">
        <Button
          link
          severity="secondary"
          :aria-expanded="stepwise"
          :label="stepwise ? 'Worked out in these steps' : 'Step by step'"
          @click="stepwise = !stepwise"
        />
        <ol v-if="stepwise">
          <li v-for="(w, i) in working" :key="i">
            <span class="mono">{{ w.text }}</span> is <b>{{ show(w.type, w.value) }}</b>
          </li>
        </ol>
      </div>
    </template>
    <p v-if="told.value.otherwise !== undefined">
      Otherwise it would be <b>{{ show(host.view(name).field.type, told.value.otherwise) }}</b>.
    </p>
    <ul v-if="told.value.sources.length" class="sources">
      <li v-for="s in told.value.sources" :key="s.field">
        <Button link @click="$emit('go', addressOf(s.field, s.line))">{{ s.label }}</Button> is {{ fieldValue(s) }}:
        {{ lowered(because(s.origin)) }}
      </li>
    </ul>
    <ExpectedValue :host="host" :name="name" :because="because" @go="$emit('go', $event)" />
    <template v-if="chosenRow">
      <h3>The chosen row</h3>
      <RowPanel :id="chosenRow.id" :table="chosenRow.table" />
    </template>
    <template v-if="list">
      <h3>Its choices</h3>
      <p v-if="list.status === 'waiting'">
        It offers nothing until <b>{{ list.waitsFor.map(label).join(' and ') }}</b> {{ list.waitsFor.length > 1 ? 'are' : 'is' }} chosen.
      </p>
      <p v-else-if="list.status === 'failed'" class="bad">{{ list.reason }}</p>
      <p v-if="list.gone">The current choice is no longer offered.</p>
      <FunnelBars
        v-if="list.all !== null && list.status === 'ready'"
        :source="`all rows of ${tableLabel}`"
        :all="list.all"
        :parts="parts"
      />
      <Note v-if="emptied && list.status === 'ready'">Nothing is offered: no row is left once {{ emptied.words }}.</Note>
      <WhyNotList :host="host" :name="name" />
    </template>
    <template v-for="s in reasons" :key="s.head">
      <h3>{{ s.head }}</h3>
      <ul>
        <li v-for="(c, i) in s.conditions" :key="i" class="tested">
          <template v-if="c.text === 'TRUE'">always</template>
          <template v-else-if="c.text === 'FALSE'">never</template>
          <template v-else
            ><span :title="c.text">{{ stateWords(c) }}</span
            >: <b>{{ c.result === true ? 'true' : c.result === null ? 'not known yet' : 'not true' }}</b></template
          ><span v-if="c.of.kind !== 'field'"> (of {{ ownerWords(c) }}{{ s.hides && !c.met ? ', which hides it' : '' }})</span>
        </li>
        <li v-if="!s.conditions.length" class="tested">
          always<template v-if="s.of"> (of {{ ownerWords({ of: s.of }) }})</template>
        </li>
      </ul>
    </template>
  </aside>
</template>

<style scoped>
.why {
  display: grid;
  gap: 8px;
  align-content: start;
}
h3 {
  margin-top: 8px;
}
.formula {
  background: var(--ground-3);
  padding: 6px 10px;
  border-radius: var(--r);
  overflow-wrap: anywhere;
}
.working ol {
  margin: 0;
  padding-left: 20px;
  font-size: 13px;
}
.sources {
  display: grid;
  gap: 4px;
  border-left: 2px solid var(--act-line);
  padding-left: 10px;
}
.tested {
  font-size: 13px;
  color: var(--ink-2);
}
</style>
