<script setup lang="ts">
import { useQueryCache } from '@pinia/colada';
import type { Result } from '~~/core/contract/define.ts';
import { contract } from '~~/core/contract/index.ts';
import type { WorkspaceSettings } from '~~/core/contract/people.ts';

/* How the workspace is called, and how it counts and writes days and numbers. */
useHead({ title: 'Workspace · Brisk Acorn' });
const workspace = useWorkspaceSettings();
await workspace.load();
const form = reactive({ ...workspace.settings });
const tables = useTables();
const problem = ref('');
const said = ref('');
const DATES = [
  { value: 'dayFirst', label: '1 Mar 2026' },
  { value: 'monthFirst', label: 'Mar 1, 2026' },
  { value: 'iso', label: '2026-03-01' },
] as const;
const GROUPING = [
  { value: 'comma', label: '12,345.6' },
  { value: 'space', label: '12 345.6' },
  { value: 'apostrophe', label: '12’345.6' },
  { value: 'none', label: '12345.6' },
] as const;
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'].map((label, i) => ({ value: i + 1, label }));
const zones = computed(() => [{ value: null as string | null, label: 'that of the server' }, ...workspace.zones.map((z) => ({ value: z as string | null, label: z.replaceAll('_', ' ') }))]); // prettier-ignore
const daysOff = computed(() => [
  { value: '', label: 'nowhere' },
  ...(tables.data.value ?? []).flatMap((t) => t.columns.filter((c) => c.type === 'date').map((c) => ({ value: `${t.key}.${c.key}`, label: `${t.label} › ${c.label}` }))),
]); // prettier-ignore
const holiday = computed({
  get: () => (form.holidays ? `${form.holidays.table}.${form.holidays.column}` : ''),
  set: (at: string) => {
    const [table = '', column = ''] = at.split('.');
    form.holidays = at ? { table, column } : null;
  },
});
async function save(): Promise<void> {
  problem.value = said.value = '';
  try {
    await workspace.save({ ...form } as WorkspaceSettings);
    said.value = 'Saved. It holds for everybody, from the next screen on.';
  } catch (e) {
    problem.value = messageOf(e);
  }
}
// ---- all of it as one archive of open files ----
const job = useJob('bringing in a workspace', { goesOn: true });
const archiveProblem = ref('');
const brought = shallowRef<Result<typeof contract.archives.in> | null>(null);
const queries = useQueryCache();
async function bringIn(file: File): Promise<void> {
  archiveProblem.value = '';
  brought.value = null;
  try {
    const { id } = await sendBody(contract.imports.upload, file);
    brought.value = await job.run(() => api.archives.in({ upload: id }));
    if (!brought.value) return;
    await Promise.all([workspace.load(), queries.invalidateQueries()]);
    Object.assign(form, workspace.settings);
  } catch (e) {
    archiveProblem.value = messageOf(e);
  }
}
const counted = (n: number, one: string): string => `${n.toLocaleString(LOCALE)} ${n === 1 ? one : `${one}s`}`;
</script>

<template>
  <div>
    <PlaceTrail :above="[]" here="Workspace" />
    <h1>Workspace</h1>
    <form class="fields" @submit.prevent="save">
      <label><span class="label">Name</span><InputText v-model="form.name" required maxlength="120" /></label>
      <div>
        <span class="label">Time zone: which day “today” is</span><PickOne v-model="form.zone" :options="zones" label="Time zone" />
      </div>
      <div><span class="label">Dates are written</span><PickOne v-model="form.dates" :options="DATES" label="Dates are written" /></div>
      <div>
        <span class="label">Numbers are written</span><PickOne v-model="form.grouping" :options="GROUPING" label="Numbers are written" />
      </div>
      <div class="group" role="group" aria-labelledby="days-word">
        <span id="days-word" class="label">Working days: what WORKDAY and NETWORKDAYS count when a formula names none</span>
        <label v-for="d in DAYS" :key="d.value" class="day"
          ><Checkbox v-model="form.workingDays" :value="d.value" :input-id="`day-${d.value}`" name="days" /> {{ d.label }}</label
        >
      </div>
      <div><span class="label">Days off stand in</span><PickOne v-model="holiday" :options="daysOff" label="Days off stand in" /></div>
      <Note v-if="problem" kind="bad">{{ problem }}</Note>
      <Note v-else-if="said" kind="good">{{ said }}</Note>
      <Button type="submit" label="Save" />
    </form>
    <section class="archive" aria-labelledby="archive-word">
      <h2 id="archive-word">All of it as one file</h2>
      <p>
        An archive of open files: the tables as a data package, option lists, feeds, forms with their rehearsals, and these settings.
        Accounts, rights, secrets of feeds, uploaded files and the history of records stay here.
      </p>
      <p>
        <Button
          as="a"
          severity="secondary"
          icon="pi pi-download"
          label="Download the archive"
          :href="routeAddress(contract.archives.out)"
          download="workspace.zip"
        />
      </p>
      <p>
        Brought in, everything keeps its name and every row its number. It is refused where something here is called the same: bring it into
        a workspace that is empty, or beside what is called otherwise. People are matched by their e-mail address, else by their name.
      </p>
      <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel" />
      <FileDrop v-else v-slot="{ choose }" class="dropzone" label="The archive of a workspace" accept=".zip" @file="bringIn">
        <div class="drop">
          <i class="pi pi-upload" aria-hidden="true" />
          <span><Button severity="secondary" label="Choose an archive" @click="choose" /> or drop it here.</span>
        </div>
      </FileDrop>
      <Note v-if="archiveProblem" kind="bad">{{ archiveProblem }}</Note>
      <Note v-if="brought" kind="good"
        >Brought in: {{ counted(brought.tables, 'table') }} with {{ counted(brought.rows, 'row') }},
        {{ counted(brought.lists, 'option list') }}, {{ counted(brought.feeds, 'feed') }}, {{ counted(brought.forms, 'form') }}.
        <ul v-if="brought.notes.length">
          <li v-for="n in brought.notes" :key="n">{{ n }}</li>
        </ul></Note
      >
    </section>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 14px;
  max-width: 520px;
  margin-top: 10px;
}
.fields > .p-button {
  justify-self: start;
}
.group {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
}
.day {
  display: flex;
  gap: 6px;
  align-items: center;
}
.archive {
  max-width: 640px;
  margin-top: 28px;
  display: grid;
  gap: 10px;
}
.drop {
  display: flex;
  gap: 10px;
  align-items: center;
}
</style>
