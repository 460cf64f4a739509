<script setup lang="ts">
import { addMove, addStep, changeStep, endSteps, moveStep, removeStep, startSteps, stepFields } from '~~/core/form/editSteps.ts';
import { SIGNS, TONES, startsFrom } from '~~/core/form/steps.ts';
import { whoWords } from '~~/core/form/who.ts';
import { useAccessPlaces } from '~/components/design/accessPlaces';

/* The steps of a record's life, the moves between them, and who sees and fills what. */
const route = useRoute();
const draft = useDraft();
await draft.open(String(route.params.key));
useHead({ title: computed(() => `Steps of ${draft.form?.label ?? 'a form'} · Brisk Acorn`) });
watch(() => route.params.key, (key) => key && draft.open(String(key))); // prettier-ignore
const form = computed(() => draft.form!);
const steps = computed(() => form.value.steps);
const selected = ref<string | null>(null);
watch(() => route.query.move, (id) => (selected.value = typeof id === 'string' ? id : selected.value), { immediate: true }); // prettier-ignore
const move = computed(() => steps.value?.moves.find((m) => m.id === selected.value) ?? null);
const problems = computed(() => draft.problems.filter((p) => p.steps));

// ---- beginning ----
const NEW = ' new';
const holders = computed(() => [
  { value: NEW, label: 'a new field “Step”' },
  ...stepFields(form.value).map((value) => ({ value, label: form.value.fields[value]!.label })),
]);
const begin = (field: string): void => draft.change(startSteps(form.value, field === NEW ? null : field));

// ---- steps ----
const SIGN_WORDS: Readonly<Record<(typeof SIGNS)[number], string>> = { ring: 'a ring', dot: 'a dot', box: 'a box', clock: 'a clock', glass: 'a magnifier', tick: 'a tick', cross: 'a cross', arrow: 'an arrow', flag: 'a flag', pause: 'a pause', pen: 'a pen' }; // prettier-ignore
const signs = SIGNS.map((value) => ({ value, label: SIGN_WORDS[value] }));
const tones = TONES.map((value) => ({ value, label: value as string }));
const ENDS = [
  { value: 'no', label: 'goes on from here' },
  { value: 'yes', label: 'may end here' },
] as const;
const adding = ref('');
function add(): void {
  if (!adding.value.trim()) return;
  draft.change(addStep(form.value, adding.value));
  adding.value = '';
}
const movesFrom = (value: string) => steps.value!.moves.filter((m) => startsFrom(m, value));
const labelOf = (value: string): string => steps.value!.list.find((s) => s.value === value)?.label ?? value;
const others = (value: string) => steps.value!.list.filter((s) => s.value !== value).map((s) => ({ value: s.value, label: s.label }));
function addMoveTo(from: string, to: string): void {
  const { form: next, id } = addMove(form.value, from, to, labelOf(to));
  draft.change(next);
  selected.value = id;
}
const list = ref<HTMLElement>();
useDragOrder(list, ({ item, to }) => draft.change(moveStep(form.value, item.dataset.step ?? '', to)), { draggable: '.item' });
function keys(event: KeyboardEvent, value: string, number: number): void {
  if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
  event.preventDefault();
  draft.change(moveStep(form.value, value, number + (event.key === 'ArrowUp' ? -1 : 1)));
  void nextTick(() => document.querySelector<HTMLElement>(`[data-step="${value}"] .grip`)?.focus());
}

// ---- who sees and fills ----
const { places, asked, ask } = useAccessPlaces();
onBeforeRouteLeave(() => draft.flush());
useUndoKeys();
</script>

