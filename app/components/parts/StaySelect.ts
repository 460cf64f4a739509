import Select from 'primevue/select';
import { type ComponentOptionsMixin, defineComponent } from 'vue';
import { type Listed, type ScrollHandler, staysAt } from './staying';

/** What PrimeVue's select has inside, as far as it is needed here. */
interface Inside extends Listed {
  scrollHandler: ScrollHandler | null;
  alignOverlay(): void;
}

/* PrimeVue's select, whose list stays at it when the page moves under it: see StayPopover. */
export default defineComponent({
  extends: Select as unknown as ComponentOptionsMixin,
  methods: {
    bindScrollListener(this: Inside): void {
      this.scrollHandler ??= staysAt(this, () => this.alignOverlay());
      this.scrollHandler.bindScrollListener();
    },
  },
});
