import { type ShowResult, type WhyList, partWords } from '~~/core/engine/why.ts';
import { parseAddress } from '~~/core/engine/state.ts';
import type { Instead } from '~~/core/engine/emptied.ts';

/** One condition of a list as a funnel tells it. */
export interface ToldPart {
  /** the condition in words, with what its names are now */
  readonly words: string;
  /** the same as a formula */
  readonly text: string;
  readonly remaining: number | null;
  readonly skipped: boolean;
  readonly emptied: boolean;
  /** what exists instead, when it left nothing */
  readonly instead: string | null;
}

/** The conditions of a list as they are told, with the counts of a large table where they had to be asked for. */
export function toldParts(host: EntryHost, address: string, list: WhyList, counted: readonly number[] | null): ToldPart[] {
  const entry = host.entry.value;
  if (!entry) return [];
  const { field, line = null } = parseAddress(address);
  const show: ShowResult = (type, result) => showResult(entry.plan, host.cache(), type, result);
  let before = list.all;
  return list.parts.map((p): ToldPart => {
    const remaining = counted?.[p.part] ?? p.remaining;
    const emptied = p.emptied || (counted !== null && remaining === 0 && (before ?? 1) > 0 && !p.skipped);
    before = p.skipped ? before : remaining;
    return {
      words: partWords(entry, { field, line }, p, show),
      text: p.text.replaceAll('choice.', ''),
      remaining,
      skipped: p.skipped,
      emptied,
      instead: p.instead && insteadWords(p.instead, show),
    };
  });
}

function insteadWords(instead: Instead, show: ShowResult): string {
  if (!instead.exist.length) return `None of these rows has a ${instead.column.replaceAll('.', ' › ').replaceAll('_', ' ')}.`;
  const all = instead.exist.map((e) => `${show(instead.type, e.value)} (${e.rows.toLocaleString(LOCALE)})`);
  const near = instead.nearMisses.length ? `Nearly the same: ${instead.nearMisses.map((m) => `“${m}”`).join(', ')}. ` : '';
  return `${near}There are: ${all.join(', ')}${instead.more ? ` and ${instead.more.toLocaleString(LOCALE)} more` : ''}.`;
}
