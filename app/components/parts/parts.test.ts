// @vitest-environment happy-dom
import { type VueWrapper, mount } from '@vue/test-utils';
import PrimeVue from 'primevue/config';
import Button from 'primevue/button';
import InputText from 'primevue/inputtext';
import Listbox from 'primevue/listbox';
import Message from 'primevue/message';
import Select from 'primevue/select';
import Skeleton from 'primevue/skeleton';
import Textarea from 'primevue/textarea';
import Tooltip from 'primevue/tooltip';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { type Component, nextTick, shallowRef } from 'vue';
import { quiet } from '../../testing/dom';
import Asked from './Asked.vue';
import NameWord from './NameWord.vue';
import Note from './Note.vue';
import PickOne from './PickOne.vue';
import PickWord from './PickWord.vue';
import StayDialog from './StayDialog';
import TextEdit from './TextEdit.vue';

let shown: VueWrapper;
const PARTS = { Button, InputText, Listbox, Message, Select, Skeleton, Textarea, Note };
// eslint-disable-next-line @typescript-eslint/no-explicit-any -- generic components have no one type of props
function show(part: Component<any>, props: object, slots: object = {}): VueWrapper {
  shown = mount(part, {
    props,
    slots,
    attachTo: document.body,
    global: { plugins: [PrimeVue], components: PARTS, directives: { tooltip: Tooltip }, stubs: { transition: false } },
  });
  return shown;
}
beforeEach(() => {
  vi.stubGlobal('ResizeObserver', class { observe(): void {} unobserve(): void {} disconnect(): void {} }); // prettier-ignore
  vi.stubGlobal('matchMedia', () => ({ matches: false, addEventListener: vi.fn(), removeEventListener: vi.fn() }));
});
afterEach(() => {
  shown.unmount();
  document.body.innerHTML = '';
  vi.unstubAllGlobals();
});
const options = () => [...document.querySelectorAll('[role="option"]')].map((o) => o.textContent?.trim());
const key = (target: Element, name: string): boolean => target.dispatchEvent(new KeyboardEvent('keydown', { key: name, code: name, bubbles: true, cancelable: true })); // prettier-ignore

