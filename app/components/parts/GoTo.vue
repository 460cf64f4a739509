<script setup lang="ts">
import { foldText, hasWords, soughtWords } from '~~/core/values/text.ts';

/* Ctrl+K: type a part of a name to go to any form, field, table, list, feed or place, or to do what can be done here. */
const session = useSession();
const here = useGoTo();
/** what was typed before the field was there to take it */
const props = defineProps<{ early: string }>();
const visible = defineModel<boolean>('visible', { required: true });
const typed = ref('');
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
  const words = soughtWords(typed.value);
  const fits = (g: Goal): boolean => hasWords(foldText(`${g.label} ${g.kind}`), words);
  const begins = (g: Goal): number => (words[0] && foldText(g.label).startsWith(words[0]) ? 0 : 1);
  return goals.value.filter(fits).sort((a, b) => begins(a) - begins(b)).slice(0, MOST); // prettier-ignore
});
watch(
  visible,
  (now) => {
    if (!now) return;
    typed.value = props.early;
    void readForms();
  },
  { immediate: true },
);
watch(() => props.early, (text) => text && look(text)); // prettier-ignore
/** The field has the focus: what was typed before stands in it, and one types on behind it. */
function entered(event: Event): void {
  const input = event.target as HTMLInputElement;
  // behind what stands there by then: more may have been typed than has been looked for
  const behind = (): void => input.setSelectionRange(input.value.length, input.value.length);
  if (input.value === '') return;
  behind();
  setTimeout(behind);
}
/** Given anew each time it is asked, which PrimeVue waits for. */
const offered = shallowRef<Goal[]>([]);
function look(query: string): void {
  typed.value = query;
  offered.value = [...found.value];
}
watch(found, () => (offered.value = found.value));
/** What of the control is used: which of the choices is pointed at. */
const box = ref<{ readonly focusedOptionIndex: number }>();
/** Typed and entered at once, before the control has looked: the first of what is called so is meant. */
function takeFirst(event: KeyboardEvent): void {
  if (event.isComposing || (box.value?.focusedOptionIndex ?? -1) >= 0 || !(event.target instanceof HTMLInputElement)) return;
  typed.value = event.target.value;
  event.preventDefault();
  event.stopPropagation();
  void run(found.value[0]);
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
  <StayDialog v-model:visible="visible" modal header="Go to…" position="top" :style="{ width: '560px' }">
    <div @keydown.enter.capture="takeFirst">
      <StayAutoComplete
        ref="box"
        class="wide"
        :model-value="typed"
        :suggestions="offered"
        option-label="label"
        :delay="0"
        :min-length="0"
        complete-on-focus
        auto-option-focus
        fluid
        empty-search-message="Nothing is called so."
        placeholder="A field, form, table, list or place"
        scroll-height="340px"
        overlay-class="goals"
        :pt="{ pcInputText: { root: { 'aria-label': 'Go to', autofocus: true, spellcheck: false } }, list: { 'aria-label': 'Where to' } }"
        @focus="entered"
        @complete="look($event.query)"
        @option-select="run($event.value)"
      >
        <template #option="{ option }"
          ><span class="goal"
            ><span>{{ option.label }}</span> <span class="muted">{{ option.kind }}</span></span
          ></template
        >
      </StayAutoComplete>
    </div>
  </StayDialog>
</template>

<style scoped>
.wide {
  width: 100%;
}
.goal {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  width: 100%;
}
</style>
<style>
/* opened with the dialog, before that has its place above the page */
.goals {
  z-index: 2000 !important;
}
</style>
