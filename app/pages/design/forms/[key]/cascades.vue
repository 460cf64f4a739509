<script setup lang="ts">
import { CascadePicture } from '~/components/lateParts';
import type { Deep, ResultOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { TreeNode } from 'primevue/treenode';

/* A form's cascades laid out parent by parent: a picture of the whole, a tree one can walk down, gaps and near spellings. */
type Coverage = Deep<ResultOf<typeof contract.forms.cascades.count>>;
type SpellingGroup = Coverage['spellings'][number];
type Spelled = SpellingGroup['spelled'][number];
type CascadeRow = Answer<typeof contract.forms.cascades.rows>['rows'][number];
type Only = 'all' | 'gaps' | 'singles' | 'orphans';

const route = useRoute();
const form = String(route.params.key);
const toast = useToast();
const job = useJob('counting');
const coverage = shallowRef<Coverage | null>(null);
const failed = ref('');
const chain = ref(0);
/** what stands at the top of the tree: a level's rows, all or those a count is of */
const top = ref<{ level: number; only: Only }>({ level: 0, only: 'all' });
const whole = shallowRef<readonly (readonly CascadeRow[])[]>([]);
useHead({ title: 'Cascades · Brisk Acorn' });

async function load(): Promise<void> {
  try {
    const found = await job.run(() => api.forms.cascades.count({ key: form }));
    if (found) coverage.value = found;
    failed.value = '';
  } catch (e) {
    failed.value = messageOf(e);
  }
}
const { data: forms } = useForms();
void load();
const formLabel = computed(() => forms.value?.find((f) => f.key === form)?.label ?? form);
const levels = computed(() => coverage.value?.cascades[chain.value]?.levels ?? []);

// ---- the tree: rows are read as one walks into them ----
interface Branch extends TreeNode {
  readonly key: string;
  readonly data: { readonly row: CascadeRow; readonly level: number };
  children?: Branch[];
}
const MOST = 300;
const roots = ref<Branch[]>([]);
/** how many rows stand at the top; null until they are read */
const total = ref<number | null>(null);
const reading = ref(false);
const expanded = ref<Record<string, boolean>>({});
const readLevel = (level: number, parent: number | null, only: Only) =>
  api.forms.cascades.rows({ key: form }, { cascade: chain.value, level, parent: parent ?? undefined, only, limit: MOST });
const branchOf = (row: CascadeRow, level: number, above: string): Branch => ({
  key: `${above}/${row.id}`,
  data: { row, level },
  leaf: level >= levels.value.length - 1 || row.children === 0,
});
let asked = 0;
/** Other rows are to stand at the top: those of before are not told as theirs. */
function clearTop(): void {
  roots.value = [];
  total.value = null;
}
async function readTop(): Promise<void> {
  if (!levels.value.length) return;
  const mine = ++asked;
  reading.value = true;
  try {
    const { level, only } = top.value;
    const answer = await readLevel(level, null, only);
    if (mine !== asked) return;
    expanded.value = {};
    roots.value = answer.rows.map((r) => branchOf(r, level, String(level)));
    total.value = answer.total;
  } catch (e) {
    if (mine === asked) failed.value = messageOf(e);
  } finally {
    if (mine === asked) reading.value = false;
  }
}
/** the reading of the top that is under way, or that ended last */
let topRead: Promise<void> = Promise.resolve();
async function readBelow(branch: Branch): Promise<void> {
  if (branch.children) return;
  const { row, level } = branch.data;
  try {
    branch.children = (await readLevel(level + 1, row.id, 'all')).rows.map((r) => branchOf(r, level + 1, branch.key));
  } catch (e) {
    toast.add({ severity: 'error', summary: 'Not read', detail: messageOf(e), life: 6000 });
  }
}
async function toggle(branch: Branch): Promise<void> {
  const open = !expanded.value[branch.key];
  if (open) await readBelow(branch);
  expanded.value = { ...expanded.value, [branch.key]: open };
}
watch([chain, top, coverage], () => {
  topRead = readTop();
});
watch([chain, coverage], async () => {
  whole.value = [];
  if (!levels.value.length) return;
  const mine = chain.value;
  const answer = await api.forms.cascades.whole({ key: form }, { cascade: mine }).catch(() => null);
  if (answer && mine === chain.value) whole.value = answer.levels;
});
function choose(i: number): void {
  chain.value = i;
  home();
}
const home = (): void => follow(0, 'all');
function follow(level: number, only: Only): void {
  clearTop();
  top.value = { level, only };
}
/** Opens the tree along a way from the top, as it was walked in the picture. */
async function walkTo(ids: readonly number[]): Promise<void> {
  if (top.value.level !== 0 || top.value.only !== 'all') {
    home();
    await nextTick();
    await topRead;
  }
  let among: Branch[] = roots.value as Branch[];
  for (const id of ids) {
    const branch = among.find((b) => b.data.row.id === id);
    if (!branch || branch.leaf) return;
    await readBelow(branch);
    expanded.value = { ...expanded.value, [branch.key]: true };
    among = branch.children ?? [];
  }
}
const onlyWords = computed(() => {
  const { level, only } = top.value;
  const [here, below] = [levels.value[level]?.tableLabel, levels.value[level + 1]?.label];
  return only === 'gaps' ? `${here} with no ${below} offered` : only === 'singles' ? `${here} with one ${below}` : `${here} that have no parent`; // prettier-ignore
});

// ---- repair ----
/** what is about to be repaired, and how its dialog is called */
const repairing = shallowRef<{ group: SpellingGroup; keep: Spelled } | null>(null);
/** what was repaired last, with what it can be put back by */
const repaired = shallowRef<{ words: string; table: string; repair: number | null } | null>(null);
async function done(table: string, words: string, repair: number | null): Promise<void> {
  repairing.value = null;
  repaired.value = { words, table, repair };
  await load();
}
async function putBack(): Promise<void> {
  const last = repaired.value;
  if (!last || last.repair === null) return;
  try {
    const { left } = await api.tables.undoRepair({ key: last.table, id: last.repair }, {});
    const kept = left ? ` ${left} ${left === 1 ? 'row was' : 'rows were'} changed since and stay as they are.` : '';
    repaired.value = { words: `Undone.${kept}`, table: last.table, repair: null };
    await load();
  } catch (e) {
    toast.add({ severity: 'error', summary: 'Not undone', detail: messageOf(e), life: 8000 });
  }
}
const rowText = (r: CascadeRow): string => r.text ?? `row ${r.id}`;
</script>

<template>
  <div class="page wide">
    <PlaceTrail
      :above="[
        { label: 'Forms', to: '/design/forms' },
        { label: formLabel, to: `/design/forms/${form}` },
      ]"
      here="Cascades"
    />
    <Note v-if="failed" kind="bad" :retry="load">{{ failed }}</Note>
    <JobProgress v-else-if="!coverage" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel" />
    <template v-else>
      <h1 class="sr">Cascades</h1>
      <Note v-if="!coverage.cascades.length">
        No list of this form is narrowed by a link to another field’s row, so there is no cascade to show.
      </Note>
      <Tabs v-else :value="chain" @update:value="choose(Number($event))">
        <TabList>
          <Tab v-for="(c, i) in coverage.cascades" :key="i" :value="i">{{ c.levels.map((l) => l.label).join(' › ') }}</Tab>
        </TabList>
      </Tabs>
      <ol v-if="levels.length" class="levels">
        <li v-for="(l, i) in levels" :key="l.field" :class="{ on: i === top.level }">
          <b>{{ l.label }}</b> <span class="muted">{{ l.tableLabel }}</span>
          <div>
            {{ l.summary.rows.toLocaleString(LOCALE) }} rows<template v-if="l.summary.offered !== l.summary.rows"
              >, {{ l.summary.offered.toLocaleString(LOCALE) }} offered</template
            >
          </div>
          <template v-if="i > 0">
            <Button
              link
              severity="secondary"
              :class="{ bad: l.summary.gaps }"
              :label="`${l.summary.gaps.toLocaleString(LOCALE)} of ${l.summary.parents.toLocaleString(LOCALE)} above have none`"
              @click="follow(i - 1, 'gaps')"
            />
            <Button
              link
              severity="secondary"
              :label="`${l.summary.singles.toLocaleString(LOCALE)} have one`"
              @click="follow(i - 1, 'singles')"
            />
            <Button
              link
              severity="secondary"
              :class="{ bad: l.summary.orphans }"
              :label="`${l.summary.orphans.toLocaleString(LOCALE)} have no parent`"
              @click="follow(i, 'orphans')"
            />
          </template>
        </li>
      </ol>
      <section v-if="levels.length" class="walk">
        <p class="row crumbs">
          <Button link severity="secondary" :label="`all ${levels[0]?.tableLabel}`" @click="home" />
          <Tag v-if="top.only !== 'all'" severity="warn" :value="onlyWords" />
          <span v-if="total !== null" class="muted"
            >{{ total.toLocaleString(LOCALE) }} {{ total === 1 ? 'row' : 'rows' }} of {{ levels[top.level]?.tableLabel
            }}{{ roots.length < total ? `, the first ${roots.length} shown` : '' }}</span
          >
        </p>
        <div class="two">
          <TreeTable
            class="tree"
            :value="roots"
            :expanded-keys="expanded"
            size="small"
            row-hover
            scrollable
            scroll-height="440px"
            :loading="reading && !roots.length"
            :pt="{ table: { 'aria-label': 'The cascade as a tree' } }"
            @node-expand="toggle($event as Branch)"
            @node-collapse="toggle($event as Branch)"
          >
            <Column
              v-memo="[levels, top.level]"
              expander
              :header="
                levels
                  .slice(top.level)
                  .map((l) => l.label)
                  .join(' › ')
              "
            >
              <template #body="{ node }">
                <span
                  ><Button
                    v-if="!node.leaf"
                    link
                    severity="secondary"
                    :label="rowText(node.data.row)"
                    @click="toggle(node as Branch)"
                  /><template v-else>{{ rowText(node.data.row) }}</template>
                  <span v-if="!node.data.row.offered" class="muted"> (not offered)</span></span
                >
              </template>
            </Column>
            <Column v-memo="[]" header="offered below" class="num" style="width: 120px">
              <template #body="{ node }">
                <span v-if="node.data.row.childrenOffered !== null" :class="{ bad: node.data.row.childrenOffered === 0 }">{{
                  node.data.row.childrenOffered === 0 ? 'none' : node.data.row.childrenOffered.toLocaleString(LOCALE)
                }}</span>
              </template>
            </Column>
            <Column v-memo="[]" header="all" class="num" style="width: 80px">
              <template #body="{ node }">{{ node.data.row.children?.toLocaleString(LOCALE) }}</template>
            </Column>
            <template #empty><template v-if="total !== null">Nothing here.</template></template>
          </TreeTable>
          <CascadePicture v-if="whole.length" :key="chain" :levels="whole" :labels="levels.map((l) => l.label)" @go="walkTo" />
        </div>
      </section>
      <section class="block">
        <h2>Names that differ only in spelling</h2>
        <Note v-if="repaired" kind="good"
          >{{ repaired.words }} <Button v-if="repaired.repair !== null" link label="Undo" @click="putBack"
        /></Note>
        <p v-if="!coverage.spellings.length" class="muted">None found.</p>
        <DataTable v-else class="spellings" :value="[...coverage.spellings]">
          <Column v-memo="[]" header="Where"
            ><template #body="{ data: g }">{{ g.tableLabel }}, {{ g.columnLabel }}</template></Column
          >
          <Column v-memo="[]" header="Written as">
            <template #body="{ data: g }"
              ><span v-for="s in (g as SpellingGroup).spelled" :key="s.text" class="spelled"
                ><code>{{ s.text }}</code> <span class="muted">{{ s.count.toLocaleString(LOCALE) }}×</span></span
              ></template
            >
          </Column>
          <Column v-memo="[]" header="Keep">
            <template #body="{ data: g }"
              ><Button
                v-for="s in (g as SpellingGroup).spelled"
                :key="s.text"
                class="keep"
                severity="secondary"
                size="small"
                :label="`“${s.text}”`"
                @click="repairing = { group: g, keep: s }"
            /></template>
          </Column>
        </DataTable>
        <p v-if="coverage.notLooked.length" class="muted">Too large to check for spellings: {{ coverage.notLooked.join(', ') }}.</p>
      </section>
    </template>
    <StayDialog
      :visible="repairing !== null"
      modal
      :header="repairing?.group.kind === 'rows' ? 'Merge rows' : 'Correct a spelling'"
      :style="{ width: '560px' }"
      @update:visible="repairing = null"
      ><RepairDialog
        v-if="repairing"
        :group="repairing.group"
        :keep="repairing.keep"
        @done="(words, repair) => done(repairing!.group.table, words, repair)"
        @close="repairing = null"
    /></StayDialog>
  </div>
</template>

<style scoped>
.wide {
  max-width: none;
}
.levels {
  display: flex;
  gap: 12px;
  margin: 12px 0 14px;
  padding: 0;
  list-style: none;
  flex-wrap: wrap;
}
.levels li {
  border-left: 3px solid var(--line-strong);
  padding: 2px 12px;
  display: grid;
  align-content: start;
  justify-items: start;
  gap: 2px;
  font-size: 13px;
  min-width: 170px;
}
.levels li.on {
  border-color: var(--flow);
  background: var(--flow-wash);
}
.crumbs {
  flex-wrap: wrap;
  margin-bottom: 8px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.1fr);
  gap: 20px;
  align-items: start;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
.block {
  padding-top: 20px;
}
.spelled {
  margin-right: 14px;
}
.spelled code {
  white-space: pre;
  background: var(--ground-3);
  padding: 1px 4px;
}
.keep {
  margin-right: 6px;
  white-space: pre;
}
</style>
