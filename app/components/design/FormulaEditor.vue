<script setup lang="ts">
import { autocompletion, completionKeymap, closeBrackets } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { bracketMatching, HighlightStyle, LanguageSupport, LRLanguage, syntaxHighlighting } from '@codemirror/language';
import { linter, type Diagnostic } from '@codemirror/lint';
import { Compartment, EditorState, Prec } from '@codemirror/state';
import { EditorView, hoverTooltip, keymap, placeholder as placeholderText, tooltips } from '@codemirror/view';
import { styleTags, tags } from '@lezer/highlight';
import { parser } from '~~/core/formula/grammar/parser.js';
import { type SignatureHelp, completionsAt, hoverAt, signatureAt } from '~~/core/formula/complete.ts';
import { formula } from '~~/core/formula/formula.ts';
import type { Scope } from '~~/core/formula/scope.ts';
import type { Type } from '~~/core/values/typing.ts';

/* Formula text with colours, completion, underlined mistakes that can be mended, and the result as one types. */
const props = defineProps<{
  text: string;
  /** what was being written here before; it is taken up again */
  kept?: string;
  /** what was typed before the editor was there to take it */
  early?: string;
  scope: Scope;
  expected: Type | null;
  label: string;
  placeholder?: string;
  result?: (text: string) => string;
  /** what a name holds now */
  valueNow?: (path: string) => string;
  /** what each part of the formula gives now, innermost first */
  working?: (text: string) => readonly { readonly text: string; readonly value: string }[];
  /** where the formula stands in the form: what it was before is found by it */
  place?: string;
  /** the names a formula uses, for finding others that use them; none outside of forms */
  namesOf?: (text: string) => readonly string[];
}>();
/** `leave` tells what stands here unapplied when it goes, null when nothing does. */
const emit = defineEmits<{ ready: []; apply: [text: string]; cancel: []; leave: [text: string | null] }>();

const holder = ref<HTMLElement>();
const current = ref((props.kept ?? props.text) + (props.early ?? ''));
const changed = computed(() => current.value.trim() !== props.text.trim());
/** Escape was pressed over text that is not applied: what is to become of it is asked. */
const asksToDiscard = ref(false);
const checked = computed(() => formula(current.value, props.scope, props.expected));
const problems = computed(() => checked.value.problems);
const outcome = computed(() => (checked.value.syntax && props.result ? props.result(current.value) : ''));
type Below = 'names' | 'working' | 'before' | 'elsewhere';
const below = ref<Below | 'none'>('none');
const doors = computed(() => [
  { key: 'names' as const, word: 'Fields and names' },
  ...(props.working ? [{ key: 'working' as const, word: 'Step by step' }] : []),
  ...(props.place ? [{ key: 'before' as const, word: 'Earlier versions' }] : []),
  ...(props.namesOf ? [{ key: 'elsewhere' as const, word: 'Similar formulas' }] : []),
]);
const parts = computed(() => (below.value === 'working' && checked.value.syntax ? (props.working?.(current.value) ?? []) : []));
const help = shallowRef<SignatureHelp | null>(null);
let view: EditorView | null = null;

