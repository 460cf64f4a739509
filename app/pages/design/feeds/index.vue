<script setup lang="ts">
const { answer, failed, load } = useFeeds();
await load();
const session = useSession();
const making = ref(false);
const label = ref('');
const problem = ref('');
const hosts = ref('');
const hostsSaid = ref('');
watchEffect(() => (hosts.value = (answer.value?.hosts ?? []).join('\n')));
useHead({ title: 'Feeds · Brisk Acorn' });
async function make(): Promise<void> {
  problem.value = '';
  try {
    const { key } = await api<{ key: string }>('feeds', { body: { label: label.value } });
    await navigateTo(`/design/feeds/${key}`);
  } catch (e) {
    problem.value = messageOf(e);
  }
}
async function saveHosts(): Promise<void> {
  hostsSaid.value = '';
  try {
    await api('feeds/hosts', { method: 'PUT', body: { hosts: hosts.value.split(/\s+/).filter(Boolean) } });
    await load();
    hostsSaid.value = 'Saved.';
  } catch (e) {
    hostsSaid.value = messageOf(e);
  }
}
async function behave(name: string, change: { delay?: number; failing?: number }): Promise<void> {
  const now = answer.value?.standIns[name];
  if (now) await api('feeds/standins', { method: 'PUT', body: { name, ...now, ...change } }).catch(() => null);
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
      <button class="btn act" type="button" @click="making = true"><i class="pi pi-plus" aria-hidden="true" /> New feed</button>
    </header>
    <p v-if="failed" class="note bad" role="alert">{{ failed }} <button class="word" type="button" @click="load">Try again</button></p>
    <template v-else-if="answer">
      <p v-if="!answer.feeds.length" class="note">
        No feeds yet. A feed says which address is asked, with which values, and where in the answer the choices are.
      </p>
      <table v-else class="plainTable">
        <thead>
          <tr>
            <th>Feed</th>
            <th>Asks</th>
            <th>With</th>
            <th>Used by</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="f in answer.feeds" :key="f.key">
            <td>
              <NuxtLink :to="`/design/feeds/${f.key}`"
                ><b>{{ f.label }}</b></NuxtLink
              >
              <span v-if="f.broken" class="bad"><span class="chip bad">broken</span> {{ f.broken }}</span>
            </td>
            <td class="mono address">{{ f.url }}</td>
            <td>{{ f.params.map((p) => p.label).join(', ') || 'nothing' }}</td>
            <td>{{ f.usedBy.map((u) => u.label).join(', ') || 'no form' }}</td>
          </tr>
        </tbody>
      </table>
      <div class="halves">
        <section>
          <h2>Hosts that may be asked</h2>
          <p class="muted">
            One a line: <code>data.example.org</code>, <code>*.example.org</code>, with a port where needed. <code>!</code> before it also
            allows addresses of a private network.
          </p>
          <textarea
            v-model="hosts"
            class="in mono"
            rows="4"
            aria-label="Hosts that may be asked"
            :readonly="session.account?.role !== 'administrator'"
            placeholder="none"
          />
          <p class="row">
            <button v-if="session.account?.role === 'administrator'" class="btn small" type="button" @click="saveHosts">
              Save the hosts
            </button>
            <span v-else class="muted">Only an administrator changes this list.</span>
            <span role="status">{{ hostsSaid }}</span>
          </p>
        </section>
        <section>
          <h2>Stand-ins</h2>
          <p class="muted">
            Made-up services that ship with the application, reached by <code>/standins/…</code>. Make one slow or failing to see what a
            form does then.
          </p>
          <table class="plainTable">
            <tbody>
              <tr v-for="(how, name) in answer.standIns" :key="name">
                <td class="mono">{{ name }}</td>
                <td>
                  <label class="row"
                    >waits
                    <TextEdit
                      class="in few"
                      type="number"
                      min="0"
                      max="30000"
                      step="500"
                      :value="how.delay"
                      @change="behave(String(name), { delay: Number(($event.target as HTMLInputElement).value) })"
                    />
                    ms</label
                  >
                </td>
                <td>
                  <label class="row"
                    >fails the next
                    <TextEdit
                      class="in few"
                      type="number"
                      min="0"
                      max="1000"
                      :value="how.failing"
                      @change="behave(String(name), { failing: Number(($event.target as HTMLInputElement).value) })"
                  /></label>
                </td>
              </tr>
            </tbody>
          </table>
        </section>
      </div>
    </template>
    <Dialog v-model:visible="making" modal header="New feed" :style="{ width: '420px' }">
      <form class="fields" @submit.prevent="make">
        <label><span class="label">What is it called?</span><input v-model="label" class="in" required placeholder="Weather" /></label>
        <p v-if="problem" class="note bad" role="alert">{{ problem }}</p>
        <button class="btn act" type="submit" :disabled="!label.trim()">Make the feed</button>
      </form>
    </Dialog>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 14px;
}
.address {
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
.few {
  width: 84px;
}
</style>
