<script setup lang="ts" generic="H extends string">
import { YESNO } from '~~/core/values/typing.ts';

/* When a field, lines, a section or a page are shown, required, read-only: both branches in one sentence each. */
interface States {
  readonly shown: string | null;
  readonly required: string | null;
  readonly locked: string | null;
  readonly hiddenValue: H;
}
const props = defineProps<{
  states: States;
  /** where the formulas stand, as `placeKey` has it */
  place: string;
  /** what hiding does to values */
  hidden: readonly { value: H; label: string }[];
  /** what is said of each: lines are required otherwise than fields */
  words?: Partial<Record<Part, string>>;
}>();
const emit = defineEmits<{ change: [change: Partial<States>] }>();
type Part = 'shown' | 'required' | 'locked';
const PARTS: readonly { part: Part; word: string; usual: 'always' | 'never'; otherwise: string }[] = [
  { part: 'shown', word: 'Shown', usual: 'always', otherwise: 'hidden' },
  { part: 'required', word: 'Required', usual: 'never', otherwise: 'optional' },
  { part: 'locked', word: 'Read-only', usual: 'never', otherwise: 'it can be changed' },
];
const WHEN = [
  { value: 'always', label: 'always' },
  { value: 'never', label: 'never' },
  { value: 'when', label: 'when…' },
] as const;
type When = (typeof WHEN)[number]['value'];
const opened = ref<Part | null>(null);
watch(() => props.place, () => (opened.value = null)); // prettier-ignore
function whenOf(part: Part, usual: When): When {
  const text = props.states[part];
  if (opened.value === part) return 'when';
  if (text === null) return usual;
  const plain = text.trim().toUpperCase();
  return plain === 'TRUE' ? 'always' : plain === 'FALSE' ? 'never' : 'when';
}
function pick(part: Part, usual: When, when: When): void {
  opened.value = when === 'when' ? part : null;
  if (when !== 'when') emit('change', { [part]: when === usual ? null : when === 'always' ? 'TRUE' : 'FALSE' } as Partial<States>);
}
const isConditional = (p: (typeof PARTS)[number]): boolean => props.states[p.part] !== null && whenOf(p.part, p.usual) === 'when';
/** The branches change places: shown when … becomes hidden when …. */
function swap(part: Part): void {
  const text = props.states[part]?.trim() ?? '';
  const inner = /^NOT\((.*)\)$/is.exec(text)?.[1];
  // the bracket that closes the first one must be the last
  const whole = inner !== undefined && balanced(inner);
  emit('change', { [part]: whole ? inner : `NOT(${text})` } as Partial<States>);
}
function balanced(text: string): boolean {
  let depth = 0;
  for (const c of text.replace(/"(?:[^"]|"")*"/g, '')) {
    depth += c === '(' ? 1 : c === ')' ? -1 : 0;
    if (depth < 0) return false;
  }
  return depth === 0;
}
</script>

<template>
  <p class="states">
    <span v-for="p in PARTS" :key="p.part">
      {{ words?.[p.part] ?? p.word }}
      <PickWord
        :value="whenOf(p.part, p.usual)"
        :options="WHEN"
        :label="p.word"
        :text="whenOf(p.part, p.usual) === 'when' ? 'when' : undefined"
        @pick="pick(p.part, p.usual, $event)"
      /><template v-if="whenOf(p.part, p.usual) === 'when'"
        >{{ ' '
        }}<FormulaWord
          :key="`${place} ${p.part} ${states[p.part]}`"
          :text="states[p.part] ?? ''"
          :expected="YESNO"
          :label="`${p.word} when`"
          :place="`${place} ${p.part}`"
          :start-open="opened === p.part"
          @change="(emit('change', { [p.part]: $event || null } as Partial<States>), (opened = null))" /></template
      ><template v-if="isConditional(p)">, otherwise {{ p.otherwise }}</template
      ><template v-if="p.part === 'shown' && (isConditional(p) || whenOf(p.part, p.usual) === 'never')"
        >{{ ' and '
        }}<PickWord
          :value="states.hiddenValue"
          :options="hidden"
          label="When hidden"
          @pick="emit('change', { hiddenValue: $event } as Partial<States>)" /></template
      >.<template v-if="isConditional(p)"
        >{{ ' '
        }}<Button link severity="secondary" :aria-label="`${p.word}: exchange when and otherwise`" @click="swap(p.part)"
          >swap</Button
        ></template
      >
      {{ ' ' }}
    </span>
  </p>
</template>

<style scoped>
.states {
  line-height: 1.6;
}
</style>
