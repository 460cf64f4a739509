import { briskPreset } from './preset';

/**
 * The theme as PrimeVue takes it. It stands in a module, not in the configuration: what stands there is written into every page and worked
 * through by the browser again.
 */
export default {
  preset: briskPreset,
  // what a component says of its own parts stands over what the preset says of all of them
  options: { darkModeSelector: '[data-scheme="dark"]', cssLayer: { name: 'primevue', order: 'base, primevue, brisk' } },
};
