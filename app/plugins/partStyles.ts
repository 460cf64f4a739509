import BaseComponent from '@primevue/core/basecomponent';
import BaseDirective from '@primevue/core/basedirective';
import VirtualScrollerStyle from 'primevue/virtualscroller/style';

/*
 * The styles of PrimeVue's parts are in a file of the page (modules/partStyles.ts). Its parts would look for theirs all the same, each of
 * them whenever it is mounted, work them through and listen for a change of the theme: half of what mounting a part costs. PrimeVue has
 * no switch for it, so these steps of its base part are taken out. (Version 4.5.5, which is pinned.)
 */
const nothing = (): void => {};

interface Styling {
  methods: Record<'_loadStyles' | '_loadCoreStyles' | '_themeChangeListener' | '_removeThemeListeners', () => void>;
  watch: object;
}

export default defineNuxtPlugin(() => {
  const part = BaseComponent as unknown as Styling;
  Object.assign(part.methods, {
    _loadStyles: nothing,
    _loadCoreStyles: nothing,
    _themeChangeListener: nothing,
    _removeThemeListeners: nothing,
  } satisfies Styling['methods']);
  part.watch = {};
  (BaseDirective as unknown as { _loadStyles: () => void })._loadStyles = nothing;
  // the only part that asks for its styles itself
  (VirtualScrollerStyle as unknown as { loadCSS: () => void }).loadCSS = nothing;
});
