import { type Component, defineAsyncComponent } from 'vue';

/**
 * A part that is read when it is first needed, and whose props may change until it is there. What a page waits for (Vue’s Suspense, as the
 * `Lazy…` parts are) comes with the props that it was first asked with.
 */
export const latePart = <C extends Component>(load: () => Promise<{ readonly default: C }>): C =>
  defineAsyncComponent({ loader: () => load().then((read) => read.default), suspensible: false }) as unknown as C;
