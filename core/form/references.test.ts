import { readFileSync, readdirSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { type Form } from './definition.ts';
import { parseForm } from './schemas.ts';
import { formulaPlaces } from './formulas.ts';
import { eachNamed, ofForm, withNamed } from './references.ts';

const folder = new URL('../../demo/forms/', import.meta.url);
const forms = readdirSync(folder).map((f): Form => parseForm(JSON.parse(readFileSync(new URL(f, folder), 'utf8'))));

/** Every text in a definition that could be a name, wherever it stands: what nobody went over is found by it. */
function textsIn(value: unknown, at = ''): [string, string][] {
  if (typeof value === 'string') return [[at, value]];
  if (typeof value !== 'object' || value === null) return [];
  return Object.entries(value).flatMap(([k, v]) => textsIn(v, Array.isArray(value) ? at : `${at}.${k}`));
}

describe.each(forms.map((f) => [f.key, f] as const))('the names of %s', (_, form) => {
  test('passed through unchanged, the form is the same', () => {
    expect(withNamed(form, ofForm({}))).toEqual(form);
  });

  test('each is passed once for every place it stands at: tables, columns, subsets, lists, feeds', () => {
    const seen = { table: 0, column: 0, subset: 0, list: 0, feed: 0 };
    const marked = withNamed(
      form,
      ofForm({
        table: (k) => (seen.table++, `T_${k}`),
        column: (t, k) => (seen.column++, `C_${t}_${k}`),
        subset: (t, k) => (seen.subset++, `S_${t}_${k}`),
        list: (k) => (seen.list++, `L_${k}`),
        feed: (k) => (seen.feed++, `F_${k}`),
      }),
    );
    const places: Readonly<Record<string, RegExp>> = {
      table: /^T_/, parent: /^T_/, known: /^C_/, list: /^L_/, feed: /^F_/, subset: /^S_/, column: /^C_/, show: /^C_/, beside: /^C_/, search: /^C_/, sort: /^C_/, values: /^C_/, link: /^C_/, order: /^C_/,
    }; // prettier-ignore
    let found = 0;
    for (const [at, text] of textsIn(marked)) {
      const own = at.split('.').at(-1) ?? '';
      // in a map or an option list the words are no names
      if (at.startsWith('.maps') || at.includes('.options')) continue;
      if (places[own]) {
        expect(text, at).toMatch(places[own]);
        found++;
      } else expect(text, at).not.toMatch(/^[TCSLF]_/);
    }
    expect(found).toBe(seen.table + seen.column + seen.subset + seen.list + seen.feed);
  });

  test('every formula is passed with the place it stands at, and what comes back stands there', () => {
    const places = formulaPlaces(form);
    const marked = withNamed(form, ofForm({ formula: ({ path, part }) => `"${path} ${part}"` }));
    const now = formulaPlaces(marked);
    expect(now.map((p) => p.text)).toEqual(places.map((p) => `"${p.path} ${p.part}"`));
    const left = textsIn(marked).map(([, text]) => text);
    for (const { text } of places) if (text.length > 12) expect(left).not.toContain(text);
  });

  test('a column is told with the table it is of', () => {
    const columns: [string, string][] = [];
    eachNamed(form, { column: (table, key) => void columns.push([table, key]) });
    for (const [key, f] of Object.entries(form.fields)) {
      if (f.column) expect(columns, key).toContainEqual([form.table, f.column]);
      if (f.source?.kind === 'rows' && f.source.show) expect(columns, key).toContainEqual([f.source.table, f.source.show]);
    }
    for (const lines of Object.values(form.lines)) {
      expect(columns).toContainEqual([lines.table, lines.link]);
      for (const f of Object.values(lines.fields)) if (f.column) expect(columns).toContainEqual([lines.table, f.column]);
    }
  });
});
