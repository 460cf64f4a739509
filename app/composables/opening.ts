/**
 * Opens something of a form when it is led to: a formula by the place it stands at, or a panel by the beginning of the places in it.
 * `fits` says whether a place is of it. A formula takes the call; a panel passes it on to what stands in it.
 */
export function useOpening(fits: (place: string) => boolean, open: () => void, takes = true): void {
  const draft = useDraft();
  watch(
    () => draft.opening,
    (place) => {
      if (place === null || !fits(place)) return;
      open();
      if (takes) draft.opening = null;
    },
    { immediate: true },
  );
}
