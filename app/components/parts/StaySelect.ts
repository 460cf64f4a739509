import Select from 'primevue/select';
import { type ComponentOptionsMixin, defineComponent } from 'vue';
import { type ScrollHandler, isAway, scrolls } from './staying';

/** What PrimeVue's select has inside, as far as it is needed here. */
interface Inside {
  readonly $refs: { readonly container: HTMLElement };
  readonly overlayVisible: boolean;
  scrollHandler: ScrollHandler | null;
  alignOverlay(): void;
  hide(): void;
}

/* PrimeVue's select, whose list stays at it when the page moves under it: see StayPopover. */
export default defineComponent({
  extends: Select as unknown as ComponentOptionsMixin,
  methods: {
    bindScrollListener(this: Inside): void {
      this.scrollHandler ??= scrolls((moved) => {
        const { container } = this.$refs;
        if (!this.overlayVisible || !moved.contains(container)) return;
        if (isAway(container)) this.hide();
        else this.alignOverlay();
      });
      this.scrollHandler.bindScrollListener();
    },
  },
});
