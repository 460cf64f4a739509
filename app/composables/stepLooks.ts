import type { SIGNS, TONES } from '~~/core/form/steps.ts';

/** The icon of a step's sign. */
export const SIGN_ICONS: Readonly<Record<(typeof SIGNS)[number], string>> = {
  ring: 'pi-circle',
  dot: 'pi-circle-fill',
  box: 'pi-box',
  clock: 'pi-clock',
  glass: 'pi-search',
  tick: 'pi-check',
  cross: 'pi-times',
  arrow: 'pi-send',
  flag: 'pi-flag',
  pause: 'pi-pause',
  pen: 'pi-pencil',
};
export const toneColor = (tone: (typeof TONES)[number]): string => `var(--tone-${tone})`;
