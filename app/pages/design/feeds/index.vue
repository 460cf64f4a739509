<script setup lang="ts">
import type { FeedAnswer } from '~/stores/model';

const asked = useFeeds();
const answer = computed(() => asked.data.value);
const load = () => asked.refetch();
const session = useSession();
const making = ref(false);
const label = ref('');
const problem = ref('');
const hosts = ref('');
const hostsSaid = ref('');
// what is being typed is not written over by an answer
watch(() => (answer.value?.hosts ?? []).join('\n'), (kept) => (hosts.value = kept), { immediate: true }); // prettier-ignore
const { sought, isMany, found, paging } = useFinding(
  () => asked.data.value?.feeds,
  (f) => [f.label, f.key],
);
useHead({ title: 'Feeds · Brisk Acorn' });
async function make(): Promise<void> {
  problem.value = '';
  try {
    const { key } = await api.feeds.make({ label: label.value });
    await navigateTo(`/design/feeds/${key}`);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
async function saveHosts(): Promise<void> {
  hostsSaid.value = '';
  try {
    await api.feeds.hosts({ hosts: hosts.value.split(/\s+/).filter(Boolean) });
    await load();
    hostsSaid.value = 'Saved.';
  } catch (e) {
    hostsSaid.value = messageOf(e);
  }
}
async function behave(name: string, change: { delay?: number; failing?: number }): Promise<void> {
  const now = answer.value?.standIns[name];
  if (now) await api.feeds.standIns({ name, ...now, ...change }).catch(() => null);
  await load();
}
</script>

<template>
  <div class="page">
    <header class="row spread">
      <div>
        <h1>Feeds</h1>
        <p class="muted">Outside services that answer in JSON: choices and values for forms, asked through this server.</p>
      </div>
      <Button @click="making = true"><i class="pi pi-plus" aria-hidden="true" /> New feed</Button>
    </header>
    <Asked v-slot="{ data: told }" :query="asked">
      <Note v-if="!told.feeds.length">
        No feeds yet. A feed says which address is asked, with which values, and where in the answer the choices are.
      </Note>
      <FindField v-if="isMany" v-model="sought" label="Find a feed" />
      <DataTable v-if="told.feeds.length" :value="found" data-key="key" row-hover v-bind="paging">
        <template #empty>No feed is called so.</template>
        <Column v-memo="[]" header="Feed" field="label" sortable>
          <template #body="{ data: f }">
            <NuxtLink :to="`/design/feeds/${f.key}`"
              ><b>{{ f.label }}</b></NuxtLink
            >
            <span v-if="f.broken" class="bad"> <Tag severity="danger" value="broken" /> {{ f.broken }}</span>
          </template>
        </Column>
        <Column v-memo="[]" header="Asks" field="url" body-class="mono address" />
        <Column v-memo="[]" header="With"
          ><template #body="{ data: f }">{{ (f as FeedAnswer).params.map((p) => p.label).join(', ') || 'nothing' }}</template></Column
        >
        <Column v-memo="[]" header="Used by"
          ><template #body="{ data: f }">{{ (f as FeedAnswer).usedBy.map((u) => u.label).join(', ') || 'no form' }}</template></Column
        >
      </DataTable>
      <div class="halves">
        <section>
          <h2>Allowed hosts</h2>
          <p class="muted">
            One a line: <code>data.example.org</code>, <code>*.example.org</code>, with a port where needed. <code>!</code> before it also
            allows addresses of a private network.
          </p>
          <Textarea v-model="hosts" class="mono" :rows="4" aria-label="Allowed hosts" :readonly="!session.administers" placeholder="none" />
          <p class="row">
            <Button v-if="session.administers" severity="secondary" size="small" @click="saveHosts"> Save the hosts </Button>
            <span v-else class="muted">Only an administrator changes this list.</span>
            <span role="status">{{ hostsSaid }}</span>
          </p>
        </section>
        <section>
          <h2>Built-in services</h2>
          <p class="muted">
            Sample services that come with the application, at <code>/standins/…</code>. Make one slow or failing to see what a form does
            then.
          </p>
          <ul class="standIns">
            <li v-for="(how, name) in told.standIns" :key="name">
              <code>{{ name }}</code>
              <label class="row"
                >waits
                <InputNumber
                  class="few"
                  :model-value="how.delay"
                  :min="0"
                  :max="30000"
                  :step="500"
                  :use-grouping="false"
                  :aria-label="`How long ${name} waits, in milliseconds`"
                  @update:model-value="behave(String(name), { delay: $event ?? 0 })"
                />
                ms</label
              >
              <label class="row"
                >fails the next
                <InputNumber
                  class="few"
                  :model-value="how.failing"
                  :min="0"
                  :max="1000"
                  :use-grouping="false"
                  :aria-label="`How often ${name} fails next`"
                  @update:model-value="behave(String(name), { failing: $event ?? 0 })"
              /></label>
            </li>
          </ul>
        </section>
      </div>
    </Asked>
    <StayDialog v-model:visible="making" modal header="New feed" :style="{ width: '420px' }">
      <form class="fields" @submit.prevent="make">
        <label><span class="label">What is it called?</span><InputText v-model="label" required placeholder="Weather" /></label>
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
        <Button type="submit" :disabled="!label.trim()">Create the feed</Button>
      </form>
    </StayDialog>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 14px;
}
:deep(.address) {
  max-width: 360px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.halves {
  display: grid;
  grid-template-columns: 1fr 1.2fr;
  gap: 32px;
  padding-top: 28px;
}
section {
  display: grid;
  gap: 8px;
  align-content: start;
}
.few :deep(input) {
  width: 92px;
}
.standIns li {
  display: grid;
  grid-template-columns: 120px auto auto;
  justify-content: start;
  align-items: center;
  gap: 20px;
  padding: 4px 0;
}
</style>
