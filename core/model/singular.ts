/** What a table of things is called when one of them is meant: Sites for a site, Families for a family, Genera for a genus. */
const PLURALS: readonly (readonly [ends: RegExp, plural: string])[] = [
  [/$/, ''],
  [/$/, 's'],
  [/$/, 'es'],
  [/y$/, 'ies'],
  [/fe?$/, 'ves'],
  [/us$/, 'era'],
  [/us$/, 'i'],
  [/on$/, 'a'],
  [/um$/, 'a'],
];

/** The thing whose name in the plural `label` is one of; null when there is none. Case does not matter. Cost: linear. */
export function tableOfOne<T extends { readonly label: string }>(label: string, tables: Iterable<T>): T | null {
  const one = label.trim().toLowerCase();
  if (one.length < 3) return null;
  const plurals = new Set(PLURALS.flatMap(([ends, plural]) => (ends.test(one) ? [one.replace(ends, plural)] : [])));
  for (const table of tables) if (plurals.has(table.label.trim().toLowerCase())) return table;
  return null;
}
