<script setup lang="ts">
/* Ctrl+K: type a part of a name to go to any form, field, table, list, feed or place, or to do what can be done here. */
const session = useSession();
const here = useGoTo();
const visible = defineModel<boolean>('visible', { required: true });
const typed = ref('');
const at = ref(0);
const { data: forms, refetch: readForms } = useForms();
const model = useModelPlaces();

interface Goal {
  readonly label: string;
  readonly kind: string;
  go(): unknown;
}
const goals = computed((): Goal[] => {
  const to = (path: string) => () => navigateTo(path);
  const all: Goal[] = [...here.goals];
  for (const f of forms.value ?? []) {
    if (session.builds) all.push({ label: f.label, kind: 'design the form', go: to(`/design/forms/${f.key}`) });
    if (f.version !== null) {
      all.push({ label: f.label, kind: 'new entry', go: to(`/entry/${f.key}/new`) });
      all.push({ label: f.label, kind: 'records', go: to(`/entry/${f.key}`) });
    }
  }
  if (session.builds) {
    all.push({ label: 'New form', kind: 'do it', go: to('/design/forms?new=1') });
    for (const place of ['Tables', 'Lists', 'Feeds', 'Forms'])
      all.push({ label: place, kind: 'place', go: to(`/design/${place.toLowerCase()}`) });
    all.push({ label: 'Import a file', kind: 'do it', go: to('/design/tables/import') });
  }
  all.push({ label: 'Entries', kind: 'place', go: to('/entry') });
  if (session.builds) all.push(...model.value.map((p) => ({ label: p.label, kind: p.kind, go: to(p.to) })));
  return [...all, { label: 'Home', kind: 'place', go: to('/') }, { label: 'Guide', kind: 'place', go: to('/guide') }];
});
const MOST = 40;
const found = computed(() => {
  const words = typed.value.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (g: Goal): boolean => words.every((w) => `${g.label} ${g.kind}`.toLowerCase().includes(w));
  const begins = (g: Goal): number => (words[0] && g.label.toLowerCase().startsWith(words[0]) ? 0 : 1);
  return goals.value.filter(fits).sort((a, b) => begins(a) - begins(b)).slice(0, MOST); // prettier-ignore
});
watch(typed, () => (at.value = 0));
watch(visible, (now) => {
  if (!now) return;
  typed.value = '';
  at.value = 0;
  void readForms();
});
const list = ref<HTMLElement>();
function key(event: KeyboardEvent): void {
  const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (by) {
    at.value = Math.min(Math.max(0, at.value + by), found.value.length - 1);
    void nextTick(() => list.value?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest' }));
  } else if (event.key === 'Enter') void run(found.value[at.value]);
  else return;
  event.preventDefault();
}
async function run(goal: Goal | undefined): Promise<void> {
  if (!goal) return;
  visible.value = false;
  // the dialog gives the focus back first; the goal may want it elsewhere
  await nextTick();
  setTimeout(() => void goal.go(), 50);
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Go to…" position="top" :style="{ width: '560px' }">
    <InputText
      v-model="typed"
      class="wide"
      autofocus
      placeholder="A field, form, table, list or place"
      role="combobox"
      aria-expanded="true"
      aria-controls="go-to-list"
      :aria-activedescendant="found.length ? `go-to-${at}` : undefined"
      aria-label="Go to"
      @keydown="key"
    />
    <ul id="go-to-list" ref="list" class="goals" role="listbox" aria-label="Where to">
      <li
        v-for="(g, i) in found"
        :id="`go-to-${i}`"
        :key="`${g.kind} ${g.label} ${i}`"
        role="option"
        :aria-selected="i === at"
        :class="{ on: i === at }"
        @click="run(g)"
        @mousemove="at = i"
      >
        <span>{{ g.label }}</span> <span class="muted">{{ g.kind }}</span>
      </li>
    </ul>
    <p v-if="!found.length" class="muted" role="status">Nothing is called “{{ typed }}”.</p>
  </Dialog>
</template>

<style scoped>
.wide {
  width: 100%;
}
.goals {
  max-height: 340px;
  overflow: auto;
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}
.goals li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 5px 10px;
  min-height: 28px;
  cursor: pointer;
  border-radius: 3px;
}
.on {
  background: var(--flow-wash);
  outline: 1px solid transparent;
}
@media (forced-colors: active) {
  .on {
    outline: 2px solid Highlight;
  }
}
</style>
