<script setup lang="ts">
import { hasProposal, proposalKey, withProposal } from '~~/core/evidence/proposal.ts';
import type { ResultOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import { fieldAt } from '~~/core/form/definition.ts';
import { ruleName } from '~~/core/form/rules.ts';
import { share } from './fillWords';

/*
 * What the records propose for the form, each with its evidence and what does not fit. Taken in, it is an edit of the draft as any
 * other, and undone as any other; refused, it is not shown again until somebody asks.
 */
type Found = ResultOf<typeof contract.evidence.proposals>;
type Listed = Found['proposals'][number];
const props = defineProps<{ form: string }>();
const draft = useDraft();
const job = useJob('looking through the records');
const found = shallowRef<Found | null>(null);
const failed = ref('');
const all = ref(false);
/** those taken in here, by their keys */
const taken = ref<ReadonlySet<string>>(new Set());
async function look(): Promise<void> {
  failed.value = '';
  try {
    const answer = await job.run(() => api.evidence.proposals({ key: props.form }, {}));
    if (answer) found.value = answer;
  } catch (e) {
    failed.value = messageOf(e);
  }
}
void look();

/** What a field is called, one of lines with their name before it; of a rule, its name. */
function label(path: string): string {
  for (const form of [draft.form, draft.published]) {
    if (!form) continue;
    const at = form.rules.findIndex((r) => `@${r.id}` === path);
    if (at >= 0) return `The rule “${ruleName(form.rules[at]!, at)}”`;
    const [outer = '', inner] = path.split('.');
    const own = fieldAt(form, path)?.label;
    if (own !== undefined) return inner === undefined ? own : `${form.lines[outer]?.label ?? outer} › ${own}`;
  }
  return path;
}
/** A record where it can be mended: by the form, or before that is published, in its table. */
const recordAt = (id: number): string => draft.version === null && draft.form ? `/design/tables/${draft.form.table}?row=${id}` : `/entry/${props.form}/${id}`; // prettier-ignore
const isRule = (p: Listed): boolean => p.field.startsWith('@');
/** what the draft has already, or has no field for, is no proposal any more */
const isOpen = (p: Listed): boolean => draft.form !== null && !hasProposal(draft.form, p);
const shown = computed(() => (found.value?.proposals ?? []).filter((p) => (!p.refused || all.value) && p.kind !== 'unused'));
const unused = computed(() => (found.value?.proposals ?? []).filter((p) => (!p.refused || all.value) && p.kind === 'unused'));
const refused = computed(() => found.value?.proposals.filter((p) => p.refused).length ?? 0);
const WORDS: Readonly<Record<Listed['kind'], string>> = {
  prefill: 'could be prefilled with',
  calculation: 'could be calculated:',
  default: 'could start with',
  carry: 'could start as in the entry before',
  otherwise: 'could be prefilled otherwise:',
  narrowing: 'could offer only those for which',
  show: 'could be shown only when',
  require: 'could be required when',
  check: 'could be checked: warn when',
  unused: 'is empty in all records',
};
function evidence(p: Listed): string {
  const n = (x: number): string => x.toLocaleString(LOCALE);
  const base = `fits ${n(p.fits)} of ${n(p.of)} ${p.field.includes('.') ? 'lines' : 'records'}`;
  return p.today === null ? base : `${base}; as it is today, ${n(p.today)}`;
}
function take(p: Listed): void {
  if (!draft.form) return;
  draft.change(withProposal(draft.form, p));
  taken.value = new Set([...taken.value, proposalKey(p)]);
}
function giveBack(p: Listed): void {
  draft.undo();
  const rest = new Set(taken.value);
  rest.delete(proposalKey(p));
  taken.value = rest;
}
/** All that is open, as one edit; what takes fields out is not among them. */
function takeAll(): void {
  const open = shown.value.filter((p) => !p.refused && isOpen(p));
  if (!draft.form || !open.length) return;
  draft.change(open.reduce((form, p) => withProposal(form, p), draft.form));
  taken.value = new Set([...taken.value, ...open.map(proposalKey)]);
  takenAtOnce.value = open.map(proposalKey);
}
/** those taken in by the last press that took all: undone together */
const takenAtOnce = ref<readonly string[]>([]);
function giveAllBack(): void {
  draft.undo();
  const gone = new Set(takenAtOnce.value);
  taken.value = new Set([...taken.value].filter((k) => !gone.has(k)));
  takenAtOnce.value = [];
}
/** the last that was taken in can be undone here; others where all edits are */
const lastTaken = computed(() => { const last = [...taken.value].at(-1); return last !== undefined && !takenAtOnce.value.includes(last) ? last : undefined; }); // prettier-ignore
const openOnes = computed(() => shown.value.filter((p) => !p.refused && isOpen(p)).length);
async function refuse(p: Listed, to: boolean): Promise<void> {
  try {
    await api.evidence.refuse({ key: props.form }, { proposal: proposalKey(p), refused: to });
    if (found.value) found.value = { ...found.value, proposals: found.value.proposals.map((x) => (x === p ? { ...x, refused: to } : x)) };
  } catch (e) {
    failed.value = messageOf(e);
  }
}
</script>

<template>
  <section aria-label="Proposals">
    <h2>Proposals</h2>
    <JobProgress v-if="job.running.value" :progress="job.progress.value" :doing="job.doing.value" @cancel="job.cancel()" />
    <Note v-if="failed" kind="bad" :retry="look">{{ failed }}</Note>
    <template v-if="found">
      <p class="muted small">
        From {{ found.records.toLocaleString(LOCALE) }} records as they are now, and the rows they link to{{
          found.older ? ' (the newest 100,000)' : ''
        }}.
        <Button
          v-if="refused"
          link
          severity="secondary"
          :label="all ? 'without those refused' : `${refused} refused`"
          @click="all = !all"
        />
      </p>
      <p v-if="!shown.length && !unused.length">
        {{
          found.records < 20
            ? 'There are too few records to propose anything from: it takes twenty.'
            : 'Nothing that the form does not do already.'
        }}
      </p>
      <p v-if="takenAtOnce.length" role="status">
        {{ takenAtOnce.length }} taken into the draft.
        <Button v-if="draft.canUndo && takenAtOnce.includes([...taken].at(-1) ?? '')" link label="Undo all" @click="giveAllBack" />&nbsp;
        <NuxtLink :to="`/design/forms/${form}`">Try the form</NuxtLink>
      </p>
      <p v-else-if="openOnes > 1">
        <Button size="small" severity="secondary" :label="`Take all ${openOnes} into the draft`" @click="takeAll" />
      </p>
      <ul class="cards">
        <li v-for="p in shown" :key="proposalKey(p)" :aria-label="`${label(p.field)} ${WORDS[p.kind]} ${p.formula}`">
          <p>
            <b>{{ label(p.field) }}</b> {{ WORDS[p.kind] }} <code v-if="p.formula">{{ p.formula }}</code>
          </p>
          <p class="muted small">
            {{ evidence(p) }} ({{ share(p.fits, p.of) }})<template v-if="p.exceptions.length"
              >; not
              <template v-for="(id, i) in p.exceptions.slice(0, 6)" :key="id"
                >{{ i ? ', ' : '' }}<NuxtLink :to="recordAt(id)">{{ id }}</NuxtLink></template
              >{{ p.exceptions.length > 6 ? ' …' : '' }}</template
            >
          </p>
          <p v-if="taken.has(proposalKey(p)) && !isOpen(p)" role="status">
            In the draft. <Button v-if="proposalKey(p) === lastTaken && draft.canUndo" link label="Undo" @click="giveBack(p)" />
            <NuxtLink :to="`/design/forms/${form}?field=${p.field}`">Try it</NuxtLink>
          </p>
          <p v-else-if="!isOpen(p)" class="muted small">The draft has it already.</p>
          <p v-else class="row">
            <Button size="small" label="Take it into the draft" @click="take(p)" />
            <Button size="small" severity="secondary" :label="p.refused ? 'Consider it again' : 'Never'" @click="refuse(p, !p.refused)" />
          </p>
        </li>
      </ul>
      <p v-if="draft.form" class="muted small">
        Columns that come together could be tables of their own:
        <NuxtLink :to="`/design/tables/${draft.form.table}?together`">what repeats in its table</NuxtLink>.
      </p>
      <template v-if="unused.length">
        <h3>Not used</h3>
        <ul class="plain">
          <li v-for="p in unused" :key="proposalKey(p)">
            {{ label(p.field) }}
            <span class="muted small">{{
              isRule(p) ? `holds in none of the newest ${p.of.toLocaleString(LOCALE)}` : 'is empty in all of them'
            }}</span>
            <template v-if="!isOpen(p)"
              >: {{ isRule(p) ? 'turned off in the draft' : 'out of the draft' }}.
              <Button v-if="proposalKey(p) === lastTaken && draft.canUndo" link label="Undo" @click="giveBack(p)"
            /></template>
            <template v-else-if="isOpen(p)">
              &nbsp;<Button
                link
                severity="secondary"
                :label="isRule(p) ? 'turn it off' : 'take it out'"
                :aria-label="isRule(p) ? `Turn off: ${label(p.field)}` : `Take ${label(p.field)} out of the draft`"
                @click="take(p)" />
              ·
              <Button
                link
                severity="secondary"
                :label="p.refused ? 'consider it again' : 'never'"
                :aria-label="`${p.refused ? 'Consider again' : 'Never'}: ${label(p.field)}, not used`"
                @click="refuse(p, !p.refused)"
            /></template>
          </li>
        </ul>
      </template>
    </template>
  </section>
</template>

<style scoped>
.plain li {
  padding: 3px 0;
  line-height: 24px;
}
h3 {
  padding-top: 8px;
}
.small {
  font-size: 12.5px;
}
.cards {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
.cards li {
  padding: 8px 12px;
  background: var(--ground);
  border: 1px solid var(--line);
  border-radius: 6px;
}
code {
  overflow-wrap: anywhere;
}
.row {
  gap: 8px;
  padding-top: 4px;
}
.plain {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 13.5px;
}
</style>
