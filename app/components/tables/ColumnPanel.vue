<script setup lang="ts">
import {
  COLUMN_TYPES,
  COLUMN_TYPE_LABELS,
  type Column,
  type ColumnType,
  keyFromLabel,
  keyProblem,
  namesTable,
} from '~~/core/model/tables.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { TableSummary } from '~/stores/model';

/* The columns of a table: relabelled, given anchange type after a look at what would not convert, deleted, added. */
/** `reload` is a function and no event: an event of a dialog closed while it saves would be lost. */
const props = defineProps<{ table: TableSummary; tables: readonly TableSummary[]; reload: () => Promise<void> }>();
const label = ref('');
const type = ref<ColumnType>('text');
const target = ref<string | null>(null);
const problem = ref('');
const key = computed(() => keyFromLabel(label.value || 'column', props.table.columns.map((c) => c.key))); // prettier-ignore
const tableLabel = (k: string | null): string => props.tables.find((t) => t.key === k)?.label ?? '';
async function attempt(work: () => Promise<unknown>): Promise<boolean> {
  problem.value = '';
  try {
    await work();
    await props.reload();
    return true;
  } catch (e) {
    problem.value = messageOf(e);
    return false;
  }
}
const place = (column: string) => ({ key: props.table.key, column });
const rename = (column: string, text: string): Promise<boolean> => attempt(() => api.tables.relabelColumn(place(column), { label: text }));
const NOTE = 'So are the forms that are published, and what was noted of its records.';
const nameProblem = (own: string, to: string): string | null =>
  keyProblem(to) ?? (to !== own && props.table.columns.some((c) => c.key === to) ? `There is a column “${to}” already.` : null);
async function renameColumn(column: string, name: string): Promise<void> {
  await api.tables.renameColumn(place(column), { name });
  await props.reload();
}
async function add(): Promise<void> {
  const body = { key: key.value, label: label.value.trim(), type: type.value, target: namesTable(type.value) ? target.value : null };
  if (await attempt(() => api.tables.addColumn({ key: props.table.key }, body))) label.value = '';
}

// ---- anchange type: looked at before it is done ----
type Preview = Answer<typeof contract.tables.retypeColumn>;
const changing = ref<string | null>(null);
const to = reactive<{ type: ColumnType; target: string | null; decimals: number | null }>({ type: 'text', target: null, decimals: null });
const preview = shallowRef<Preview | null>(null);
const looking = ref(false);
let asked = 0;
function startChange(c: Column): void {
  changing.value = c.key;
  Object.assign(to, { type: c.type, target: c.target, decimals: c.decimals });
  preview.value = null;
  deleting.value = null;
}
async function look(): Promise<void> {
  if (namesTable(to.type) && !to.target) return;
  looking.value = true;
  problem.value = '';
  // an answer about anchange type, that comes late, is no answer to what is asked now
  const mine = ++asked;
  try {
    const came = await api.tables.retypeColumn(place(changing.value!), { ...to, preview: true });
    if (mine === asked) preview.value = came;
  } catch (e) {
    if (mine === asked) problem.value = messageOf(e);
  } finally {
    if (mine === asked) looking.value = false;
  }
}
watch(to, () => {
  asked++;
  looking.value = false;
  preview.value = null;
  if (changing.value) void look();
});
async function change(): Promise<void> {
  const mayLose = (preview.value?.lost ?? 0) > 0;
  if (await attempt(() => api.tables.retypeColumn(place(changing.value!), { ...to, preview: false, mayLose }))) changing.value = null;
}
const deleting = ref<string | null>(null);
async function remove(): Promise<void> {
  if (await attempt(() => api.tables.removeColumn(place(deleting.value!)))) deleting.value = null;
}
const TYPES = COLUMN_TYPES.map((value) => ({ value, label: COLUMN_TYPE_LABELS[value] }));
const targets = computed(() => props.tables.map((t) => ({ value: t.key as string | null, label: t.label })));
/** the column that is being changed or deleted shows more below its line */
const opened = computed(() => {
  const key = changing.value ?? deleting.value;
  return key === null ? {} : { [key]: true };
});
const n = (x: number): string => x.toLocaleString(LOCALE);
</script>

