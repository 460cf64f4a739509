import { createPinia, setActivePinia } from 'pinia';
import ConfirmationEventBus from 'primevue/confirmationeventbus';
import ToastEventBus from 'primevue/toasteventbus';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { effectScope, nextTick } from 'vue';
import { useSession } from '../stores/session';
import { useOverAll } from './overAll';

beforeEach(() => {
  setActivePinia(createPinia());
  vi.useFakeTimers();
});
afterEach(() => vi.useRealTimers());

test('what is said before anything can show it is said again once, when it stands', () => {
  const scope = effectScope();
  const over = scope.run(() => useOverAll())!;
  expect(over.wanted.value).toBe(false);
  ToastEventBus.emit('add', { summary: 'Saved' });
  ConfirmationEventBus.emit('confirm', { message: 'Delete it?' });
  expect(over.wanted.value).toBe(true);
  const heard: unknown[] = [];
  ToastEventBus.on('add', (m) => heard.push(m));
  ConfirmationEventBus.on('confirm', (m) => heard.push(m));
  over.stands();
  expect(heard).toEqual([{ summary: 'Saved' }, { message: 'Delete it?' }]);
  ToastEventBus.emit('add', { summary: 'Later' });
  over.stands();
  expect(heard).toHaveLength(3);
  scope.stop();
  ToastEventBus.clear();
  ConfirmationEventBus.clear();
});

test('it is read when the page has had its time, or when the session ends', async () => {
  const scope = effectScope();
  const first = scope.run(() => useOverAll())!;
  vi.advanceTimersByTime(1100);
  expect(first.wanted.value).toBe(true);
  const second = scope.run(() => useOverAll())!;
  useSession().ended = true;
  await nextTick();
  expect(second.wanted.value).toBe(true);
  scope.stop();
});
