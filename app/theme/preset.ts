import { definePreset } from '@primeuix/themes';
import Aura from '@primeuix/themes/aura';
import { buttons } from './buttons';
import { parts } from './parts';

/*
 * The look of every control. Colours are those of assets/base.css, by name, so that light and dark are said once; measures are
 * a compact set of our own. One rem is 14 px (assets/base.css), a control 32 px high.
 */
/** From the ground to the ink. Aura counts it the other way round in the dark: its backgrounds are 800 to 950 there. */
const SURFACES = ['var(--ground)', 'var(--ground)', 'var(--ground-2)', 'var(--ground-3)', 'var(--line)', 'var(--line-strong)', 'var(--ink-2)', 'var(--ink-2)', 'var(--ink)', 'var(--ink)', 'var(--ink)', 'var(--ink)']; // prettier-ignore
const DARK_SURFACES = ['var(--ink)', 'var(--ink)', 'var(--ink)', 'var(--ink)', 'var(--ink-2)', 'var(--ink-2)', 'var(--line-strong)', 'var(--line-strong)', 'var(--ground-3)', 'var(--ground-2)', 'var(--ground)', 'var(--ground)']; // prettier-ignore
const STEPS = [0, 50, 100, 200, 300, 400, 500, 600, 700, 800, 900, 950];
const surface = (colours: readonly string[]) => Object.fromEntries(STEPS.map((step, i) => [step, colours[i]]));

const scheme = {
  primary: { color: 'var(--act)', contrastColor: 'var(--act-ink)', hoverColor: 'var(--act-strong)', activeColor: 'var(--act-strong)' },
  highlight: { background: 'var(--act-wash)', focusBackground: 'var(--flow-wash)', color: 'var(--ink)', focusColor: 'var(--ink)' },
  mask: { background: 'var(--veil)', color: 'var(--ink)' },
  formField: {
    background: 'var(--ground)',
    disabledBackground: 'var(--ground-2)',
    filledBackground: 'var(--ground-2)',
    filledHoverBackground: 'var(--ground-2)',
    filledFocusBackground: 'var(--ground)',
    borderColor: 'var(--line-strong)',
    hoverBorderColor: 'var(--ink-2)',
    focusBorderColor: 'var(--flow)',
    invalidBorderColor: 'var(--bad)',
    color: 'var(--ink)',
    disabledColor: 'var(--ink-2)',
    placeholderColor: 'var(--ink-2)',
    invalidPlaceholderColor: 'var(--bad)',
    iconColor: 'var(--ink-2)',
    shadow: 'none',
  },
  text: { color: 'var(--ink)', hoverColor: 'var(--ink)', mutedColor: 'var(--ink-2)', hoverMutedColor: 'var(--ink)' },
  content: { background: 'var(--ground)', hoverBackground: 'var(--ground-2)', borderColor: 'var(--line)', color: 'var(--ink)', hoverColor: 'var(--ink)' },
  overlay: {
    select: { background: 'var(--ground)', borderColor: 'var(--line-strong)', color: 'var(--ink)' },
    popover: { background: 'var(--ground)', borderColor: 'var(--line-strong)', color: 'var(--ink)' },
    modal: { background: 'var(--ground)', borderColor: 'var(--line-strong)', color: 'var(--ink)' },
  },
  list: {
    option: {
      focusBackground: 'var(--flow-wash)',
      selectedBackground: 'transparent',
      selectedFocusBackground: 'var(--flow-wash)',
      color: 'var(--ink)',
      focusColor: 'var(--ink)',
      selectedColor: 'var(--ink)',
      selectedFocusColor: 'var(--ink)',
      icon: { color: 'var(--ink-2)', focusColor: 'var(--ink)' },
    },
    optionGroup: { background: 'transparent', color: 'var(--ink-2)' },
  },
  navigation: {
    item: {
      focusBackground: 'var(--flow-wash)',
      activeBackground: 'var(--flow-wash)',
      color: 'var(--ink)',
      focusColor: 'var(--ink)',
      activeColor: 'var(--ink)',
      icon: { color: 'var(--ink-2)', focusColor: 'var(--ink)', activeColor: 'var(--ink)' },
    },
    submenuLabel: { background: 'transparent', color: 'var(--ink-2)' },
    submenuIcon: { color: 'var(--ink-2)', focusColor: 'var(--ink)', activeColor: 'var(--ink)' },
  },
}; // prettier-ignore

export const briskPreset = definePreset(Aura, {
  semantic: {
    transitionDuration: '0.1s',
    disabledOpacity: '0.6',
    iconSize: '0.93rem',
    focusRing: { width: '2px', style: 'solid', color: 'var(--flow)', offset: '1px' },
    formField: {
      paddingX: '0.625rem',
      paddingY: '0.3rem',
      borderRadius: '4px',
      focusRing: { width: '2px', style: 'solid', color: 'var(--flow)', offset: '-1px', shadow: 'none' },
      sm: { fontSize: '0.93rem', paddingX: '0.5rem', paddingY: '0.125rem' },
    },
    list: { padding: '3px', gap: '0', option: { padding: '0.25rem 0.625rem', borderRadius: '3px' }, header: { padding: '4px' } },
    content: { borderRadius: '4px' },
    navigation: { list: { padding: '3px', gap: '0' }, item: { padding: '0.25rem 0.625rem', borderRadius: '3px' } },
    overlay: {
      select: { borderRadius: '4px', shadow: 'var(--lift)' },
      popover: { borderRadius: '4px', padding: '3px', shadow: 'var(--lift)' },
      modal: { borderRadius: '6px', padding: '1rem 1.25rem', shadow: 'var(--lift)' },
    },
    colorScheme: { light: { ...scheme, surface: surface(SURFACES) }, dark: { ...scheme, surface: surface(DARK_SURFACES) } },
  },
  components: { button: buttons, ...parts },
});
