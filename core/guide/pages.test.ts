import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { type GuidePage, pageForPath, parsePage, searchPages } from './pages.ts';

const docs = new URL('../../docs/', import.meta.url);
const read = (path: string): string => readFileSync(new URL(path, docs), 'utf8');
const pages: GuidePage[] = readdirSync(new URL('guide/', docs)).map((f) => parsePage(f.replace(/\.md$/, ''), read(`guide/${f}`)));
const first = (sought: string): string | undefined => searchPages(pages, sought)[0]?.slug;

describe('the guide', () => {
  test('every page is short where it tells what to do, has its picture, and stands in the list', () => {
    const list = read('designing.md');
    for (const { slug, title, body } of pages) {
      expect(list, slug).toContain(`[${title}](guide/${slug}.md)`);
      const steps = body.split('\n').filter((l) => /^\d\. /.test(l));
      expect(steps.length, slug).toBeGreaterThan(3);
      expect(steps.length, slug).toBeLessThan(11);
      for (const [, picture] of body.matchAll(/!\[[^\]]*\]\(\.\.\/(screenshots\/[^)]*)\)/g))
        expect(existsSync(new URL(picture as string, docs)), `${slug}: ${picture}`).toBe(true);
    }
    expect(pages.length).toBeGreaterThan(12);
  });

  test('leads to fields that the demo has', () => {
    for (const { slug, open } of pages) {
      if (!open) continue;
      const form = JSON.parse(readFileSync(new URL(`../../demo/forms/${open.form}.json`, import.meta.url), 'utf8')) as { fields: object; lines?: Record<string, { fields: object }> };
      const [key = '', inner] = open.field.split('.');
      const there = inner === undefined ? key in form.fields : inner in (form.lines?.[key]?.fields ?? {});
      expect(there, `${slug}: ${open.field}`).toBe(true);
    }
  }); // prettier-ignore

  test.each([
    ['how do I make a cascade', 'cascade'],
    ['dependent list', 'cascade'],
    ['filter a list', 'narrowing'],
    ['default', 'default'],
    ['csv', 'import'],
    ['fill in automatically', 'prefill'],
    ['sum of lines', 'lines'],
    ['older records', 'backfill'],
    ['shortcut', 'build-a-form'],
    ['qr', 'links'],
  ])('“%s” finds %s', (sought, slug) => expect(first(sought)).toBe(slug));
  test('what nobody wrote of finds nothing; nothing sought finds all', () => {
    expect(searchPages(pages, 'submarine')).toEqual([]);
    expect(searchPages(pages, ' the ')).toHaveLength(pages.length);
  });

  test.each([
    ['/design/forms/lot_intake', 'build-a-form'],
    ['/design/forms/lot_intake/cascades', 'cascade'],
    ['/design/forms/lot_intake/backfill', 'backfill'],
    ['/design/tables/import', 'import'],
    ['/entry/lot_intake/new', 'enter-records'],
    ['/sign-in', undefined],
  ])('at %s it opens at %s', (path, slug) => expect(pageForPath(pages, path)?.slug).toBe(slug));

  test('a page that does not say what it is about is refused', () => {
    for (const text of ['', '# Title', '---\nwords: a\n---\nText'])
      expect(() => parsePage('x', text)).toThrow(/“x” does not say what it is about/);
  });
});
