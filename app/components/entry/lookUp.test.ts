// @vitest-environment happy-dom
import { type VueWrapper, mount } from '@vue/test-utils';
import Button from 'primevue/button';
import Chip from 'primevue/chip';
import PrimeVue from 'primevue/config';
import Tag from 'primevue/tag';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { compileForm } from '../../../core/engine/compile.ts';
import { type Answered, LONGEST_SEARCH, type Want } from '../../../core/engine/wants.ts';
import { CONTEXT, LARGE_TABLES, LOT_FIELDS, SEEDBANK_TABLES, answer, lotForm, lotPlan } from '../../../core/testing/seedbank.ts';
import { quiet } from '../../testing/dom';
import { type EntryHost, useEntryHost } from '../../composables/useEntryHost';
import OptionSwatch from '../parts/OptionSwatch.vue';
import StayAutoComplete from '../parts/StayAutoComplete';
import ChoiceInput from './ChoiceInput.vue';

let shown: VueWrapper;
let host: EntryHost;
async function open(
  plan = lotPlan(),
  fetchWants: (wants: readonly Want[]) => Promise<Answered[]> = (w) => Promise.resolve(answer(w)),
): Promise<void> {
  host = useEntryHost(fetchWants);
  host.open(plan, CONTEXT, null);
  await host.settled();
}
function show(name: string): HTMLInputElement {
  shown = mount(ChoiceInput, {
    props: { host, name, id: `f-${name}`, onChoose: (v) => host.set(name, v), onMisread: (u) => host.misread(name, u) },
    attachTo: document.body,
    global: { plugins: [PrimeVue], components: { StayAutoComplete, Button, Chip, OptionSwatch, Tag }, stubs: { transition: false } },
  });
  return shown.get('input').element;
}
const options = () => [...document.querySelectorAll('[role="option"]')].map((o) => o.getAttribute('aria-label'));
const pointed = () => document.querySelector('[data-p-focused="true"]')?.getAttribute('aria-label');
async function key(input: Element, name: string, more: KeyboardEventInit = {}): Promise<void> {
  input.dispatchEvent(new KeyboardEvent('keydown', { key: name, code: name, bubbles: true, cancelable: true, ...more }));
  await quiet();
}
async function type(input: HTMLInputElement, text: string): Promise<void> {
  input.focus();
  input.value = text;
  input.dispatchEvent(new Event('input', { bubbles: true }));
  await quiet();
}
const held = (name: string) => host.view(name).value;

beforeEach(() => {
  vi.stubGlobal('ResizeObserver', class { observe(): void {} unobserve(): void {} disconnect(): void {} }); // prettier-ignore
  vi.stubGlobal('matchMedia', () => ({ matches: false, addEventListener: vi.fn(), removeEventListener: vi.fn() }));
  Element.prototype.scrollIntoView = () => undefined;
});
afterEach(() => {
  shown.unmount();
  document.body.innerHTML = '';
  vi.unstubAllGlobals();
});

