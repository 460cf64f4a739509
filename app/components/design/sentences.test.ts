// @vitest-environment happy-dom
import { type VueWrapper, mount } from '@vue/test-utils';
import { createPinia, setActivePinia } from 'pinia';
import Button from 'primevue/button';
import PrimeVue from 'primevue/config';
import InputText from 'primevue/inputtext';
import Listbox from 'primevue/listbox';
import Message from 'primevue/message';
import Textarea from 'primevue/textarea';
import Tooltip from 'primevue/tooltip';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Component } from 'vue';
import type { Want } from '../../../core/engine/wants.ts';
import { SEEDBANK, answer, lotForm } from '../../../core/testing/seedbank.ts';
import { useDraft } from '../../stores/draft';
import { quiet } from '../../testing/dom';
import { standInServer } from '../../testing/server';
import FormulaWord from './FormulaWord.vue';
import Note from '../parts/Note.vue';
import NameWord from '../parts/NameWord.vue';
import PickWord from '../parts/PickWord.vue';
import TextEdit from '../parts/TextEdit.vue';
import SourceSentence from './SourceSentence.vue';
import WiringValue from './WiringValue.vue';

/* The sentences of the wiring, as a designer reads and changes them. */

// the editor is CodeMirror's, which needs a page that lays things out: it is tried in a browser
vi.mock('./FormulaEditor.vue', () => ({ default: { template: '<div />' } }));
const PARTS = { Button, FormulaWord, InputText, Listbox, Message, NameWord, Note, PickWord, TextEdit, Textarea };
const LISTS = [{ key: 'storage', label: 'Storage', items: [{ value: 'dry', label: 'Dry', depth: 0, colour: null, mark: null, retired: false }] }]; // prettier-ignore
const CONTEXT = { today: '2026-03-10', now: '2026-03-10T09:00:00', me: 1 };
let shown: VueWrapper;
const FIELDS = {
  species: { label: 'Species', type: 'link', column: 'species', source: { kind: 'rows', table: 'species', show: 'name' } },
  status: { label: 'Status', type: 'choice', column: 'status', source: { kind: 'options', options: [{ value: 'new', label: 'New' }] } },
  grams: { label: 'Grams', type: 'number', value: { kind: 'prefill', formula: 'species.storage_c' } },
};

async function open(part: Component, name: string): Promise<void> {
  standInServer((sent) => {
    if (sent.path.endsWith('/wants')) return { body: answer((sent.body as { wants: Want[] }).wants) };
    if (sent.method === 'PUT') return { body: { revision: 5 } };
    return { body: { draft: lotForm(FIELDS), revision: 4, version: null, published: null, tables: SEEDBANK, lists: LISTS, feeds: [], context: CONTEXT, answered: [], accounts: [], owned: [] } }; // prettier-ignore
  });
  await useDraft().open('lot');
  shown = mount(part, {
    props: { name },
    attachTo: document.body,
    global: { plugins: [PrimeVue], components: PARTS, directives: { tooltip: Tooltip }, stubs: { transition: false, NuxtLink: { template: '<a><slot /></a>' } } },
  }); // prettier-ignore
  await quiet();
}
const text = (): string => document.body.textContent?.replaceAll(/\s+/g, ' ').trim() ?? '';
async function pick(label: string, choice: string): Promise<void> {
  const word = [...document.querySelectorAll<HTMLElement>('button')].find((b) => b.getAttribute('aria-label')?.startsWith(`${label}:`));
  word!.click();
  await quiet();
  [...document.querySelectorAll<HTMLElement>('[role="option"]')].find((o) => o.textContent?.trim().startsWith(choice))!.click();
  await quiet();
}
const source = (name: string) => useDraft().form!.fields[name]?.source;

beforeEach(() => {
  setActivePinia(createPinia());
  vi.stubGlobal('ResizeObserver', class { observe(): void {} unobserve(): void {} disconnect(): void {} }); // prettier-ignore
  vi.stubGlobal('matchMedia', () => ({ matches: false, addEventListener: vi.fn(), removeEventListener: vi.fn() }));
});
afterEach(() => {
  shown.unmount();
  document.body.innerHTML = '';
  vi.unstubAllGlobals();
});

describe('where choices come from', () => {
  test('a link says which table, what is shown, sorted and searched; words are exchanged and added', async () => {
    await open(SourceSentence, 'species');
    expect(text()).toMatch(
      /^Choices are rows of Species, shown as name \(or a text of several columns\) with nothing beside it, sorted by/,
    );
    await pick('One more column beside', 'storage_c');
    expect(source('species')).toMatchObject({ beside: ['storage_c'] });
    expect(text()).toContain('with storage_c + beside it');
    await pick('Column beside', 'leave it out');
    expect(source('species')).toMatchObject({ beside: [] });
    await pick('Table', 'Genera');
    expect(source('species')).toMatchObject({ table: 'genera', show: 'name' });
  });
  test('a choice can come from each kind of list, and says what that kind needs', async () => {
    await open(SourceSentence, 'status');
    expect(text()).toContain('Choices are a list typed in here.');
    for (const [kind, first, says] of [
      ['list', 'an option list', 'the whole tree of Storage'],
      ['distinct', 'the values of a column', 'choose a column of'],
      ['feed', 'the answer of a feed', 'There are no feeds yet.'],
      ['attributes', 'the attributes of a row or JSON', 'those of'],
      ['json', 'JSON typed in here', 'A list of texts'],
      ['options', 'a list typed in here', 'One a line'],
    ] as const) {
      await pick('Kind of list', first);
      expect(source('status')?.kind).toBe(kind);
      expect(text()).toContain(says);
    }
  });
  test('typed choices are one a line, value and label apart; one that stands twice counts once', async () => {
    await open(SourceSentence, 'status');
    const box = document.querySelector('textarea')!;
    box.value = 'a = Alpha\n\nb\na = Again';
    box.dispatchEvent(new Event('input', { bubbles: true }));
    box.dispatchEvent(new Event('change', { bubbles: true }));
    await quiet();
    expect(source('status')).toMatchObject({ options: [{ value: 'a', label: 'Alpha' }, { value: 'b', label: 'b' }] }); // prettier-ignore
  });
});

describe('how a field fills', () => {
  test('says the kind and what belongs to it; another kind keeps the formula', async () => {
    await open(WiringValue, 'grams');
    expect(text()).toContain('Grams is prefilled with species.storage_c');
    expect(text()).toContain('Typed over, it keeps what was typed; it fills whenever its source changes.');
    await pick('Typed over', 'is filled again');
    expect(useDraft().form!.fields.grams?.value).toMatchObject({ kind: 'prefill', typedOver: 'refill' });
    await pick('How it fills', 'is calculated');
    expect(useDraft().form!.fields.grams?.value).toEqual({ kind: 'calculation', formula: 'species.storage_c', always: false });
    expect(text()).toContain('On edit, the saved result stays until something it uses changes.');
    await pick('How it fills', 'is left empty');
    expect(useDraft().form!.fields.grams?.value).toBe(null);
    useDraft().undo();
    await quiet();
    expect(text()).toContain('On edit, the saved result stays');
  });
});
