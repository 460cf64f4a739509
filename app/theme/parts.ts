/* The look of the parts other than buttons, where it is not what preset.ts says of all of them. */

/** A ground, its line and its ink, for what is signed by colour; a word always stands with it. */
const tones = {
  note: { background: 'var(--flow-wash)', line: 'var(--flow)', color: 'var(--ink)', word: 'var(--flow-ink)' },
  bad: { background: 'var(--bad-wash)', line: 'var(--bad)', color: 'var(--ink)', word: 'var(--bad)' },
  good: { background: 'var(--act-wash)', line: 'var(--act)', color: 'var(--ink)', word: 'var(--ink)' },
  quiet: { background: 'var(--ground-2)', line: 'var(--line)', color: 'var(--ink)', word: 'var(--ink)' },
} as const;
type Tone = (typeof tones)[keyof typeof tones];
const message = ({ background, line, color }: Tone) => ({
  background,
  borderColor: line,
  color,
  shadow: 'none',
  closeButton: { hoverBackground: 'var(--ground-3)', focusRing: { color: 'var(--flow)', shadow: 'none' } },
  outlined: { color, borderColor: line },
  simple: { color },
});
const toast = ({ background, line, color }: Tone) => ({
  background,
  borderColor: line,
  color,
  detailColor: color,
  shadow: 'var(--lift)',
  closeButton: { hoverBackground: 'var(--ground-3)', focusRing: { color: 'var(--flow)', shadow: 'none' } },
});
const tag = ({ background, word }: Tone) => ({ background, color: word });
const both = <T>(scheme: T) => ({ light: scheme, dark: scheme });

const cells = {
  header: { padding: '0.4rem 0.65rem' },
  headerCell: {
    background: 'var(--ground-2)', hoverBackground: 'var(--ground-3)', selectedBackground: 'var(--ground-3)', color: 'var(--ink-2)', hoverColor: 'var(--ink)', selectedColor: 'var(--ink)', padding: '0.3rem 0.65rem', gap: '0.35rem', sm: { padding: '0.2rem 0.5rem' },
  },
  columnTitle: { fontWeight: '600' },
  row: { background: 'transparent', hoverBackground: 'var(--ground-2)', selectedBackground: 'var(--flow-wash)', color: 'var(--ink)', hoverColor: 'var(--ink)', selectedColor: 'var(--ink)' },
  bodyCell: { borderColor: 'var(--line)', padding: '0.4rem 0.65rem', sm: { padding: '0.2rem 0.5rem' } },
  footerCell: { padding: '0.4rem 0.65rem' },
  sortIcon: { color: 'var(--ink-2)', hoverColor: 'var(--ink)', size: '0.75rem' },
  columnResizer: { width: '6px' },
  resizeIndicator: { width: '2px', color: 'var(--flow)' },
}; // prettier-ignore

