/** One look of a button: what it rests on, its line and its words, as they are and under the pointer. */
const look = (background: string, border: string, ink: string, over: { background?: string; border?: string } = {}) => ({
  background,
  hoverBackground: over.background ?? background,
  activeBackground: over.background ?? background,
  borderColor: border,
  hoverBorderColor: over.border ?? border,
  activeBorderColor: over.border ?? border,
  color: ink,
  hoverColor: ink,
  activeColor: ink,
  focusRing: { color: 'var(--flow)', shadow: 'none' },
});
const bare = (ink: string) => ({ hoverBackground: 'var(--ground-3)', activeBackground: 'var(--ground-3)', color: ink });
const lined = (ink: string, line: string) => ({
  hoverBackground: 'transparent',
  activeBackground: 'transparent',
  borderColor: line,
  color: ink,
});

const scheme = {
  root: {
    primary: look('var(--act)', 'var(--act)', 'var(--act-ink)', { background: 'var(--act-strong)', border: 'var(--act-strong)' }),
    // what most presses are: a line around words
    secondary: look('var(--ground)', 'var(--line-strong)', 'var(--ink)', { border: 'var(--ink-2)' }),
    // what can be taken up: a suggestion, something that is not published
    warn: look('var(--flow-wash)', 'var(--flow)', 'var(--flow-ink)', { border: 'var(--flow-ink)' }),
    danger: look('var(--ground)', 'var(--line-strong)', 'var(--bad)', { border: 'var(--bad)' }),
    success: look('var(--act-wash)', 'var(--act-line)', 'var(--ink)', { border: 'var(--act)' }),
  },
  outlined: { primary: lined('var(--act)', 'var(--act)'), secondary: lined('var(--ink)', 'var(--line-strong)'), danger: lined('var(--bad)', 'var(--line-strong)') },
  text: { primary: bare('var(--act)'), secondary: bare('var(--ink)'), danger: bare('var(--bad)') },
  link: { color: 'var(--ink)', hoverColor: 'var(--act)', activeColor: 'var(--act)' },
}; // prettier-ignore

/**
 * Presses. `link` is a word of a sentence: it stands in the line as its neighbours do and is known by the dots below it; with
 * `severity="secondary"` it is a lighter word.
 */
export const buttons = {
  root: {
    paddingX: '0.8rem',
    paddingY: '0.3rem',
    iconOnlyWidth: '2rem',
    gap: '0.4rem',
    borderRadius: '4px',
    sm: { fontSize: '0.93rem', paddingX: '0.55rem', paddingY: '0.1rem', iconOnlyWidth: '1.85rem' },
    label: { fontWeight: '600' },
    focusRing: { width: '2px', style: 'solid', offset: '1px' },
  },
  colorScheme: { light: scheme, dark: scheme },
};