describe('a look-up', () => {
  test('offers what its field offers, and narrows it by what is typed; Enter takes what is pointed at', async () => {
    await open();
    host.set('family', 1);
    const input = show('genus');
    await key(input, 'ArrowDown');
    expect(options()).toEqual(['Fagus', 'Quercus']);
    await type(input, 'que');
    expect([options(), pointed()]).toEqual([['Quercus'], 'Quercus']);
    await key(input, 'Enter');
    expect([held('genus'), options()]).toEqual([host.entry.value?.offer('genus')?.rows?.find((r) => r.name === 'Quercus')?.id, []]);
    expect(shown.get('input').element.value).toBe('Quercus');
  });

  test('begins at what is chosen, and the arrows go on from there', async () => {
    await open();
    host.set('family', 2);
    const input = show('family');
    await key(input, 'ArrowDown');
    expect(document.querySelector('[aria-selected="true"]')?.getAttribute('aria-label')).toBe(host.show('family'));
    expect(pointed()).toBe(host.show('family'));
    await key(input, 'ArrowUp');
    await key(input, 'Enter');
    expect(held('family')).not.toBe(2);
  });

  test('what is usual comes first when it comes; what is pointed at stays pointed at', async () => {
    const family = { ...LOT_FIELDS.family, source: { ...(LOT_FIELDS.family as { source: object }).source, first: 'recent' } };
    let come = (): void => {};
    const coming = new Promise<void>((resolve) => (come = resolve));
    const rowOf = (id: number) => host.entry.value!.offer('family')!.rows!.find((r) => r.id === id)!;
    await open(compileForm(lotForm({ ...LOT_FIELDS, family }), SEEDBANK_TABLES), async (wants) => {
      const [want] = wants;
      if (want?.kind !== 'usual') return answer(wants);
      await coming;
      return [{ want, answer: { kind: 'usual', rows: [rowOf(2)] } }];
    });
    host.set('family', 1);
    const input = show('family');
    await key(input, 'ArrowDown');
    expect([options()[0] === rowOf(2).name, pointed()]).toEqual([false, rowOf(1).name]);
    come();
    await quiet();
    expect([options()[0], pointed()]).toEqual([rowOf(2).name, rowOf(1).name]);
    await key(input, 'Enter');
    expect(held('family')).toBe(1);
  });

  test('Escape shuts the list and goes no further; what was typed stays typed', async () => {
    await open();
    host.set('family', 1);
    const input = show('family');
    const further = vi.fn();
    document.addEventListener('keydown', further);
    await type(input, 'bet');
    await key(input, 'Escape');
    expect([held('family'), shown.get('input').element.value, options(), further.mock.calls.length]).toEqual([1, 'bet', [], 0]);
    document.removeEventListener('keydown', further);
  });

  test('left with text that is one of what is offered, that one is taken; emptied, the field is; other text stays, with what is near', async () => {
    await open();
    const input = show('family');
    const leave = async (text: string): Promise<void> => {
      await type(input, text);
      input.dispatchEvent(new FocusEvent('blur', { bubbles: true }));
      await quiet();
    };
    await leave('fagaceae');
    expect(host.show('family')).toBe('Fagaceae');
    await leave('rosacea');
    expect([host.show('family'), shown.get('input').element.value]).toEqual(['Fagaceae', 'rosacea']);
    expect(host.view('family').unreadable?.message).toBe('“rosacea” is not one of the choices.');
    expect(shown.get('.near').text()).toBe('Perhaps: Rosaceaekeep Fagaceae');
    // drawn anew, it still stands there
    shown.unmount();
    expect(show('family').value).toBe('rosacea');
    await quiet();
    shown
      .findAll('.near button')
      .at(0)!
      .element.dispatchEvent(new MouseEvent('click', { bubbles: true }));
    await quiet();
    expect([host.show('family'), host.view('family').unreadable, shown.find('.near').exists()]).toEqual(['Rosaceae', null, false]);
    await type(shown.get('input').element, 'zzz');
    shown.get('input').element.dispatchEvent(new FocusEvent('blur', { bubbles: true }));
    await quiet();
    shown
      .findAll('.near button')
      .at(-1)!
      .element.dispatchEvent(new MouseEvent('click', { bubbles: true }));
    await quiet();
    expect([host.show('family'), shown.get('input').element.value, host.view('family').unreadable]).toEqual(['Rosaceae', 'Rosaceae', null]);
    const again = shown.get('input').element;
    await type(again, '');
    again.dispatchEvent(new FocusEvent('blur', { bubbles: true }));
    await quiet();
    expect(held('family')).toBe(null);
  });

  test('the list stays while the page moves under it, and goes with a field that is scrolled away', async () => {
    await open();
    const input = show('species');
    input.focus();
    await type(input, 'quercus');
    expect(options()).toHaveLength(2);
    const at = vi.spyOn(shown.get('.p-autocomplete').element, 'getBoundingClientRect');
    at.mockReturnValue(new DOMRect(0, 300, 80, 20));
    document.dispatchEvent(new Event('scroll'));
    await quiet();
    expect(options()).toHaveLength(2);
    at.mockReturnValue(new DOMRect(0, -40, 80, 20));
    document.dispatchEvent(new Event('scroll'));
    await quiet();
    expect(options()).toEqual([]);
    // what was typed stays
    expect(input.value).toBe('quercus');
  });

  test('Tab takes what is pointed at after typing, and nothing when nothing was typed', async () => {
    await open();
    const input = show('family');
    await key(input, 'ArrowDown');
    await key(input, 'Tab');
    expect(held('family')).toBe(null);
    await type(input, 'fag');
    await key(input, 'Tab');
    expect(host.show('family')).toBe('Fagaceae');
  });

  test('a press on an option takes it', async () => {
    await open();
    const input = show('family');
    input.dispatchEvent(new MouseEvent('mousedown', { bubbles: true }));
    await quiet();
    document.querySelector<HTMLElement>('[role="option"] .one')?.click();
    await quiet();
    expect(held('family')).not.toBe(null);
    expect(document.activeElement === input).toBe(true);
  });

  test('while it waits for a parent it says for which, and offers nothing', async () => {
    await open(lotPlan({ ...LOT_FIELDS, genus: { ...LOT_FIELDS.genus, source: { kind: 'rows', table: 'genera', show: 'name', where: 'choice.family = family', waiting: 'none' } } })); // prettier-ignore
    const input = show('genus');
    expect([input.placeholder, input.readOnly]).toEqual(['Waiting for Family', true]);
    await key(input, 'ArrowDown');
    expect([options(), document.body.textContent]).toEqual([[], expect.stringContaining('Choose Family first.')]);
  });

  test('what fits nothing is said to', async () => {
    await open();
    const input = show('family');
    await type(input, 'zzz');
    expect([options(), document.body.textContent]).toEqual([[], expect.stringContaining('No choice contains “zzz”.')]);
  });
});