export const parts = {
  message: {
    root: { borderRadius: '0 4px 4px 0', borderWidth: '0' },
    content: { padding: '0.5rem 0.85rem', gap: '0.5rem' },
    text: { fontSize: '1rem', fontWeight: '400' },
    colorScheme: both({
      warn: message(tones.note),
      error: message(tones.bad),
      success: message(tones.good),
      info: message(tones.quiet),
      secondary: message(tones.quiet),
    })
  },
  toast: {
    root: { width: '24rem' },
    content: { padding: '0.6rem 0.85rem' },
    text: { gap: '2px' },
    summary: { fontWeight: '600', fontSize: '1rem' },
    detail: { fontWeight: '400', fontSize: '0.93rem' },
    colorScheme: both({ root: { blur: '0' }, warn: toast(tones.note), error: toast(tones.bad), success: toast(tones.good), info: toast(tones.quiet), secondary: toast(tones.quiet) }),
  },
  tag: {
    root: { fontSize: '0.93rem', fontWeight: '400', padding: '0.05rem 0.55rem', borderRadius: '4px' },
    colorScheme: both({ primary: tag(tones.quiet), secondary: tag(tones.quiet), info: tag(tones.quiet), warn: tag(tones.note), danger: tag(tones.bad), success: tag(tones.good) })
  },
  chip: {
    root: { borderRadius: '4px', paddingX: '0.5rem', paddingY: '0.05rem', gap: '0.35rem' },
    colorScheme: both({ root: { background: 'var(--ground)', color: 'var(--ink)' }, removeIcon: { color: 'var(--ink-2)' } })
  },
  datatable: {
    ...cells,
    colorScheme: both({ root: { borderColor: 'var(--line)' }, row: { stripedBackground: 'transparent' }, bodyCell: { selectedBorderColor: 'var(--flow)' } })
  },
  treetable: {
    ...cells,
    nodeToggleButton: { size: '1.5rem', hoverBackground: 'var(--ground-3)', color: 'var(--ink-2)', hoverColor: 'var(--ink)' },
    colorScheme: both({ root: { borderColor: 'var(--line)' }, bodyCell: { selectedBorderColor: 'var(--flow)' } }),
  },
  paginator: { root: { padding: '0.35rem 0', gap: '2px' }, navButton: { width: '2rem', height: '2rem', borderRadius: '4px', selectedBackground: 'var(--act-wash)', selectedColor: 'var(--ink)' } },
  dialog: {
    header: { padding: '0.9rem 1.25rem 0.6rem' },
    title: { fontSize: '1.15rem', fontWeight: '700' },
    content: { padding: '0 1.25rem 1.1rem' },
    footer: { padding: '0 1.25rem 1.1rem', gap: '0.5rem' },
  },
  drawer: { header: { padding: '0.8rem 1.1rem' }, title: { fontSize: '1.15rem', fontWeight: '700' }, content: { padding: '0 1.1rem 1.1rem' } },
  panel: { header: { padding: '0.5rem 0' }, title: { fontWeight: '600' }, content: { padding: '0 0 0.5rem' }, toggleableHeader: { padding: '0.25rem 0' }, root: { borderColor: 'transparent', background: 'transparent' } },
  tabs: {
    tablist: { background: 'transparent' },
    tab: { padding: '0.4rem 0.85rem', borderColor: 'var(--line)', hoverBorderColor: 'var(--line-strong)', activeBorderColor: 'var(--act)', color: 'var(--ink-2)', hoverColor: 'var(--ink)', activeColor: 'var(--ink)' },
    tabpanel: { background: 'transparent', padding: '0.6rem 0 0' },
    activeBar: { height: '2px', background: 'var(--act)' },
  },
  togglebutton: {
    root: { padding: '0', borderRadius: '4px', fontWeight: '400', sm: { padding: '0', fontSize: '0.93rem' } },
    content: { padding: '0.25rem 0.7rem', borderRadius: '3px', checkedShadow: 'none', sm: { padding: '0.05rem 0.55rem' } },
    colorScheme: both({
      root: { background: 'var(--ground)', checkedBackground: 'var(--act-wash)', hoverBackground: 'var(--ground-2)', borderColor: 'var(--line-strong)', color: 'var(--ink-2)', hoverColor: 'var(--ink)', checkedColor: 'var(--ink)', checkedBorderColor: 'var(--act)' },
      content: { checkedBackground: 'transparent' },
      icon: { color: 'var(--ink-2)', hoverColor: 'var(--ink)', checkedColor: 'var(--ink)' },
    })
  },
  toggleswitch: {
    root: { width: '2.1rem', height: '1.2rem' },
    handle: { size: '0.8rem' },
    colorScheme: both({ root: { background: 'var(--line-strong)', hoverBackground: 'var(--ink-2)', checkedBackground: 'var(--act)', checkedHoverBackground: 'var(--act)' }, handle: { background: 'var(--ground)', hoverBackground: 'var(--ground)', checkedBackground: 'var(--ground)', checkedHoverBackground: 'var(--ground)' } }),
  },
  checkbox: { root: { width: '1.15rem', height: '1.15rem', borderRadius: '3px', checkedBackground: 'var(--act)', checkedBorderColor: 'var(--act)' }, icon: { size: '0.8rem', checkedColor: 'var(--act-ink)' } },
  radiobutton: { root: { width: '1.15rem', height: '1.15rem', checkedBackground: 'var(--act)', checkedBorderColor: 'var(--act)' }, icon: { size: '0.5rem', checkedColor: 'var(--act-ink)' } },
  breadcrumb: { root: { padding: '0', background: 'transparent', gap: '0.4rem' } },
  splitter: { root: { borderColor: 'transparent', background: 'transparent' }, gutter: { background: 'var(--line)' }, handle: { size: '32px' } },
  tooltip: { root: { maxWidth: '22rem', padding: '0.3rem 0.6rem', borderRadius: '4px' }, colorScheme: both({ root: { background: 'var(--ink)', color: 'var(--ground)' } }) },
  skeleton: { root: { borderRadius: '4px' }, colorScheme: both({ root: { background: 'var(--ground-3)', animationBackground: 'var(--ground-2)' } }) },
  progressbar: { root: { background: 'var(--ground-3)', borderRadius: '4px', height: '8px' }, value: { background: 'var(--act)' } },
  fileupload: { root: { borderColor: 'transparent', background: 'transparent' }, header: { padding: '0', borderWidth: '0' }, content: { padding: '0', highlightBorderColor: 'var(--flow)' } },
  datepicker: {
    panel: { padding: '0.5rem' },
    date: { width: '1.9rem', height: '1.9rem', borderRadius: '4px', padding: '0', selectedBackground: 'var(--act)', selectedColor: 'var(--act-ink)' },
    colorScheme: both({ dropdown: { background: 'var(--ground-2)' }, today: { background: 'var(--flow-wash)', color: 'var(--ink)' } }),
  },
  popover: { root: { gutter: '4px', arrowOffset: '0' }, content: { padding: '3px' } },
  inputtext: { },
  textarea: { },
  select: { dropdown: { width: '1.9rem' } },
  multiselect: { },
  listbox: { root: { borderColor: 'transparent', background: 'transparent', shadow: 'none' } },
  autocomplete: { dropdown: { width: '1.9rem' } },
}; // prettier-ignore