const language = LRLanguage.define({
  name: 'formula',
  parser: parser.configure({
    props: [
      styleTags({
        'Number': tags.number, 'Text': tags.string, 'Boolean/...': tags.bool, 'FunctionName/...': tags.function(tags.name), 'Name/...': tags.variableName, 'Property/...': tags.propertyName,
        'And Or Not In Between NotName': tags.keyword, 'Comment': tags.comment,
      }),
    ],
  }),
}); // prettier-ignore
const colours = HighlightStyle.define([
  { tag: tags.number, color: 'var(--flow-ink)' },
  { tag: tags.string, color: 'var(--flow-ink)' },
  { tag: tags.bool, color: 'var(--flow-ink)' },
  { tag: tags.keyword, fontWeight: '700' },
  { tag: tags.function(tags.name), color: 'var(--act)', fontWeight: '700' },
  { tag: tags.variableName, color: 'var(--act)' },
  { tag: tags.comment, color: 'var(--ink-2)', fontStyle: 'italic' },
]);
const diagnostics = linter(
  (v): Diagnostic[] =>
    formula(v.state.doc.toString(), props.scope, props.expected).problems.map((p) => ({
      from: Math.min(p.from, v.state.doc.length),
      to: Math.min(Math.max(p.to, p.from), v.state.doc.length),
      severity: p.severity,
      message: p.message,
      actions: p.fixes.map((f) => ({
        name: f.label,
        apply: (target) => target.dispatch({ changes: { from: f.from, to: f.to, insert: f.insert } }),
      })),
    })),
  { delay: 150 },
);
/** Acts as the pointer goes down: what opens over the button before it goes up would swallow a click. Keys click without one. */
function mend(from: number, to: number, insert: string): void {
  view?.dispatch({ changes: { from, to, insert } });
  view?.focus();
}
/** Puts another formula in place of this one. */
function takeWhole(text: string): void {
  view?.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text }, selection: { anchor: text.length } });
  view?.focus();
}
/** What a name is and holds now, or what a function does, where the pointer rests. */
const hover = hoverTooltip((v, position) => {
  const found = hoverAt(v.state.doc.toString(), position, props.scope);
  if (!found) return null;
  return {
    pos: found.from,
    end: found.to,
    above: true,
    create: () => {
      const dom = document.createElement('div');
      dom.className = 'cm-hover';
      const line = (tag: 'code' | 'b' | 'span', text: string): void => {
        const e = document.createElement(tag);
        e.textContent = text;
        dom.append(e);
      };
      line('code', found.text);
      line('span', found.words);
      const now = found.kind === 'name' ? (props.valueNow?.(found.text) ?? '') : '';
      if (now) line('b', `now ${now}`);
      return { dom };
    },
  };
}, { hoverTime: 250 }); // prettier-ignore
/** Puts a name where the cursor stands. */
function put(text: string): void {
  view?.dispatch(view.state.replaceSelection(text));
  view?.focus();
}
const reading = new Compartment();
onMounted(() => {
  view = new EditorView({
    parent: holder.value as HTMLElement,
    state: EditorState.create({
      doc: current.value,
      extensions: [
        history(), bracketMatching(), closeBrackets(), EditorView.lineWrapping, new LanguageSupport(language), syntaxHighlighting(colours), diagnostics, hover,
        tooltips({ position: 'fixed' }), reading.of([]), placeholderText(props.placeholder ?? 'Type a formula'),
        autocompletion({
          // below stand the problems and the result
          aboveCursor: true,
          override: [(context) => {
            const found = completionsAt(context.state.doc.toString(), context.pos, props.scope);
            if (!found || (!context.explicit && !found.typing)) return null;
            return { from: found.from, options: found.options.map((o) => ({ label: o.text, apply: o.insert, type: o.kind, detail: o.detail, info: o.info || undefined })), validFor: /^[\w\u00a1-\uffff]*$/ };
          }],
        }),
        Prec.highest(keymap.of([{ key: 'Ctrl-Enter', run: () => (apply(), true) }])),
        keymap.of([...completionKeymap, { key: 'Escape', run: () => (escape(), true) }, ...defaultKeymap, ...historyKeymap]),
        EditorView.contentAttributes.of({ 'aria-label': props.label, spellcheck: 'false' }),
        EditorView.updateListener.of((u) => {
          if (u.docChanged) current.value = u.state.doc.toString();
          if (u.docChanged || u.selectionSet) help.value = signatureAt(u.state.doc.toString(), u.state.selection.main.head);
        }),
      ],
    }),
  }); // prettier-ignore
  view.focus();
  view.dispatch({ selection: { anchor: view.state.doc.length } });
  emit('ready');
});
let ended = false;
onBeforeUnmount(() => {
  emit('leave', !ended && changed.value ? current.value : null);
  view?.destroy();
});
// set from elsewhere while nothing was written here, it shows what was set
watch(
  () => props.text,
  (to, from) => {
    if (view && current.value === from) view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: to } });
  },
);
function apply(): void {
  ended = true;
  emit('apply', current.value.trim());
}
function cancel(): void {
  ended = true;
  emit('cancel');
}
function escape(): void {
  if (!changed.value) cancel();
  else asksToDiscard.value = true;
}
function keepOn(): void {
  asksToDiscard.value = false;
  view?.focus();
}
</script>

