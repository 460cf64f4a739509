import ConfirmationEventBus from 'primevue/confirmationeventbus';
import ToastEventBus from 'primevue/toasteventbus';

/** How long a page has to itself before what stands over it is read, in milliseconds. */
const AFTER = 1000;

/**
 * When to read what stands over every screen: once a page has had its time, or as soon as something is to be said or asked. What is said
 * before it stands is kept, and said again when it does (`stands`).
 */
export function useOverAll(): { readonly wanted: Readonly<Ref<boolean>>; stands(): void } {
  const session = useSession();
  const wanted = ref(false);
  const buses = [
    { bus: ToastEventBus, event: 'add' },
    { bus: ConfirmationEventBus, event: 'confirm' },
  ] as const;
  const kept: (() => void)[] = [];
  const listening = buses.map(({ bus, event }) => {
    const keep = (said: unknown): void => {
      kept.push(() => bus.emit(event, said));
      wanted.value = true;
    };
    bus.on(event, keep);
    return () => bus.off(event, keep);
  });
  function stands(): void {
    for (const stop of listening.splice(0)) stop();
    for (const say of kept.splice(0)) say();
  }
  watch(
    () => session.ended,
    (ended) => (wanted.value ||= ended),
  );
  const timer = setTimeout(() => (wanted.value = true), AFTER);
  onScopeDispose(() => {
    clearTimeout(timer);
    listening.forEach((stop) => stop());
  });
  return { wanted, stands };
}
