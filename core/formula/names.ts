import { type Checked, isMyRoles } from './check.ts';
import type { Span } from './errors.ts';
import { placeInText } from './checkData.ts';
import type { Extra } from './extras.ts';
import { type Syntax, childrenOf, ungroup } from './syntax.ts';

/** What a word of a formula stands for. */
export type Named =
  /** a field, by its slot */
  | { readonly kind: 'field'; readonly slot: number }
  /** a field, by its name: what `before` has */
  | { readonly kind: 'saved'; readonly name: string }
  /** all lines of a group */
  | { readonly kind: 'lines'; readonly group: number }
  | { readonly kind: 'column'; readonly table: string; readonly column: string }
  | { readonly kind: 'table'; readonly table: string }
  | { readonly kind: 'feed'; readonly feed: string }
  | { readonly kind: 'function'; readonly name: string };

/** A word of a formula with where it stands in its text. */
export type NameAt = Named & Span;

/**
 * Every word of a checked formula that names something, in no particular order: what lists and renames go by. A formula that cannot
 * be read names nothing; of one with other mistakes, what could be told. Cost: linear.
 */
export function namesIn(checked: Pick<Checked, 'syntax' | 'read' | 'types' | 'bindings' | 'extras'>): readonly NameAt[] {
  const found: NameAt[] = [];
  let shift = 0;
  const put = ({ from, to }: Span, named: Named): void => void found.push({ ...named, from: from + shift, to: to + shift });
  /** a name may be written bare or as a text: the marks around it stay */
  const bare = (node: Syntax): Span => (node.kind === 'text' ? { from: node.from + 1, to: node.to - 1 } : node);

  const member = (node: Extract<Syntax, { kind: 'member' }>): void => {
    const owner = checked.bindings.get(node.object)?.source;
    const type = checked.types.get(node.object);
    const row = type?.kind === 'list' ? type.of : type;
    const lines = owner?.kind === 'each' ? owner.lines : owner?.kind === 'lines' ? owner : null;
    if (lines) {
      const at = lines.columns.get(node.property);
      if (at !== undefined) put(node.propertySpan, { kind: 'field', slot: lines.first + at });
    } else if (owner?.kind === 'before') put(node.propertySpan, { kind: 'saved', name: node.property });
    else if (row?.kind === 'row' && !(isMyRoles(node, checked.bindings) && checked.types.get(node)?.kind === 'list'))
      put(node.propertySpan, { kind: 'column', table: row.table, column: node.property });
  };
  const call = (node: Extract<Syntax, { kind: 'call' }>): void => {
    put(node.nameSpan, { kind: 'function', name: node.name });
    const extra = checked.extras.get(node);
    const [first, second, third] = node.args.map((a) => a.value);
    if (extra?.kind === 'feed' && first) put(bare(first), { kind: 'feed', feed: extra.feed.key });
    if (extra?.kind === 'attribute' && extra.table !== null && second?.kind === 'text' && extra.columns.has(second.value))
      put(bare(second), { kind: 'column', table: extra.table, column: second.value });
    if (extra?.kind !== 'pick') return;
    if (first) put(bare(first), { kind: 'table', table: extra.table });
    // the order is no value, and is not checked as one
    const order = third && ungroup(third);
    const by = order?.kind === 'unary' ? ungroup(order.operand) : order;
    if (by?.kind === 'member' && extra.sort) put(by.propertySpan, { kind: 'column', table: extra.table, column: by.property });
  };
  const walk = (node: Syntax): void => {
    const extra = checked.extras.get(node);
    if (extra?.kind === 'template' && node.kind === 'call') holes(node, extra);
    else for (const part of childrenOf(node)) walk(part);
    if (node.kind === 'member') member(node);
    else if (node.kind === 'call') call(node);
    const source = checked.bindings.get(node)?.source;
    if (source?.kind === 'slot') put(node, { kind: 'field', slot: source.slot });
    if (source?.kind === 'lines') put(node, { kind: 'lines', group: source.group });
  };
  /** A hole that stands in a text several times was checked where it stands first. */
  const holes = (node: Extract<Syntax, { kind: 'call' }>, { template, holes: syntaxes }: Extract<Extra, { kind: 'template' }>): void => {
    const text = node.args[0]?.value;
    if (text?.kind !== 'text') return;
    for (const { path, places } of template.holes) {
      const syntax = syntaxes.get(path);
      const [first = 0] = places;
      for (const place of syntax ? places : []) {
        shift = placeInText(text, place) - placeInText(text, first);
        walk(syntax!);
      }
    }
    shift = 0;
  };
  const tree = checked.syntax ?? checked.read;
  if (tree) walk(tree);
  return found;
}

/** A formula's text with some of its names written otherwise; null leaves a name as it is. */
export function withNames(text: string, names: readonly NameAt[], rename: (named: NameAt) => string | null): string {
  let written = text;
  // from the end, so that places before stay where they are; a name that is met twice is written once
  let before = text.length + 1;
  for (const name of [...names].sort((a, b) => b.from - a.from)) {
    const fresh = rename(name);
    if (fresh === null || name.to > before) continue;
    written = written.slice(0, name.from) + fresh + written.slice(name.to);
    before = name.from;
  }
  return written;
}
