/**
 * What is done with everything a definition names. Each name is passed through, and what comes back takes its place: whoever
 * renames gives another name, whoever only looks gives the same. `through` makes one that says little of most names.
 */
export interface References {
  table(key: string): string;
  column(table: string, key: string): string;
  subset(table: string, key: string): string;
  list(key: string): string;
  feed(key: string): string;
  /** Formula text, with the part of the field that it is. */
  formula(part: string, text: string): string;
}

/** References that leave every name as it is, but for those given. */
export const through = (some: Partial<References>): References => ({
  table: (key) => key,
  column: (_, key) => key,
  subset: (_, key) => key,
  list: (key) => key,
  feed: (key) => key,
  formula: (_, text) => text,
  ...some,
});
