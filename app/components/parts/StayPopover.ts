import Popover from 'primevue/popover';
import { type ComponentOptionsMixin, defineComponent } from 'vue';
import { type ScrollHandler, isAway, scrolls } from './staying';

/** What PrimeVue's popover has inside, as far as it is needed here. */
interface Inside {
  target: HTMLElement;
  visible: boolean;
  scrollHandler: ScrollHandler | null;
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
        if (isAway(this.target)) this.visible = false;
        else this.alignOverlay();
      });
      this.scrollHandler.bindScrollListener();
    },
  },
});
