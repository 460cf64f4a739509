import AutoComplete from 'primevue/autocomplete';
import { type ComponentOptionsMixin, defineComponent } from 'vue';
import { type Listed, type ScrollHandler, staysAt } from './staying';

/** What PrimeVue's look-up has inside, as far as it is needed here. */
interface Inside extends Listed {
  scrollHandler: ScrollHandler | null;
}
const plain = AutoComplete as unknown as { methods: { alignOverlay(this: Inside): void } };

/* PrimeVue's look-up, whose list stays at its field when the page moves under both; PrimeVue's own closes then, whatever is being typed. */
export default defineComponent({
  extends: AutoComplete as unknown as ComponentOptionsMixin,
  methods: {
    bindScrollListener(this: Inside): void {
      this.scrollHandler ??= staysAt(this, () => plain.methods.alignOverlay.call(this));
      this.scrollHandler.bindScrollListener();
    },
  },
});
