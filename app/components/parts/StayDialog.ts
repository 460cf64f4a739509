import Dialog from 'primevue/dialog';
import { type ComponentOptionsMixin, defineComponent } from 'vue';

/** What PrimeVue's dialog has inside, as far as it is needed here. */
interface Inside {
  container: HTMLElement | null;
}
const plain = Dialog as unknown as { methods: { focus(this: Inside): void } };

/*
 * PrimeVue's dialog, in which whoever was quicker than its coming stays in the field they went into. PrimeVue's own takes the focus when it
 * has come in fully, also from a field of it that somebody types in by then: the rest of what they type would go nowhere.
 */
export default defineComponent({
  extends: Dialog as unknown as ComponentOptionsMixin,
  methods: {
    focus(this: Inside): void {
      if (!this.container?.contains(document.activeElement)) plain.methods.focus.call(this);
    },
  },
});
