<script setup lang="ts">
import { COLUMN_TYPES, COLUMN_TYPE_LABELS, type Column, type ColumnType, keyFromLabel } from '~~/core/form/tables.ts';
import type { TableSummary } from '~/composables/useTables';

/* The columns of a table: relabelled, given another type after a look at what would not convert, deleted, added. */
/** `reload` is a function and no event: an event of a dialog closed while it saves would be lost. */
const props = defineProps<{ table: TableSummary; tables: readonly TableSummary[]; reload: () => Promise<void> }>();
const label = ref('');
const type = ref<ColumnType>('text');
const target = ref<string | null>(null);
const problem = ref('');
const links = (t: ColumnType): boolean => t === 'link' || t === 'links';
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
const path = (column: string): string => `tables/${props.table.key}/columns/${column}`;
const rename = (column: string, text: string): Promise<boolean> =>
  attempt(() => api(path(column), { method: 'PATCH', body: { label: text } }));
async function add(): Promise<void> {
  const body = { key: key.value, label: label.value.trim(), type: type.value, target: links(type.value) ? target.value : null };
  if (await attempt(() => api(`tables/${props.table.key}/columns`, { body }))) label.value = '';
}

// ---- another type: looked at before it is done ----
interface Preview {
  readonly rows: number;
  readonly filled: number;
  readonly changed: number;
  readonly lost: number;
  readonly examples: readonly { readonly text: string; readonly message: string; readonly count: number }[];
  readonly uses: readonly { readonly label: string; readonly field: string; readonly how: string }[];
}
const changing = ref<string | null>(null);
const to = reactive<{ type: ColumnType; target: string | null; decimals: number | null }>({ type: 'text', target: null, decimals: null });
const preview = shallowRef<Preview | null>(null);
const looking = ref(false);
function startChange(c: Column): void {
  changing.value = c.key;
  Object.assign(to, { type: c.type, target: c.target, decimals: c.decimals });
  preview.value = null;
  deleting.value = null;
}
async function look(): Promise<void> {
  if (links(to.type) && !to.target) return;
  looking.value = true;
  problem.value = '';
  try {
    preview.value = await api<Preview>(`${path(changing.value!)}/type`, { body: { ...to, preview: true } });
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    looking.value = false;
  }
}
watch(to, () => {
  preview.value = null;
  if (changing.value) void look();
});
async function change(): Promise<void> {
  const mayLose = (preview.value?.lost ?? 0) > 0;
  if (await attempt(() => api(`${path(changing.value!)}/type`, { body: { ...to, preview: false, mayLose } }))) changing.value = null;
}
const deleting = ref<string | null>(null);
async function remove(): Promise<void> {
  if (await attempt(() => api(path(deleting.value!), { method: 'DELETE' }))) deleting.value = null;
}
const n = (x: number): string => x.toLocaleString(LOCALE);
</script>

<template>
  <table class="plainTable">
    <thead>
      <tr>
        <th>Label</th>
        <th>Name in formulas</th>
        <th>Holds</th>
        <th><span class="sr">Changes</span></th>
      </tr>
    </thead>
    <tbody>
      <template v-for="c in table.columns" :key="c.key">
        <tr>
          <td>
            <TextEdit
              class="in"
              :value="c.label"
              :aria-label="`Label of ${c.key}`"
              @change="rename(c.key, ($event.target as HTMLInputElement).value)"
            />
          </td>
          <td>
            <code>{{ c.key }}</code>
          </td>
          <td>
            {{ COLUMN_TYPE_LABELS[c.type]
            }}{{ links(c.type) ? ` of ${tableLabel(c.target)}` : c.decimals !== null ? `, ${c.decimals} decimals` : '' }}
          </td>
          <td class="acts">
            <button class="word light" type="button" :aria-label="`Another type for ${c.label}`" @click="startChange(c)">other type</button>
            <button class="word light" type="button" :aria-label="`Delete ${c.label}`" @click="((deleting = c.key), (changing = null))">
              delete
            </button>
          </td>
        </tr>
        <tr v-if="changing === c.key">
          <td colspan="4" class="change">
            <div class="row">
              <select v-model="to.type" class="in" :aria-label="`New type of ${c.label}`">
                <option v-for="t in COLUMN_TYPES" :key="t" :value="t">{{ COLUMN_TYPE_LABELS[t] }}</option>
              </select>
              <select v-if="links(to.type)" v-model="to.target" class="in" aria-label="Rows of">
                <option :value="null">choose a table</option>
                <option v-for="t in tables" :key="t.key" :value="t.key">{{ t.label }}</option>
              </select>
              <label v-if="to.type === 'number'" class="row"
                >decimals <input v-model.number="to.decimals" class="in few" type="number" min="0" max="15"
              /></label>
              <button class="btn act small" type="button" :disabled="!preview || looking" @click="change">
                {{ preview?.lost ? `Change; ${n(preview.lost)} become empty` : 'Change' }}
              </button>
              <button class="btn plain small" type="button" @click="changing = null">Cancel</button>
            </div>
            <p v-if="looking" class="muted">Looking at the values…</p>
            <p v-else-if="preview" role="status">
              {{ n(preview.filled) }} of {{ n(preview.rows) }} rows have a value;
              <b>{{ n(preview.filled - preview.lost) }}</b> convert<template v-if="preview.lost"
                >, <b class="bad">{{ n(preview.lost) }} do not</b> and would become empty:</template
              ><template v-else>.</template>
            </p>
            <ul v-if="preview?.examples.length" class="lost">
              <li v-for="e in preview.examples" :key="e.text">
                {{ e.text }} <span class="muted">({{ n(e.count) }}) {{ e.message }}</span>
              </li>
            </ul>
            <p v-for="u in preview?.uses ?? []" :key="u.label + u.field" class="muted">{{ u.label }}: {{ u.field }} {{ u.how }}.</p>
          </td>
        </tr>
        <tr v-if="deleting === c.key">
          <td colspan="4" class="change">
            <p>{{ c.label }} and what stands in it in {{ n(table.rows) }} rows will be gone. This cannot be undone.</p>
            <div class="row">
              <button class="btn danger small" type="button" @click="remove">Delete the column</button>
              <button class="btn plain small" type="button" @click="deleting = null">Keep it</button>
            </div>
          </td>
        </tr>
      </template>
    </tbody>
  </table>
  <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
  <form class="adder" @submit.prevent="add">
    <label><span class="label">New column</span><input v-model="label" class="in" placeholder="Label" /></label>
    <label
      ><span class="label">Holds</span
      ><select v-model="type" class="in">
        <option v-for="t in COLUMN_TYPES" :key="t" :value="t">{{ COLUMN_TYPE_LABELS[t] }}</option>
      </select></label
    >
    <label v-if="links(type)"
      ><span class="label">Rows of</span
      ><select v-model="target" class="in">
        <option v-for="t in tables" :key="t.key" :value="t.key">{{ t.label }}</option>
      </select></label
    >
    <button class="btn act" type="submit" :disabled="!label.trim() || (links(type) && !target)">Add</button>
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
.acts {
  white-space: nowrap;
  font-size: 13px;
}
.acts .word {
  margin-right: 10px;
}
.change {
  background: var(--ground-2);
}
.change select {
  width: 170px;
}
.few {
  width: 64px;
}
.lost {
  font-size: 13px;
  max-height: 140px;
  overflow: auto;
}
</style>
