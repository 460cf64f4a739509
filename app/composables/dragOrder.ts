import type { SortableEvent } from 'sortablejs';
import type { MaybeRefOrGetter } from 'vue';

/** Something was let go somewhere else: which of its place's children it was, and which it is to be, in which place. */
export interface Moved {
  readonly item: HTMLElement;
  readonly from: number;
  readonly to: number;
  readonly into: HTMLElement;
  /** what it was let go before; null at the end */
  readonly before: HTMLElement | null;
}
interface DragOptions {
  /** what is dragged by: the whole element where there is none */
  readonly handle?: string;
  /** places of the same group give to each other */
  readonly group?: string;
  /** which children can be dragged; where that is not said, none can */
  readonly draggable: string;
  readonly disabled?: MaybeRefOrGetter<boolean>;
}

/**
 * Order by dragging, for fields, lines, rules and steps alike. What was dragged is put back where it was and `moved` is called: the model
 * changes, and the screen follows the model. The lines of an option list are dragged by their table, which draws only some of them.
 */
export function useDragOrder(place: MaybeRefOrGetter<HTMLElement | null | undefined>, moved: (move: Moved) => void, options: DragOptions) {
  let next: ChildNode | null = null;
  const none: unknown[] = [];
  const isDisabled = (): boolean => toValue(options.disabled) ?? false;
  // nobody drags before the page stands: what it takes is read when it does
  const scope = effectScope();
  void import('@vueuse/integrations/useSortable').then(({ useSortable }) =>
    scope.run(() => {
      const sortable = useSortable(place, none, {
        handle: options.handle ?? '.grip',
        group: options.group,
        draggable: options.draggable,
        disabled: isDisabled(),
        // the place may be drawn later than what it belongs to
        watchElement: true,
        animation: 120,
        ghostClass: 'dragged',
        onStart: (e: SortableEvent) => {
          next = e.item.nextSibling;
        },
        onUpdate: () => undefined,
        onEnd: (e: SortableEvent) => {
          const { item, from, to, oldDraggableIndex: at, newDraggableIndex: new_ } = e;
          const before = item.nextElementSibling as HTMLElement | null;
          from.insertBefore(item, next);
          if (at === undefined || new_ === undefined || (from === to && at === new_)) return;
          moved({ item, from: at, to: new_, into: to, before });
        },
      });
      watch(isDisabled, (disabled) => sortable.option('disabled', disabled));
    }),
  );
}
