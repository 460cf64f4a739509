<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import { type LeftUnsaved, leftUnsaved } from '~/composables/keptEdits';

/* What needs somebody now: records at steps they may move on, what they typed and did not save; and what they saved lately. */
const session = useSession();
const asked = useQuery({ key: ['home'], query: () => api.home.read() });
onMounted(() => void asked.refetch());
const waiting = computed(() => asked.data.value?.waiting ?? []);
const recent = computed(() => asked.data.value?.recent ?? []);
const warned = computed(() => asked.data.value?.warned ?? []);
const rehearsals = computed(() => asked.data.value?.rehearsals ?? []);
const feeds = computed(() => asked.data.value?.feeds ?? []);
const { data: forms } = useForms();
const left = shallowRef<readonly LeftUnsaved[]>([]);
onMounted(async () => {
  if (session.account) left.value = await leftUnsaved(session.account.id);
});
const formLabel = (key: string): string => forms.value?.find((f) => f.key === key)?.label ?? key;
/** those of forms that one may still use */
const unsaved = computed(() => left.value.filter((l) => forms.value?.some((f) => f.key === l.form)));
const ofRecord = (l: LeftUnsaved): string => (l.record === null ? 'a new entry' : `record ${l.record}`);
const shownAt = (at: number): string => {
  const local = new Date(at - new Date(at).getTimezoneOffset() * 60_000);
  return showMoment(local.toISOString().slice(0, 19));
};
</script>

<template>
  <div v-if="waiting.length || recent.length || unsaved.length || warned.length || rehearsals.length || feeds.length" class="today">
    <section v-if="waiting.length || unsaved.length || rehearsals.length || feeds.length || warned.length">
      <template v-if="unsaved.length">
        <h2>Not saved yet</h2>
        <ul>
          <li v-for="l in unsaved" :key="`${l.form} ${l.record} ${l.at}`">
            <NuxtLink :to="`/entry/${l.form}/${l.record ?? 'new'}`">{{ formLabel(l.form) }}, {{ ofRecord(l) }}</NuxtLink>
            <span class="muted">{{ l.entries }} {{ l.entries === 1 ? 'entry' : 'entries' }}, typed {{ shownAt(l.at) }}</span>
          </li>
        </ul>
      </template>
      <template v-if="waiting.length">
        <h2>Waiting for you</h2>
        <ul>
          <li v-for="w in waiting" :key="`${w.form} ${w.step.value}`">
            <NuxtLink :to="{ path: `/entry/${w.form}`, query: { step: w.step.value } }"
              ><b>{{ w.records.toLocaleString(LOCALE) }}</b> {{ w.label }}</NuxtLink
            >
            <StepMark :step="w.step" />
            <span class="muted"
              >{{ w.moves.join(', ') }}<template v-if="w.since"> · longest since {{ showMoment(w.since) }}</template></span
            >
          </li>
        </ul>
      </template>
      <template v-if="rehearsals.length || feeds.length">
        <h2>Failing</h2>
        <ul>
          <li v-for="r in rehearsals" :key="r.form">
            <NuxtLink :to="`/design/forms/${r.form}/rehearsals`">{{ r.label }}</NuxtLink>
            <span class="bad">{{ r.failed }} of {{ r.of }} rehearsals failed</span>
            <span class="muted">run {{ showMoment(r.at) }}</span>
          </li>
          <li v-for="f in feeds" :key="f.key">
            <NuxtLink :to="`/design/feeds/${f.key}`">{{ f.label }}</NuxtLink>
            <span class="bad">{{ f.said }}</span>
            <span class="muted">asked {{ showMoment(f.at) }}</span>
          </li>
        </ul>
      </template>
      <template v-if="warned.length">
        <h2>Saved although warned</h2>
        <ul>
          <li v-for="w in warned" :key="`${w.form} ${w.id}`">
            <NuxtLink :to="`/entry/${w.form}/${w.id}`">{{ w.text }}</NuxtLink>
            <span>{{ w.said }}</span>
            <span class="muted">{{ w.formLabel }}, {{ showMoment(w.at) }}</span>
          </li>
        </ul>
      </template>
    </section>
    <section v-if="recent.length">
      <h2>You saved lately</h2>
      <ul>
        <li v-for="r in recent" :key="`${r.form} ${r.id}`">
          <NuxtLink :to="`/entry/${r.form}/${r.id}`">{{ r.text }}</NuxtLink>
          <span class="muted">{{ r.formLabel }}, {{ r.isNew ? 'entered' : 'changed' }} {{ showMoment(r.at) }}</span>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.today {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(420px, 1fr));
  gap: 20px 40px;
  margin-bottom: 28px;
}
h2 {
  margin-bottom: 6px;
}
h2:not(:first-child) {
  margin-top: 16px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 3px;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: baseline;
  min-height: 24px;
}
@media (max-width: 640px) {
  .today {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