describe('a word of a sentence', () => {
  const WAITING = [
    { value: 'none', label: 'offer nothing' },
    { value: 'all', label: 'offer all', note: 'of the table' },
    { value: null, label: 'hide the field' },
  ];
  test('says what stands there, and opens what else could', async () => {
    show(PickWord, { value: 'all', options: WAITING, label: 'While waiting' });
    const word = shown.get('button');
    expect([word.text(), word.attributes('aria-label'), word.attributes('aria-expanded')]).toEqual(['offer all', 'While waiting: offer all', 'false']); // prettier-ignore
    // a word that was never pressed costs no list
    expect(document.querySelector('[role="listbox"]')).toBeNull();
    await word.trigger('click');
    await quiet();
    expect(options()).toEqual(['offer nothing', 'offer allof the table', 'hide the field']);
    expect(word.attributes('aria-expanded')).toBe('true');
    expect(document.querySelector('[aria-selected="true"]')?.textContent).toContain('offer all');
  });

  test('the list stays when the page moves under it, and goes with a word that is scrolled away', async () => {
    show(PickWord, { value: 'all', options: WAITING, label: 'While waiting' });
    const word = shown.get('button');
    await word.trigger('click');
    await quiet();
    const at = vi.spyOn(word.element, 'getBoundingClientRect');
    at.mockReturnValue(new DOMRect(0, 300, 80, 20));
    document.dispatchEvent(new Event('scroll'));
    await quiet();
    expect(options()).toHaveLength(3);
    at.mockReturnValue(new DOMRect(0, -40, 80, 20));
    document.dispatchEvent(new Event('scroll'));
    await quiet();
    expect(word.attributes('aria-expanded')).toBe('false');
  });

  test('a press on another gives it, also where it is nothing; on the same one it changes nothing', async () => {
    show(PickWord, { value: 'all', options: WAITING, label: 'While waiting' });
    await shown.get('button').trigger('click');
    await quiet();
    const press = (n: number): void => document.querySelectorAll<HTMLElement>('[role="option"]')[n]?.click();
    press(1);
    await quiet();
    expect(shown.emitted('pick')).toBeUndefined();
    await shown.get('button').trigger('click');
    await quiet();
    press(2);
    await quiet();
    expect(shown.emitted('pick')).toEqual([[null]]);
    expect(document.activeElement === shown.get('button').element).toBe(true);
  });

  test('is walked by keys: arrows, Enter takes, Escape leaves it as it was', async () => {
    show(PickWord, { value: 'none', options: WAITING, label: 'While waiting' });
    await shown.get('button').trigger('click');
    await quiet();
    const list = (): Element => document.querySelector('[role="listbox"]')!;
    expect(document.activeElement === list()).toBe(true);
    key(list(), 'Escape');
    await quiet();
    expect(shown.emitted('pick')).toBeUndefined();
    await shown.get('button').trigger('click');
    await quiet();
    key(list(), 'ArrowDown');
    await nextTick();
    key(list(), 'Enter');
    await quiet();
    expect(shown.emitted('pick')).toEqual([['all']]);
  });

  test('many words are searched; what is typed and entered takes the first that fits', async () => {
    const many = Array.from({ length: 30 }, (_, i) => ({ value: i, label: i === 17 ? 'seventeen' : `word ${i}` }));
    show(PickWord, { value: 0, options: many, label: 'Column' });
    await shown.get('button').trigger('click');
    await quiet();
    const input = document.querySelector<HTMLInputElement>('.p-popover input')!;
    expect(document.activeElement === input).toBe(true);
    input.value = 'sevent';
    input.dispatchEvent(new Event('input', { bubbles: true }));
    await quiet();
    expect(options()).toEqual(['seventeen']);
    key(input, 'Enter');
    await quiet();
    expect(shown.emitted('pick')).toEqual([[17]]);
    expect(document.activeElement === shown.get('button').element, 'the word has the keys again').toBe(true);
  });

  test('what is called exactly as it was typed is taken before what only begins so; the press opens nothing anew', async () => {
    const many = ['Delivery note', 'Delivery', ...Array.from({ length: 9 }, (_, i) => `word ${i}`)].map((label, value) => ({
      value,
      label,
    }));
    show(PickWord, { value: 5, options: many, label: 'Column' });
    await shown.get('button').trigger('click');
    await quiet();
    const input = document.querySelector<HTMLInputElement>('.p-popover input')!;
    input.value = 'delivery';
    input.dispatchEvent(new Event('input', { bubbles: true }));
    await quiet();
    expect(key(input, 'Enter'), 'the press does nothing else').toBe(false);
    await quiet();
    expect(shown.emitted('pick')).toEqual([[1]]);
  });

  test('what stands there and is no option is marked as missing', () => {
    show(PickWord, { value: 'gone', options: WAITING, label: 'While waiting', empty: 'choose' });
    expect([shown.get('button').text(), shown.get('button').classes()]).toEqual(['choose', expect.arrayContaining(['bad'])]);
  });
});

describe('one of a short list', () => {
  test('goes by place, so that nothing is a value like any other', async () => {
    const list = [{ value: null, label: 'a new table' }, { value: 'lots', label: 'Lots' }]; // prettier-ignore
    show(PickOne, { modelValue: null, options: list, label: 'Import into' });
    const box = shown.get('[role="combobox"]');
    expect([box.text(), box.attributes('aria-label')]).toEqual(['a new table', 'Import into']);
    await shown.get('.p-select').trigger('click');
    await quiet();
    expect(options()).toEqual(['a new table', 'Lots']);
    document.querySelectorAll<HTMLElement>('[role="option"]')[1]?.dispatchEvent(new MouseEvent('mousedown', { bubbles: true }));
    document.querySelectorAll<HTMLElement>('[role="option"]')[1]?.click();
    await quiet();
    expect(shown.emitted('update:modelValue')).toEqual([['lots']]);
  });
});

describe('a text edited in place', () => {
  const input = () => shown.get('input').element;
  async function type(text: string): Promise<void> {
    input().dispatchEvent(new Event('focus'));
    input().value = text;
    input().dispatchEvent(new Event('input', { bubbles: true }));
    await nextTick();
  }
  test('what is being typed stays, whatever comes from outside; once left, what stands there shows', async () => {
    show(TextEdit, { value: 'moss' });
    await type('moss and fern');
    await shown.setProps({ value: 'MOSS' });
    expect(input().value).toBe('moss and fern');
    input().dispatchEvent(new Event('change', { bubbles: true }));
    expect(shown.emitted('change')).toHaveLength(1);
    await shown.setProps({ value: 'moss and fern' });
    input().dispatchEvent(new Event('blur'));
    await shown.setProps({ value: 'Moss and fern' });
    expect(input().value).toBe('Moss and fern');
  });
  test('what was emptied and not taken shows what stands', async () => {
    show(TextEdit, { value: 'moss' });
    await type('');
    input().dispatchEvent(new Event('change', { bubbles: true }));
    await quiet();
    expect(input().value).toBe('moss');
  });
});

