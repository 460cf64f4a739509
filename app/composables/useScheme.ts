import { usePreferredDark, useStorage } from '@vueuse/core';

/** Light or dark: the system's wish until a person says otherwise. */
export function useScheme() {
  const wish = useStorage<'system' | 'light' | 'dark'>('brisk-scheme', 'system');
  const dark = usePreferredDark();
  const scheme = computed(() => (wish.value === 'system' ? (dark.value ? 'dark' : 'light') : wish.value));
  watchEffect(() => document.documentElement.setAttribute('data-scheme', scheme.value));
  const toggle = (): void => void (wish.value = scheme.value === 'dark' ? 'light' : 'dark');
  return { scheme, toggle };
}
