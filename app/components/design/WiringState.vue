<script setup lang="ts">
import { fieldAt } from '~~/core/form/definition.ts';
import { changeField } from '~~/core/form/edit.ts';
import type { Field } from '~~/core/form/definition.ts';
import { YESNO } from '~~/core/values/typing.ts';

/* When a field is shown, required, locked. */
const props = defineProps<{ name: string }>();
const draft = useDraft();
const field = computed(() => fieldAt(draft.form!, props.name)!);
type Part = 'shown' | 'required' | 'locked';
const PARTS: readonly { part: Part; word: string; usual: 'always' | 'never' }[] = [
  { part: 'shown', word: 'Shown', usual: 'always' },
  { part: 'required', word: 'Required', usual: 'never' },
  { part: 'locked', word: 'Read-only', usual: 'never' },
];
const WHEN = [
  { value: 'always', label: 'always' },
  { value: 'never', label: 'never' },
  { value: 'when', label: 'when…' },
] as const;
type When = (typeof WHEN)[number]['value'];
const opened = ref<Part | null>(null);
function whenOf(part: Part, usual: When): When {
  const text = field.value[part];
  if (opened.value === part) return 'when';
  if (text === null) return usual;
  const plain = text.trim().toUpperCase();
  return plain === 'TRUE' ? 'always' : plain === 'FALSE' ? 'never' : 'when';
}
const set = (change: Partial<Field>): void => draft.change(changeField(draft.form!, props.name, change));
function pick(part: Part, usual: When, when: When): void {
  opened.value = when === 'when' ? part : null;
  if (when !== 'when') set({ [part]: when === usual ? null : when === 'always' ? 'TRUE' : 'FALSE' });
}
const HIDDEN = [
  { value: 'keep', label: 'keeps' },
  { value: 'clear', label: 'clears' },
] as const;
</script>

<template>
  <p>
    <template v-for="p in PARTS" :key="p.part">
      {{ p.word }}
      <PickWord
        :value="whenOf(p.part, p.usual)"
        :options="WHEN"
        :label="p.word"
        :text="whenOf(p.part, p.usual) === 'when' ? 'when' : undefined"
        @pick="pick(p.part, p.usual, $event)"
      /><template v-if="whenOf(p.part, p.usual) === 'when'"
        >{{ ' '
        }}<FormulaWord
          :key="`${name} ${p.part}`"
          :text="field[p.part] ?? ''"
          :expected="YESNO"
          :label="`${p.word} when`"
          :place="`${name} ${p.part}`"
          :start-open="opened === p.part"
          @change="(set({ [p.part]: $event || null }), (opened = null))" /></template
      >.{{ ' ' }}
    </template>
    <template v-if="field.shown">
      When hidden, it <PickWord :value="field.hiddenValue" :options="HIDDEN" label="When hidden" @pick="set({ hiddenValue: $event })" /> its
      value.</template
    >
  </p>
</template>
