import { definePreset } from '@primeuix/themes';
import Aura from '@primeuix/themes/aura';

/** Deep green for action, acorn ochre for what is selected or flows. Set here and in assets/base.css, nowhere else. */
const green = {
  50: '#eef5f0', 100: '#e1eee5', 200: '#c2dccb', 300: '#95c2a6', 400: '#5f9f7c', 500: '#38805b', 600: '#1f5c42', 700: '#1a4d38', 800: '#173f2f', 900: '#133327', 950: '#0a1d16',
}; // prettier-ignore
const paper = {
  0: '#fffefa', 50: '#f8f6ef', 100: '#f0ede2', 200: '#e2decf', 300: '#ccc7b5', 400: '#a5a192', 500: '#7d7b6f', 600: '#5d5f55', 700: '#454941', 800: '#2c332d', 900: '#1b231e', 950: '#121814',
}; // prettier-ignore
const ink = {
  0: '#e9ece5', 50: '#c9d0c6', 100: '#a5afa4', 200: '#87928a', 300: '#6b766f', 400: '#525d56', 500: '#414b45', 600: '#343d38', 700: '#2a322d', 800: '#212823', 900: '#1a201c', 950: '#131815',
}; // prettier-ignore

export const briskPreset = definePreset(Aura, {
  semantic: {
    primary: green,
    focusRing: { width: '2px', style: 'solid', color: '#a8650f', offset: '1px' },
    formField: { paddingX: '0.625rem', paddingY: '0.3125rem', borderRadius: '4px' },
    colorScheme: {
      light: {
        surface: paper,
        primary: { color: '{primary.600}', contrastColor: '#ffffff', hoverColor: '{primary.700}', activeColor: '{primary.800}' },
        text: { color: '#16241c', hoverColor: '#0d1712', mutedColor: '#5a635c' },
        formField: {
          background: '#ffffff',
          borderColor: '#b9b4a2',
          hoverBorderColor: '#7d7b6f',
          focusBorderColor: '#a8650f',
          color: '#16241c',
          placeholderColor: '#676d66',
        },
      },
      dark: {
        surface: ink,
        primary: { color: '{primary.300}', contrastColor: '#0a1d16', hoverColor: '{primary.200}', activeColor: '{primary.100}' },
      },
    },
  },
  components: { button: { root: { paddingY: '0.375rem', paddingX: '0.75rem', borderRadius: '4px', label: { fontWeight: '600' } } } },
});
