import Popover from 'primevue/popover';
import { type ComponentOptionsMixin, defineComponent } from 'vue';

/** What PrimeVue's popover has inside, as far as it is needed here. */
interface Inside {
  target: HTMLElement;
  visible: boolean;
  scrollHandler: { bindScrollListener(): void; unbindScrollListener(): void; destroy(): void } | null;
  alignOverlay(): void;
}

/*
 * PrimeVue's popover, which stays at its word when the page moves under it. PrimeVue's own closes on any scroll, also on the one
 * of a page that grew above the word because an answer came: a list that was just opened was gone before one could choose.
 */
export default defineComponent({
  extends: Popover as unknown as ComponentOptionsMixin,
  methods: {
    bindScrollListener(this: Inside): void {
      this.scrollHandler ??= scrolls((moved) => {
        if (!this.visible || !moved.contains(this.target)) return;
        const { top, bottom } = this.target.getBoundingClientRect();
        // a word that was scrolled away takes its list along
        if (bottom < 0 || top > window.innerHeight) this.visible = false;
        else this.alignOverlay();
      });
      this.scrollHandler.bindScrollListener();
    },
  },
});

function scrolls(call: (moved: Node) => void): NonNullable<Inside['scrollHandler']> {
  const listen = (event: Event): void => call(event.target as Node);
  const stop = (): void => document.removeEventListener('scroll', listen, true);
  return { bindScrollListener: () => document.addEventListener('scroll', listen, true), unbindScrollListener: stop, destroy: stop };
}
