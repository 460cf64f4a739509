<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core';
import type { Form } from '~~/core/form/definition.ts';
import { fieldOrder } from '~~/core/form/definition.ts';
import type { Column } from '~~/core/form/tables.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

const route = useRoute();
const key = String(route.params.form);
interface Page {
  readonly form: Form;
  readonly version: number;
  readonly columns: readonly Column[];
  readonly rows: readonly { readonly row: Row; readonly changedAt: string | null }[];
  readonly total: number;
  readonly linked: Readonly<Record<string, Readonly<Record<number, string>>>>;
}
const LIMIT = 50;
const page = shallowRef<Page | null>(null);
const failed = ref<{ code: string; message: string } | null>(null);
const search = ref('');
const sort = ref<{ column: string | null; descending: boolean }>({ column: null, descending: true });
const offset = ref(0);

let asked = 0;
async function load(): Promise<void> {
  const mine = ++asked;
  try {
    const answer = await api<Page>(`forms/${key}/records`, {
      query: {
        search: search.value,
        sort: sort.value.column ?? undefined,
        descending: sort.value.descending ? '1' : '0',
        offset: offset.value,
        limit: LIMIT,
      },
    });
    if (mine === asked) page.value = answer;
    failed.value = null;
  } catch (e) {
    failed.value = { code: e instanceof ApiError ? e.code : 'failed', message: messageOf(e) };
  }
}
await load();
watch([sort, offset], load, { deep: true });
const searchSoon = useDebounceFn(() => {
  offset.value = 0;
  void load();
}, 200);

/** The first fields of the form that are saved, in its order: as many as a line can hold. */
const shown = computed(() => {
  const p = page.value;
  if (!p) return [];
  return fieldOrder(p.form)
    .map((k) => ({ key: k, field: p.form.fields[k]!, column: p.columns.find((c) => c.key === p.form.fields[k]?.column) }))
    .filter((f) => f.column && f.column.type !== 'longtext')
    .slice(0, 8);
});
function text(f: (typeof shown.value)[number], row: Row): string {
  const value: Datum = row[f.column!.key] ?? null;
  if (value === null) return '';
  const { source } = f.field;
  if (source?.kind === 'options') return source.options.find((o) => o.value === value)?.label ?? String(value);
  const target = f.column!.type === 'person' ? 'people' : f.column!.target;
  if (target && typeof value === 'number') return page.value?.linked[target]?.[value] ?? `row ${value}`;
  return showTyped(undefined as never, undefined as never, { kind: f.column!.type as 'text' }, value, f.field.decimals);
}
function sortBy(column: string): void {
  sort.value = { column, descending: sort.value.column === column ? !sort.value.descending : false };
}
useHead({ title: computed(() => `${page.value?.form.label ?? 'Records'} · Brisk Acorn`) });
</script>

<template>
  <div class="page wide">
    <Teleport to="#bar-place"
      ><span class="muted">Entries ›</span> <b>{{ page?.form.label ?? key }}</b></Teleport
    >
    <p v-if="failed" class="note" role="alert">
      {{ failed.message }} <NuxtLink v-if="failed.code === 'notPublished'" :to="`/design/forms/${key}`">Open it in the Design area</NuxtLink
      ><button v-else class="word" type="button" @click="load">Try again</button>
    </p>
    <template v-else-if="page">
      <header class="row spread">
        <h1>{{ page.form.label }}</h1>
        <div class="row">
          <input
            v-model="search"
            class="in"
            type="search"
            placeholder="Search the records"
            aria-label="Search the records"
            @input="searchSoon"
          />
          <NuxtLink class="btn act" :to="`/entry/${key}/new`"><i class="pi pi-plus" aria-hidden="true" /> New entry</NuxtLink>
        </div>
      </header>
      <p v-if="!page.rows.length" class="note">
        {{ search ? `No record holds “${search}”.` : 'No records yet. The first is a new entry away.' }}
      </p>
      <div v-else class="scroll">
        <table class="plainTable">
          <thead>
            <tr>
              <th class="num"><button class="word light" type="button" @click="sortBy('id')">Nr</button></th>
              <th
                v-for="f in shown"
                :key="f.key"
                :class="{ num: f.column?.type === 'number' }"
                :aria-sort="sort.column === f.column?.key ? (sort.descending ? 'descending' : 'ascending') : undefined"
              >
                <button class="word light" type="button" @click="sortBy(f.column!.key)">
                  {{ f.field.label }}{{ sort.column === f.column?.key ? (sort.descending ? ' ↓' : ' ↑') : '' }}
                </button>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in page.rows" :key="r.row.id" @dblclick="navigateTo(`/entry/${key}/${r.row.id}`)">
              <td class="num">
                <NuxtLink :to="`/entry/${key}/${r.row.id}`">{{ r.row.id }}</NuxtLink>
              </td>
              <td v-for="f in shown" :key="f.key" :class="{ num: f.column?.type === 'number' }">{{ text(f, r.row) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <footer class="row">
        <span class="muted">{{
          page.total ? `${offset + 1}–${offset + page.rows.length} of ${page.total.toLocaleString(LOCALE)}` : ''
        }}</span>
        <button class="btn small" type="button" :disabled="offset === 0" @click="offset = Math.max(0, offset - LIMIT)">Before</button>
        <button class="btn small" type="button" :disabled="offset + LIMIT >= page.total" @click="offset += LIMIT">Next</button>
      </footer>
    </template>
  </div>
</template>

<style scoped>
.wide {
  max-width: none;
}
header .in {
  width: 240px;
}
.scroll {
  overflow-x: auto;
}
td {
  white-space: nowrap;
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
}
footer {
  padding-top: 12px;
}
</style>