describe('something that is fetched', () => {
  const query = () => ({ data: shallowRef<string[]>(), error: shallowRef<Error | null>(null), refetch: vi.fn() });
  const list = { default: (given: { data: string[] }) => given.data.join(' ') };
  test('has a place while it is read, and itself after', async () => {
    const q = query();
    show(Asked, { query: q }, list);
    expect(shown.find('.p-skeleton').exists()).toBe(true);
    q.data.value = ['moss', 'fern'];
    await nextTick();
    expect(shown.text()).toBe('moss fern');
  });
  test('says what happened when it could not be had, and tries again when pressed', async () => {
    const q = query();
    q.error.value = new Error('The server cannot be reached.');
    show(Asked, { query: q }, list);
    expect(shown.get('[role="alert"]').text()).toContain('The server cannot be reached.');
    await shown.get('button').trigger('click');
    expect(q.refetch).toHaveBeenCalledTimes(1);
  });
  test('what was read before stays in sight, and is said to be old', async () => {
    const q = query();
    q.data.value = ['moss'];
    q.error.value = new Error('The server cannot be reached.');
    show(Asked, { query: q }, list);
    expect(shown.text()).toContain('This may be out of date.');
    expect(shown.text()).toContain('moss');
    expect(shown.find('[role="alert"]').exists()).toBe(false);
  });
});

describe('a name that can be changed', () => {
  const open = async (props: object): Promise<HTMLInputElement> => {
    show(NameWord, { name: 'grams', of: 'the field', problem: (to: string) => (to === 'taken' ? 'There is “taken” already.' : null), rename: () => undefined, ...props }); // prettier-ignore
    await shown.get('button').trigger('click');
    await quiet();
    return document.querySelector<HTMLInputElement>('input')!;
  };
  const type = async (box: HTMLInputElement, text: string): Promise<void> => {
    box.value = text;
    box.dispatchEvent(new Event('input', { bubbles: true }));
    await quiet();
  };
  const submit = async (): Promise<void> => {
    document.querySelector('form')!.dispatchEvent(new Event('submit', { bubbles: true, cancelable: true }));
    await quiet();
  };

  test('is asked for where it stands; what is wrong with another is said as it is typed, and it cannot be given', async () => {
    const rename = vi.fn();
    const box = await open({ rename });
    expect(box.value).toBe('grams');
    await type(box, 'taken');
    expect(document.querySelector('[role="alert"]')?.textContent).toContain('There is “taken” already.');
    await submit();
    expect(rename).not.toHaveBeenCalled();
    await type(box, ' weight ');
    await submit();
    expect(rename).toHaveBeenCalledWith('weight');
    expect(document.querySelector('form')).toBeNull();
  });
  test('what it is refused with stays beside what was typed; the same name again asks for nothing', async () => {
    const rename = vi.fn(() => Promise.reject(new Error('Somebody else took it.')));
    const box = await open({ rename });
    await type(box, 'weight');
    await submit();
    expect(document.querySelector('[role="alert"]')?.textContent).toContain('Somebody else took it.');
    expect(box.value).toBe('weight');
    await type(box, 'grams');
    await submit();
    expect(rename).toHaveBeenCalledTimes(1);
    expect(document.querySelector('form')).toBeNull();
  });
});

describe('a dialog', () => {
  const opened = (): VueWrapper =>
    show(StayDialog, { visible: true, modal: true, header: 'A link', appendTo: 'self' }, { default: '<input id="quick" />' });
  const focused = (): string => document.activeElement?.id || (document.activeElement?.getAttribute('aria-label') ?? '');

  test('takes the focus when it has come in', async () => {
    opened();
    await quiet();
    expect(focused()).toBe('Close');
  });

  test('whoever went into a field of it before it had come in fully stays there', async () => {
    opened();
    await nextTick();
    document.querySelector<HTMLElement>('#quick')!.focus();
    await quiet();
    expect(focused()).toBe('quick');
  });
});
