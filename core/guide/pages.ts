import { looseKey } from '../values/text.ts';

/*
 * The pages of the guide are texts in docs/guide, one a thing to do: read on their own in the repository, and shown by the
 * application. Lines between two `---` at the top say what a page is about.
 */

export interface GuidePage {
  /** the name of the file, and the end of the page's address */
  readonly slug: string;
  readonly title: string;
  /** further words that somebody may look for */
  readonly words: string;
  /** the form and the field of the demo that show it, as `form/path`; null when none does */
  readonly open: { readonly form: string; readonly field: string } | null;
  /** the screen it belongs to: the beginning of its path, where `*` is any part; null when it belongs to none */
  readonly screen: string | null;
  /** the text, as Markdown */
  readonly body: string;
}

/** Reads a page. Throws RangeError when it does not say what it is about. */
export function parsePage(slug: string, text: string): GuidePage {
  const match = /^---\n([^]*?)\n---\n([^]*)$/.exec(text.replaceAll('\r\n', '\n'));
  const about = new Map((match?.[1] ?? '').split('\n').map((l) => [l.split(':')[0]!.trim(), l.slice(l.indexOf(':') + 1).trim()]));
  const title = about.get('title');
  if (!match || !title) throw new RangeError(`The guide page “${slug}” does not say what it is about.`);
  const [form, field] = (about.get('open') ?? '').split('/');
  return {
    slug,
    title,
    words: about.get('words') ?? '',
    open: form && field ? { form, field } : null,
    screen: about.get('screen') ?? null,
    body: (match[2] as string).trim(),
  };
}

/**
 * Pages in which all sought words stand, those that have them in their title first, then among their words, then in their text. A word
 * may be the beginning of one.
 */
export function searchPages(pages: readonly GuidePage[], sought: string): readonly GuidePage[] {
  const words = looseKey(sought).split(' ').filter((w) => w !== '' && !SMALL.has(w)); // prettier-ignore
  if (!words.length) return pages;
  const has = (text: string, word: string): boolean => ` ${looseKey(text)}`.includes(` ${word}`);
  const rank = (p: GuidePage): number => {
    const places = words.map((w) => (has(p.title, w) ? 0 : has(p.words, w) ? 1 : has(p.body, w) ? 2 : 99));
    return Math.max(...places) >= 99 ? 99 : places.reduce<number>((a, b) => a + b, 0);
  };
  return pages
    .map((page, i) => ({ page, i, rank: rank(page) }))
    .filter((p) => p.rank < 99)
    .sort((a, b) => a.rank - b.rank || a.i - b.i)
    .map((p) => p.page);
}
/** Words that people type around what they mean. */
const SMALL = new Set(['A', 'AN', 'THE', 'TO', 'HOW', 'I', 'DO', 'OF', 'IN', 'FOR', 'MY', 'WITH', 'ON', 'CAN', 'FROM']);

/** The page that belongs to a path of the application: the one with the longest beginning that fits. */
export function pageForPath(pages: readonly GuidePage[], path: string): GuidePage | null {
  const parts = path.split('/').filter(Boolean);
  const fits = ({ screen }: GuidePage): number => {
    const asked = (screen ?? '').split('/').filter(Boolean);
    const all = asked.length > 0 && asked.every((a, i) => a === '*' ? parts[i] !== undefined : a === parts[i]); // prettier-ignore
    return all ? asked.length : 0;
  };
  return pages.reduce<GuidePage | null>((best, p) => (fits(p) > (best ? fits(best) : 0) ? p : best), null);
}
