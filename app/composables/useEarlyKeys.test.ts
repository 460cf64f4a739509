// @vitest-environment happy-dom
/* eslint-disable vue/one-component-per-file -- stand-ins of a few lines, each for this test alone */
import { type VueWrapper, mount } from '@vue/test-utils';
import { afterEach, expect, test } from 'vitest';
import { Suspense, defineComponent, h, ref } from 'vue';

/* Keys that are typed while what they are for is on its way. */

let shown: VueWrapper;
afterEach(() => shown.unmount());

const Editor = defineComponent({
  props: { early: { type: String, default: '' } },
  emits: ['ready'],
  setup(props, { emit }) {
    const text = ref(props.early);
    onMounted(() => emit('ready'));
    return () => h('output', text.value);
  },
});
function word(arrives: Promise<unknown>, applied?: (text: string) => void) {
  const Late = latePart(() => arrives.then(() => ({ default: Editor })));
  return defineComponent({
    setup() {
      const there = ref(false);
      const early = useEarlyKeys(
        () => !there.value,
        () => isTypedInto(document.activeElement),
        applied,
      );
      return () => h(Late, { early: early.value, onReady: () => (there.value = true) });
    },
  });
}
const press = (key: string, more: KeyboardEventInit = {}): boolean =>
  document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }));
const type = (text: string): void => {
  for (const key of text) press(key);
};

test.each([['within what waits for its parts', true], ['elsewhere', false]])('come with it when it is there, %s', async (_, isWaitedFor) => {
  let arrive = (): void => undefined;
  const Word = word(new Promise<void>((resolve) => (arrive = resolve)));
  const isOpen = ref(false);
  const page = (): ReturnType<typeof h> => h('div', isOpen.value ? [h(Word)] : []);
  shown = mount(defineComponent({ render: () => (isWaitedFor ? h(Suspense, null, { default: page }) : page()) }), { attachTo: document.body });
  await nextTick();
  isOpen.value = true;
  await nextTick();
  type('"loo');
  await nextTick();
  type('ked"');
  arrive();
  await new Promise((resolve) => setTimeout(resolve));
  expect(document.querySelector('output')?.textContent).toBe('"looked"');
}); // prettier-ignore

test('are ended before it is there; what was mistyped is taken out; other keys go where they go', async () => {
  const applied: string[] = [];
  shown = mount(
    word(new Promise(() => undefined), (text) => applied.push(text)),
    { attachTo: document.body },
  );
  expect(press('Backspace'), 'with nothing typed it is nobody’s').toBe(true);
  type('"looj');
  press('Backspace');
  type('k"');
  expect([press('Tab'), press('s', { ctrlKey: true }), press('Enter')]).toEqual([true, true, true]);
  expect(press('Enter', { ctrlKey: true })).toBe(false);
  expect(applied).toEqual(['"look"']);
});