<template>
  <div class="steps">
    <PlaceTrail
      :above="[
        { label: 'Forms', to: '/design/forms' },
        { label: draft.form?.label ?? String(route.params.key), to: `/design/forms/${route.params.key}` },
      ]"
      here="Steps"
    />
    <DraftBar />
    <div v-if="draft.failed" class="page">
      <Note kind="bad" :retry="() => draft.open(draft.formKey)">{{ draft.failed }}</Note>
    </div>
    <div v-else-if="draft.form" class="two">
      <div class="register">
        <header class="row">
          <h1>Steps</h1>
          <span v-if="steps" class="muted grow"
            >kept in <b>{{ form.fields[steps.field]?.label ?? steps.field }}</b>; a new record stands at the first</span
          >
          <Button v-if="steps" link severity="secondary" label="without steps" @click="draft.change(endSteps(form))" />
        </header>
        <ul v-if="problems.length" class="problems">
          <li v-for="(p, i) in problems" :key="i" class="note" :class="{ bad: p.severity === 'error' }">{{ p.message }}</li>
        </ul>
        <p v-if="!steps">
          Records of this form have no steps yet. Steps say where a record stands, who may move it on, and who fills what when. Keep the
          step in
          <PickWord :value="''" text="choose a field" :options="holders" label="Field that holds the step" @pick="begin" />.
          <NuxtLink to="/guide/steps">How steps work</NuxtLink>
        </p>
        <template v-else>
          <ol ref="list">
            <li v-for="(s, i) in steps.list" :key="s.value" class="item" :data-step="s.value" @keydown="keys($event, s.value, i)">
              <div class="row line">
                <Button
                  text
                  severity="secondary"
                  size="small"
                  class="grip"
                  icon="pi pi-bars"
                  :aria-label="`${s.label}: drag, or Alt and arrows, to move`"
                />
                <StepMark class="sign" :step="{ ...s, label: '' }" />
                <TextEdit
                  class="bare name"
                  :value="s.label"
                  :aria-label="`Name of step ${i + 1}`"
                  @change="
                    ($event.target as HTMLInputElement).value.trim() &&
                    draft.change(changeStep(form, s.value, { label: ($event.target as HTMLInputElement).value.trim() }))
                  "
                  @keydown.enter="($event.target as HTMLInputElement).blur()"
                />
                <span class="grow"
                  ><PickWord
                    :value="s.sign"
                    :options="signs"
                    :label="`Sign of ${s.label}`"
                    @pick="draft.change(changeStep(form, s.value, { sign: $event }))" />
                  in
                  <PickWord
                    :value="s.tone"
                    :options="tones"
                    :label="`Colour of ${s.label}`"
                    @pick="draft.change(changeStep(form, s.value, { tone: $event as typeof s.tone }))" />; a record
                  <PickWord
                    :value="s.ends ? 'yes' : 'no'"
                    :options="ENDS"
                    :label="`Whether a record may end at ${s.label}`"
                    @pick="draft.change(changeStep(form, s.value, { ends: $event === 'yes' }))"
                /></span>
                <IconButton
                  v-if="steps.list.length > 1"
                  icon="pi pi-trash"
                  :aria-label="`Remove the step ${s.label} and its moves`"
                  @click="draft.change(removeStep(form, s.value))"
                />
              </div>
              <ul class="moves">
                <li v-for="m in movesFrom(s.value)" :key="m.id">
                  <Button
                    text
                    severity="secondary"
                    class="what"
                    :class="{ current: m.id === selected }"
                    :aria-current="m.id === selected || undefined"
                    @click="selected = m.id"
                    ><span
                      >→ {{ labelOf(m.to) }}: <b>{{ m.label }}</b>,
                      <span class="muted"
                        >by {{ whoWords(m.who)
                        }}{{
                          m.filled.length
                            ? `, once ${m.filled.map((f) => form.fields[f]?.label ?? form.lines[f]?.label ?? f).join(', ')} ${m.filled.length === 1 ? 'is' : 'are'} filled`
                            : ''
                        }}{{ m.when ? ', on a condition' : '' }}</span
                      ></span
                    ></Button
                  >
                </li>
                <li class="adds">
                  <PickWord
                    :value="''"
                    text="+ move to…"
                    :options="others(s.value)"
                    :label="`A move from ${s.label} to`"
                    @pick="addMoveTo(s.value, $event)"
                  />
                </li>
              </ul>
            </li>
          </ol>
          <form class="row adder" @submit.prevent="add">
            <InputText v-model="adding" size="small" placeholder="Another step" aria-label="Name of a new step" maxlength="60" />
            <Button type="submit" size="small" severity="secondary" label="+ step" :disabled="!adding.trim()" />
          </form>
        </template>
        <h2>Who sees and fills what</h2>
        <p v-if="!asked.length" class="muted">
          Everybody who may use this form sees and fills all of it{{ steps ? ', at every step' : '' }}.
        </p>
        <dl v-else class="pairs sentence">
          <template v-for="a in asked" :key="a.value"
            ><dt>{{ a.label }}</dt>
            <dd><AccessSentence :place="a.value" /></dd
          ></template>
        </dl>
        <p><PickWord :value="''" text="+ a section, a field…" :options="places" label="Say who sees and fills" @pick="ask" /></p>
      </div>
      <MovePanel v-if="move" :key="move.id" :move="move" class="panel" @removed="selected = null" />
      <div v-else class="panel muted none">{{ steps ? 'Press a move to look at it.' : '' }}</div>
    </div>
    <div v-else class="page"><Skeleton v-for="i in 6" :key="i" style="margin: 10px 0" /></div>
  </div>
</template>

<style scoped>
.steps {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.two {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1.35fr) minmax(360px, 1fr);
}
.register {
  overflow: auto;
  padding: 14px 18px 40px;
}
.panel {
  overflow: auto;
  background: var(--ground-2);
  border-left: 1px solid var(--line);
}
.none {
  padding: 18px;
}
header {
  gap: 12px;
}
ol,
.moves {
  list-style: none;
  margin: 0;
  padding: 0;
}
ol {
  margin-top: 8px;
}
.item {
  border-top: 1px solid var(--line);
  padding: 6px 0;
}
.line {
  gap: 8px;
}
.sign {
  width: 18px;
}
.name {
  width: 150px;
  font-weight: 700;
}
.grip {
  min-width: 24px;
  padding: 2px;
  cursor: grab;
}
.moves {
  padding-left: 54px;
}
.what {
  justify-content: start;
  text-align: start;
  font-weight: 400;
  white-space: normal;
  padding: 2px 6px;
}
.current {
  background: var(--flow-wash);
}
.adds {
  padding: 2px 6px;
  font-size: 13px;
}
.adder {
  gap: 8px;
  padding: 10px 0 6px 32px;
  border-top: 1px solid var(--line);
}
h2 {
  margin-top: 18px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
    overflow: auto;
  }
}
</style>
