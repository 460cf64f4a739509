import { foldText } from '../../values/text.ts';

/**
 * Whether the whole text fits the pattern: `*` any characters, `?` one character, `~*` and `~?` the signs themselves.
 * Case does not count. Greedy with one backtrack point, so the cost is at most pattern × text: patterns written by
 * users cannot run away as regular expressions can.
 */
export function wildcardMatch(pattern: string, text: string): boolean {
  const signs: { any: 'many' | 'one' | null; char: string }[] = [];
  const source = Array.from(foldText(pattern));
  for (let i = 0; i < source.length; i++) {
    const c = source[i] as string;
    const next = source[i + 1];
    if (c === '~' && (next === '*' || next === '?' || next === '~')) {
      signs.push({ any: null, char: next });
      i++;
    } else signs.push({ any: c === '*' ? 'many' : c === '?' ? 'one' : null, char: c });
  }
  const chars = Array.from(foldText(text));
  let s = 0;
  let p = 0;
  let star = -1;
  let mark = 0;
  while (s < chars.length) {
    const sign = signs[p];
    if (sign && sign.any !== 'many' && (sign.any === 'one' || sign.char === chars[s])) {
      s++;
      p++;
    } else if (sign?.any === 'many') {
      star = p++;
      mark = s;
    } else if (star >= 0) {
      p = star + 1;
      s = ++mark;
    } else return false;
  }
  while (signs[p]?.any === 'many') p++;
  return p === signs.length;
}
