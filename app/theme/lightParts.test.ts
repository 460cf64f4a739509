// @vitest-environment happy-dom
import { mount } from '@vue/test-utils';
import Button from 'primevue/button';
import Checkbox from 'primevue/checkbox';
import Chip from 'primevue/chip';
import Column from 'primevue/column';
import PrimeVue from 'primevue/config';
import DataTable from 'primevue/datatable';
import DatePicker from 'primevue/datepicker';
import InputNumber from 'primevue/inputnumber';
import InputText from 'primevue/inputtext';
import Message from 'primevue/message';
import MultiSelect from 'primevue/multiselect';
import Panel from 'primevue/panel';
import RadioButton from 'primevue/radiobutton';
import Select from 'primevue/select';
import Tag from 'primevue/tag';
import Textarea from 'primevue/textarea';
import { type Component, defineComponent, h, nextTick } from 'vue';
import { expect, test } from 'vitest';
import StayAutoComplete from '../components/parts/StayAutoComplete';
import { lightenParts } from './lightParts';

/* Parts as the application uses them: alone, with what is passed to their elements, with attributes of their own, changed afterwards. */
const OPTIONS = [{ name: 'Fen' }, { name: 'Heath' }];
const ROWS = [
  { id: 1, name: 'Angelica' },
  { id: 2, name: 'Bistort' },
];
const columns = () => [
  h(Column, { field: 'name', header: 'Name', sortable: true, pt: { headerCell: { 'data-own': 'x' } } }),
  h(Column, { field: 'id', header: 'Number' }),
];
const PARTS: readonly (readonly [name: string, part: Component, props: Record<string, unknown>, slots?: Record<string, () => unknown>])[] = [
  ['a button', Button, { label: 'Save' }],
  ['one with an icon, that loads', Button, { icon: 'pi pi-times', loading: true, class: ['own', { on: true }], style: 'width: 3px' }],
  ['one with a badge', Button, { label: 'Save', badge: '3', text: true, severity: 'secondary', size: 'small' }],
  ['one to whose parts something is passed', Button, { label: 'Save', pt: { root: { 'data-own': 'x', class: 'more' }, label: { id: 'its-label' } } }],
  ['one told by an attribute', Button, { label: 'Save', 'pt:root:title': 'told' }],
  ['one made of another, without a name', defineComponent({ name: undefined, extends: Button as Component } as never), { label: 'Save', icon: 'pi pi-times' }],
  ['a text', InputText, { modelValue: 'fen', invalid: true, id: 'own', 'aria-label': 'A text' }],
  ['a number', InputNumber, { modelValue: 12.5, inputId: 'n', minFractionDigits: 2, locale: 'en-GB', showButtons: true }],
  ['a number with something passed inwards', InputNumber, { modelValue: 1, pt: { pcInputText: { root: { autofocus: true, 'data-own': 'x' } } } }],
  ['a long text', Textarea, { modelValue: 'fen', autoResize: true }],
  ['a tick', Checkbox, { modelValue: true, binary: true, inputId: 'c', ariaLabel: 'A tick' }],
  ['a choice of few', RadioButton, { modelValue: 'a', value: 'a', name: 'of', inputId: 'r' }],
  ['a list', Select, { modelValue: OPTIONS[0], options: OPTIONS, optionLabel: 'name', showClear: true, filter: true }],
  ['several of a list', MultiSelect, { modelValue: OPTIONS, options: OPTIONS, optionLabel: 'name', display: 'chip' }],
  ['a choice', StayAutoComplete, { modelValue: 'Fen', suggestions: OPTIONS, optionLabel: 'name', dropdown: true, inputId: 'a', pt: { pcInputText: { root: { 'aria-describedby': 'said' } } } }],
  ['a day', DatePicker, { modelValue: new Date(2026, 2, 10), dateFormat: 'dd/mm/yy', showIcon: true, inline: true }],
  ['what is said', Message, { severity: 'warn', pt: { root: { role: 'status' } } }, { default: () => 'Take care.' }],
  ['a word', Tag, { value: 'new', severity: 'info' }],
  ['a chip', Chip, { label: 'Fen', removable: true }],
  ['a panel', Panel, { header: 'Where', toggleable: true }, { default: () => h(Button, { label: 'within' }) }],
  ['a table', DataTable, { value: ROWS, sortField: 'name', sortOrder: 1, dataKey: 'id', selectionMode: 'single', paginator: true, rows: 1 }, { default: columns }],
]; // prettier-ignore

/** What each draws, as it is mounted and after it has been told something else. */
async function drawn(): Promise<Record<string, readonly string[]>> {
  const all: Record<string, readonly string[]> = {};
  for (const [name, part, props, slots] of PARTS) {
    const shown = mount(part as never, {
      props: props as never,
      slots: slots as never,
      attachTo: document.body,
      global: { plugins: [[PrimeVue, { theme: 'none' }]] },
    });
    await nextTick();
    const first = shown.html();
    await shown.setProps({ disabled: true, class: 'later' } as never);
    all[name] = [first, shown.html()];
    shown.unmount();
  }
  return all;
}

test('parts draw what they drew, whatever is passed to them', async () => {
  const before = await drawn();
  lightenParts();
  const after = await drawn();
  for (const [name] of PARTS) expect(after[name], name).toEqual(before[name]);
  expect(before['one to whose parts something is passed']?.[0]).toContain('data-own="x"');
  expect(before['a table']?.[0]).toContain('Angelica');
});
