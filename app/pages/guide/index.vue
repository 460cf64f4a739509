<script setup lang="ts">
import { searchPages } from '~~/core/guide/pages.ts';
import { GUIDE_PAGES } from '~/components/guide/pages';
import { FUNCTIONS, GROUP_LABELS, type FunctionDeclaration, type FunctionGroup } from '~~/core/formula/functions/index.ts';

/* What one can do, page by page; and the formula language, made from the declarations of its functions. */
useHead({ title: 'Guide · Brisk Acorn' });
const route = useRoute();
const sought = ref(String(route.query.q ?? ''));
// Back finds what was looked for
watch(sought, (q) => navigateTo({ path: '/guide', query: q ? { q } : {} }, { replace: true }));
const pages = computed(() => searchPages(GUIDE_PAGES, sought.value));
const groups = computed(() => {
  const text = sought.value.trim().toUpperCase();
  const fitting = FUNCTIONS.filter((f) => !text || f.name.includes(text) || f.summary.toUpperCase().includes(text));
  return (Object.keys(GROUP_LABELS) as FunctionGroup[])
    .map((group) => ({ group, label: GROUP_LABELS[group], functions: fitting.filter((f) => f.group === group) }))
    .filter((g) => g.functions.length);
});
const NAMES = [
  ['genus', 'a field of this form, by its name'],
  ['species.genus.family', 'a column of the row a field holds, link by link, to any depth'],
  ['choice.family', 'in a narrowing, and in PICK and GATHER: the row that is looked at'],
  ['me.name, me.email, me.team', 'the person signed in; me alone is that person'],
  ['lots.grams', 'of lines: all lines’ values of a field, a list; inside a line, its own fields come first'],
  ['parent.code', 'the row this entry was opened under, where the form has one'],
  ['last.store, last(partner).store', 'my record of this form saved last; the last with the same partner'],
  ['before.quantity', 'on edit: the value as it is stored'],
  ['name.author', 'what a chosen item has besides its value'],
  ['entry.mode, entry.url.bench', '"new", "edit" or "view"; what stands in the address'],
] as const;
const OPERATORS = [
  ['+ - * / ^ %', 'arithmetic, exact in decimal: 0.1 + 0.2 is 0.3'],
  ['&', 'joins texts; empty when one side is empty'],
  ['= <> < <= > >=', 'comparisons; texts without regard to case'],
  ['AND OR NOT', 'conditions; AND and OR side by side need brackets'],
  ['x IN (a, b)', 'whether x is one of them'],
  ['x BETWEEN a AND b', 'whether x lies between, both included'],
] as const;
</script>

<template>
  <div class="page">
    <header class="row spread">
      <h1>Guide</h1>
      <InputText v-model="sought" class="find" type="search" placeholder="What do you want to do?" aria-label="Find a page or a function" />
    </header>
    <section v-if="pages.length">
      <h2>How to</h2>
      <ul class="pages">
        <li v-for="p in pages" :key="p.slug">
          <NuxtLink :to="`/guide/${p.slug}`">{{ p.title }}</NuxtLink>
        </li>
      </ul>
    </section>
    <section v-if="!sought" class="two">
      <div>
        <h2>Names in formulas</h2>
        <dl class="pairs terms">
          <template v-for="n in NAMES" :key="n[0]">
            <dt class="mono">{{ n[0] }}</dt>
            <dd>{{ n[1] }}</dd>
          </template>
        </dl>
      </div>
      <div>
        <h2>Operators</h2>
        <dl class="pairs terms">
          <template v-for="o in OPERATORS" :key="o[0]">
            <dt class="mono">{{ o[0] }}</dt>
            <dd>{{ o[1] }}</dd>
          </template>
        </dl>
      </div>
    </section>
    <section v-if="!sought">
      <h2>Empty</h2>
      <p>
        Empty is a value of every type. It is not 0, not "" and not no. Arithmetic and joining with an empty side give empty; a comparison
        with empty is never true, ask <code>ISBLANK(…)</code>; SUM, AVERAGE, COUNT and the like leave empty values out; AND and OR treat
        empty as not true.
      </p>
      <h2>Worked examples</h2>
      <WorkedExamples />
    </section>
    <section v-for="g in groups" :key="g.group">
      <h2>{{ g.label }}</h2>
      <DataTable class="functions" :value="g.functions" data-key="name" :table-props="{ 'aria-label': g.label }">
        <Column header="Function">
          <template #body="{ data: f }"
            ><span :id="f.name" class="mono"
              ><b>{{ f.name }}</b
              >{{ f.signature.slice(f.name.length) }}</span
            ></template
          >
        </Column>
        <Column header="What it gives">
          <template #body="{ data: f }"
            >{{ f.summary }}<span v-if="f.detail" class="muted">{{ ` ${f.detail}` }}</span></template
          >
        </Column>
        <Column header="For example" body-class="mono examples">
          <template #body="{ data: f }"
            ><div v-for="e in (f as FunctionDeclaration).examples.slice(0, 2)" :key="e[0]">
              {{ e[0] }} → <b>{{ e[1] }}</b>
            </div></template
          >
        </Column>
      </DataTable>
    </section>
    <Note v-if="!groups.length && !pages.length">Nothing in the guide tells of “{{ sought }}”.</Note>
  </div>
</template>

<style scoped>
.find {
  width: 240px;
}
.pages {
  columns: 3 220px;
  padding: 4px 0;
}
.pages li {
  break-inside: avoid;
  padding: 3px 0;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 32px;
}
section {
  margin-bottom: 22px;
}
h2 {
  margin-bottom: 4px;
}
.terms > * {
  padding: 5px 0;
  border-bottom: 1px solid var(--line);
}
.terms {
  gap: 0;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
}
.functions :deep(td),
.functions :deep(th) {
  width: 33.3%;
}
.functions :deep(.examples) {
  font-size: 12px;
}
@media (max-width: 800px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