<template>
  <DataTable :value="[...table.columns]" data-key="key" size="small" :expanded-rows="opened">
    <Column v-memo="[]" header="Label">
      <template #body="{ data: c }"
        ><TextEdit
          size="small"
          :value="c.label"
          :aria-label="`Label of ${c.key}`"
          @change="rename(c.key, ($event.target as HTMLInputElement).value)"
      /></template>
    </Column>
    <Column v-memo="[]" header="Name in formulas">
      <template #body="{ data: c }"
        ><NameWord
          :name="c.key"
          :of="c.label"
          :note="NOTE"
          :problem="(to) => nameProblem(c.key, to)"
          :rename="(to) => renameColumn(c.key, to)"
      /></template>
    </Column>
    <Column v-memo="[]" header="Type">
      <template #body="{ data: c }"
        >{{ COLUMN_TYPE_LABELS[c.type as ColumnType]
        }}{{ namesTable(c.type) ? ` of ${tableLabel(c.target)}` : c.decimals !== null ? `, ${c.decimals} decimals` : '' }}</template
      >
    </Column>
    <Column v-memo="[]" class="acts">
      <template #header><span class="sr">Changes</span></template>
      <template #body="{ data: c }">
        <Button link severity="secondary" label="change type" :aria-label="`Anchange type for ${c.label}`" @click="startChange(c)" />
        <Button
          link
          severity="secondary"
          label="delete"
          :aria-label="`Delete ${c.label}`"
          @click="((deleting = c.key), (changing = null))"
        />
      </template>
    </Column>
    <template #expansion="{ data: c }">
      <div v-if="changing === c.key" class="change">
        <div class="row">
          <PickOne v-model="to.type" :label="`New type of ${c.label}`" :options="TYPES" />
          <PickOne v-if="namesTable(to.type)" v-model="to.target" label="Rows of" placeholder="choose a table" :options="targets" />
          <label v-if="to.type === 'number'" class="row"
            >decimals <InputNumber v-model="to.decimals" class="few" :min="0" :max="15" :max-fraction-digits="0"
          /></label>
          <Button
            size="small"
            :disabled="!preview || looking"
            :label="preview?.lost ? `Change; ${n(preview.lost)} become empty` : 'Change'"
            @click="change"
          />
          <Button text severity="secondary" size="small" label="Cancel" @click="changing = null" />
        </div>
        <p v-if="looking" class="muted">Checking the values…</p>
        <p v-else-if="preview" role="status">
          {{ n(preview.filled) }} of {{ n(preview.rows) }} rows have a value; <b>{{ n(preview.filled - preview.lost) }}</b> convert<template
            v-if="preview.lost"
            >, <b class="bad">{{ n(preview.lost) }} do not</b> and would become empty:</template
          ><template v-else>.</template>
        </p>
        <ul v-if="preview?.examples.length" class="lost">
          <li v-for="e in preview.examples" :key="e.text">
            {{ e.text }} <span class="muted">({{ n(e.count) }}) {{ e.message }}</span>
          </li>
        </ul>
        <p v-for="u in preview?.uses ?? []" :key="u.label + u.field" class="muted">{{ u.label }}: {{ u.field }} {{ u.how }}.</p>
      </div>
      <div v-else-if="deleting === c.key" class="change">
        <p>{{ c.label }} and what stands in it in {{ n(table.rows) }} rows will be gone. This cannot be undone.</p>
        <div class="row">
          <Button severity="danger" size="small" label="Delete the column" @click="remove" />
          <Button text severity="secondary" size="small" label="Keep it" @click="deleting = null" />
        </div>
      </div>
    </template>
  </DataTable>
  <Note v-if="problem" kind="bad">{{ problem }}</Note>
  <form class="adder" @submit.prevent="add">
    <label><span class="label">New column</span><InputText v-model="label" placeholder="Label" /></label>
    <div><span class="label" aria-hidden="true">Holds</span><PickOne v-model="type" label="Holds" :options="TYPES" /></div>
    <div v-if="namesTable(type)">
      <span class="label" aria-hidden="true">Rows of</span
      ><PickOne v-model="target" label="Rows of" placeholder="choose a table" :options="targets" />
    </div>
    <Button type="submit" label="Add" :disabled="!label.trim() || (namesTable(type) && !target)" />
  </form>
  <p v-if="label.trim()" class="muted">
    It will be <code>{{ key }}</code> in formulas. The rows that exist have it empty.
  </p>
</template>

<style scoped>
.adder {
  display: flex;
  gap: 12px;
  align-items: end;
  padding: 14px 0 6px;
}
:deep(.acts) {
  white-space: nowrap;
  font-size: 13px;
}
:deep(.acts) .p-button {
  margin-right: 10px;
}
.change {
  display: grid;
  gap: 6px;
  padding: 8px 10px;
  background: var(--ground-2);
}
.few :deep(input) {
  width: 64px;
}
.lost {
  font-size: 13px;
  max-height: 140px;
  overflow: auto;
}
</style>
