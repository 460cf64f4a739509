<script setup lang="ts">
import type { FormSummary } from '~/stores/model';

/* What comes first in a workspace in which nothing is published yet, in the order of the work; what is done is ticked. */
const props = defineProps<{ forms: readonly FormSummary[] }>();
const tables = useTables();
/** tables beside People, which every workspace has */
const brought = computed(() => (tables.data.value ?? []).filter((t) => t.key !== 'people' && t.rows > 0).length > 0);
const first = computed(() => props.forms[0] ?? null);
const steps = computed(() => [
  { done: brought.value, to: '/design/tables/import', label: 'Bring in your tables', text: 'from CSV, a spreadsheet or JSON: what people will choose from. Or make one by hand.' },
  { done: first.value !== null, to: '/design/forms', label: 'Make a form', text: 'for the records you want to enter; it saves into a table of its own.' },
  { done: false, to: first.value ? `/design/forms/${first.value.key}` : '/guide/narrowing', label: 'Narrow and fill', text: 'let each choice narrow the next, and fields fill in from what was chosen. The form works while you build it.' },
  { done: false, to: first.value ? `/design/forms/${first.value.key}` : '/guide/publish', label: 'Publish', text: 'then those you invite under People enter records.' },
]); // prettier-ignore
const next = computed(() => steps.value.findIndex((s) => !s.done));
</script>

<template>
  <section v-if="!forms.some((f) => f.version)" class="first" aria-label="First steps">
    <h2>First steps</h2>
    <ol>
      <li
        v-for="(s, i) in steps"
        :key="s.label"
        :class="{ done: s.done, next: i === next }"
        :aria-current="i === next ? 'step' : undefined"
      >
        <i class="pi" :class="s.done ? 'pi-check' : i === next ? 'pi-arrow-right' : 'pi-circle'" aria-hidden="true" />
        <span
          ><NuxtLink :to="s.to"
            ><b>{{ s.label }}</b></NuxtLink
          ><span v-if="s.done" class="sr"> (done)</span>: {{ s.text }}</span
        >
      </li>
    </ol>
  </section>
</template>

<style scoped>
.first {
  margin-bottom: 28px;
  max-width: 760px;
}
ol {
  list-style: none;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 24px 1fr;
  padding: 6px 8px;
  align-items: baseline;
  border-top: 1px solid var(--line);
}
.done {
  color: var(--ink-2);
}
.next {
  background: var(--flow-wash);
}
</style>
