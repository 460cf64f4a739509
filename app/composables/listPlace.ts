/** What of a control with a list is used to put the list in its place. */
export interface Placed {
  readonly overlay: HTMLElement | null;
  alignOverlay(): void;
}

/**
 * Puts the list of a control in place only when its place may have changed: the control does so with each drawing of anything in it, and
 * the page is laid out for it. `decides` gives what the place hangs on, as text.
 */
export function usePlacedOnce(control: Readonly<Ref<Placed | undefined>>, decides: () => string): void {
  onMounted(() => {
    const c = control.value as Placed;
    const place = c.alignOverlay.bind(c);
    let placed: string | null = null;
    // as it is shown, the control moves it to the top of the page before it is put in place
    const now = (): string => `${decides()} ${c.overlay?.style.top}`;
    c.alignOverlay = () => {
      if (c.overlay !== null && placed === now()) return;
      place();
      placed = now();
    };
  });
}