describe('a look-up of a large table', () => {
  const rows = Array.from({ length: 200 }, (_, i) => ({ id: 1000 + i, name: `Species ${String(i).padStart(3, '0')}`, active: true }));
  /** Pages as the server gives them; what is asked for stands in `asked`. */
  function server() {
    const asked: { search: string; offset: number }[] = [];
    const fetchWants = (wants: readonly Want[]): Promise<Answered[]> =>
      Promise.resolve(
        wants.map((want): Answered => {
          if (want.kind === 'count') return { want, answer: { kind: 'count', total: rows.length, capped: false, only: null } };
          if (want.kind === 'offered') return { want, answer: { kind: 'offered', offered: true } };
          if (want.kind !== 'page') return (answer([want])[0] ?? { want, answer: { kind: 'failed', reason: 'no' } }) as Answered;
          asked.push({ search: want.search, offset: want.offset });
          const fits = rows.filter((r) => r.name.includes(want.search));
          return { want, answer: { kind: 'page', rows: fits.slice(want.offset, want.offset + want.limit), more: fits.length > want.offset + want.limit } } as Answered; // prettier-ignore
        }),
      );
    return { asked, fetchWants };
  }
  test('is read page by page, searched by the server, and a late answer takes no newer one’s place', async () => {
    const { asked, fetchWants } = server();
    await open(compileForm(lotForm(), LARGE_TABLES), fetchWants);
    const input = show('species');
    await key(input, 'ArrowDown');
    await quiet();
    expect(asked.at(-1)).toEqual({ search: '', offset: 0 });
    await type(input, 'Species 1');
    await type(input, 'Species 123');
    await quiet(100);
    expect(asked.at(-1)).toEqual({ search: 'Species 123', offset: 0 });
    await key(input, 'Enter');
    expect(held('species')).toBe(1123);
  });

  test('is searched for the beginning of a text that is longer than may be asked; what is typed stays and is told to be no choice', async () => {
    const { asked, fetchWants } = server();
    await open(compileForm(lotForm(), LARGE_TABLES), fetchWants);
    const input = show('species');
    await key(input, 'ArrowDown');
    const typed = `Species 1${' or another'.repeat(40)}`;
    await type(input, typed);
    await quiet(100);
    expect(asked.at(-1)).toEqual({ search: typed.slice(0, LONGEST_SEARCH), offset: 0 });
    await key(input, 'Tab');
    input.blur();
    await quiet();
    expect(host.view('species').unreadable).toEqual({ text: typed, message: `“${typed.slice(0, 60)}…” is not one of the choices.` });
    // what it was left with was searched for already; then for what is spelled nearly so
    expect(asked.map((a) => a.search).filter((search) => search !== '')).toEqual([typed.slice(0, LONGEST_SEARCH), 'Spe']);
  });

  test('narrowed anew while it is empty, its first page is read before it is opened, once; filled, it is not', async () => {
    const { asked, fetchWants } = server();
    await open(compileForm(lotForm(), LARGE_TABLES), fetchWants);
    asked.length = 0;
    host.set('genus', 11);
    await host.settled();
    await quiet();
    expect(asked).toEqual([{ search: '', offset: 0 }]);
    const input = show('species');
    await key(input, 'ArrowDown');
    await quiet();
    expect(asked).toEqual([{ search: '', offset: 0 }]);
    await key(input, 'Enter');
    expect(held('species')).toBe(1000);
    host.set('genus', 12);
    await host.settled();
    expect([held('species'), asked.length]).toEqual([1000, 1]);
  });

  test('what could not be read ahead is asked for when the list is opened', async () => {
    const { asked, fetchWants } = server();
    let fail = (): void => {};
    const failing = new Promise<never>((_, reject) => (fail = () => reject(new Error('refused'))));
    let isFirst = false;
    await open(compileForm(lotForm(), LARGE_TABLES), (wants) => {
      if (!isFirst || wants[0]?.kind !== 'page') return fetchWants(wants);
      isFirst = false;
      return failing;
    });
    isFirst = true;
    asked.length = 0;
    host.set('genus', 11);
    await quiet();
    const input = show('species');
    await key(input, 'ArrowDown');
    fail();
    await quiet();
    expect([isFirst, asked.length, document.querySelector('.say.bad')]).toEqual([false, 1, null]);
    await key(input, 'Enter');
    expect(held('species')).toBe(1000);
  });
});