<template>
  <div class="editor" role="group" aria-label="Formula" @keydown.stop>
    <div ref="holder" class="code" />
    <div class="under">
      <p v-if="help" class="help" role="note" aria-label="The function">
        <code
          >{{ help.signature.slice(0, help.active?.from ?? help.signature.length)
          }}<b v-if="help.active">{{ help.signature.slice(help.active.from, help.active.to) }}</b
          >{{ help.active ? help.signature.slice(help.active.to) : '' }}</code
        >
        <span class="muted">{{ ' ' + help.summary }}</span>
      </p>
      <ul v-if="problems.length" class="problems" aria-label="Problems of the formula">
        <li v-for="p in problems" :key="p.message + p.from" :class="{ bad: p.severity === 'error' }">
          {{ p.message }}
          <Button
            v-for="f in p.fixes"
            :key="f.label"
            link
            @pointerdown.prevent="mend(f.from, f.to, f.insert)"
            @click="$event.detail === 0 && mend(f.from, f.to, f.insert)"
          >
            {{ f.label }}
          </Button>
        </li>
      </ul>
      <p v-else-if="outcome" class="outcome" aria-live="polite">
        now: <b>{{ outcome }}</b>
      </p>
      <div v-if="asksToDiscard" class="row" role="alertdialog" aria-label="Discard what you typed?" @keydown.esc.stop="keepOn">
        <span>This formula is not applied. Discard what you typed?</span>
        <Button severity="danger" size="small" autofocus label="Discard" @click="cancel" />
        <Button text severity="secondary" size="small" label="Keep editing" @click="keepOn" />
      </div>
      <div v-else class="row">
        <Button v-tooltip.bottom="'Ctrl+Enter applies, Ctrl+Space completes'" size="small" @click="apply">Apply</Button>
        <Button text severity="secondary" size="small" @click="cancel">Cancel</Button>
      </div>
      <div class="row doors">
        <Button
          v-for="d in doors"
          :key="d.key"
          link
          severity="secondary"
          :aria-expanded="below === d.key"
          @click="below = below === d.key ? 'none' : d.key"
        >
          {{ d.word }}
        </Button>
      </div>
      <NamesAtHand v-if="below === 'names'" :scope="scope" :value-now="valueNow" @take="put" />
      <FormulaBefore v-else-if="below === 'before' && place" :place="place" :text="text" @take="takeWhole" />
      <FormulaElsewhere v-else-if="below === 'elsewhere' && namesOf" :names="namesOf(current)" :place="place" @take="takeWhole" />
      <dl v-else-if="below === 'working'" class="pairs working" aria-label="Step by step">
        <template v-for="(w, i) in parts" :key="i">
          <dt class="mono">{{ w.text }}</dt>
          <dd>
            <b>{{ w.value }}</b>
          </dd>
        </template>
        <dt v-if="!parts.length" class="muted">There is nothing to work out yet.</dt>
      </dl>
    </div>
  </div>
</template>

<style scoped>
.help {
  font-size: 13px;
}
.help b {
  color: var(--flow-ink);
  text-decoration: underline;
}
.editor {
  border: 1px solid var(--flow);
  border-radius: var(--r);
  background: var(--ground);
  margin: 4px 0;
}
.code :deep(.cm-editor) {
  outline: none;
  min-height: 38px;
  max-height: 220px;
}
.code :deep(.cm-content) {
  font: 13.5px/1.5 var(--mono);
  padding: 8px 4px;
  caret-color: var(--ink);
}
.code :deep(.cm-cursor) {
  border-left-color: var(--ink);
}
.code :deep(.cm-scroller) {
  overflow: auto;
}
.under {
  border-top: 1px solid var(--line);
  padding: 6px 8px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
}
.problems {
  font-size: 13px;
  display: grid;
  gap: 3px;
}
.problems .p-button {
  margin-right: 8px;
}
.outcome {
  font-size: 13px;
}
/* the names of what opens below stay on one line beside the buttons */
.doors {
  flex-wrap: wrap;
  gap: 2px 14px;
}
.doors .p-button-link {
  font-size: 13px;
  white-space: nowrap;
}
.working {
  font-size: 13px;
}
.working dt {
  overflow-wrap: anywhere;
}
</style>
<style>
.cm-tooltip {
  background: var(--ground) !important;
  border: 1px solid var(--line-strong) !important;
  color: var(--ink);
  font-family: var(--font);
  border-radius: 4px;
}
.cm-tooltip-autocomplete > ul > li {
  padding: 3px 8px !important;
  font: 13px var(--font);
}
.cm-tooltip-autocomplete > ul > li[aria-selected] {
  background: var(--flow-wash) !important;
  color: var(--ink) !important;
}
.cm-hover {
  display: grid;
  gap: 2px;
  padding: 6px 9px;
  max-width: 340px;
  font-size: 13px;
}
.cm-completionDetail {
  color: var(--ink-2);
  font-style: normal !important;
}
.cm-completionInfo {
  max-width: 260px;
  padding: 6px 8px !important;
}
.cm-diagnostic {
  border-left-color: var(--bad) !important;
}
.cm-diagnosticAction {
  background: var(--act) !important;
  color: var(--act-ink) !important;
  border-radius: 3px;
}
</style>
