import { type GuidePage, parsePage } from '~~/core/guide/pages.ts';

/** The order in which one learns: what is not named comes last. */
const ORDER = ['build-a-form', 'layout', 'import', 'choices', 'narrowing', 'cascade', 'default', 'prefill', 'calculation', 'checks', 'rules', 'lines', 'links', 'option-lists', 'feeds', 'try-and-why', 'impact', 'records-say', 'rehearsals', 'publish', 'versions', 'backfill', 'enter-records', 'many-at-once', 'records']; // prettier-ignore
const texts = import.meta.glob<string>('../../../docs/guide/*.md', { query: '?raw', import: 'default', eager: true });
const place = ({ slug }: GuidePage): number => (ORDER.includes(slug) ? ORDER.indexOf(slug) : ORDER.length);

/** The pages of docs/guide, built into the application. */
export const GUIDE_PAGES: readonly GuidePage[] = Object.entries(texts)
  .map(([path, text]) => parsePage(path.replace(/^.*\/|\.md$/g, ''), text))
  .sort((a, b) => place(a) - place(b));
