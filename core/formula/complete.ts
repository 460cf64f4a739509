import { MY_ROLES_AT_HAND, membersOf } from './atHand.ts';
import { checkFormula, parameterAt } from './check.ts';
import type { Span } from './errors.ts';
import { FUNCTIONS, functionNamed } from './functions/index.ts';
import { parseFormula } from './parse.ts';
import { type Scope, withBinding } from './scope.ts';
import { type Type, typeInWords } from '../values/typing.ts';

export interface Completion {
  readonly text: string;
  readonly insert: string;
  readonly kind: 'variable' | 'property' | 'function' | 'keyword';
  readonly detail: string;
  readonly info: string;
}
export interface Completions {
  /** where the word being completed begins */
  readonly from: number;
  /** whether something was typed that asks for completion by itself */
  readonly typing: boolean;
  readonly options: readonly Completion[];
}

/**
 * What could stand at a place in a formula: after a dot the columns of the row before it, elsewhere names and
 * functions. Null inside a text or where nothing fits.
 */
export function completionsAt(text: string, position: number, scope: Scope): Completions | null {
  const before = text.slice(0, position);
  if ((before.match(/"/g) ?? []).length % 2 === 1) return null;
  const path = /((?:[\p{L}_][\p{L}\p{N}_]*\.)*)([\p{L}_][\p{L}\p{N}_]*)?$/u.exec(before);
  const word = path?.[2] ?? '';
  const from = position - word.length;
  const words = (t: Type): string => typeInWords(t, (k) => scope.tables.get(k)?.label ?? k);
  const here = withEach(scope, eachTypeAt(before.slice(0, from), scope));
  if (path?.[1]) {
    const checked = checkFormula(parseFormula(path[1].slice(0, -1)), here);
    const { type: owner, read } = checked;
    const isMe = read !== undefined && read !== null && checked.bindings.get(read)?.source.kind === 'me';
    const options = [...membersOf(owner, scope), ...(isMe ? [MY_ROLES_AT_HAND] : [])].map(({ key, type, label }): Completion => ({
      text: key,
      insert: key,
      kind: 'property',
      detail: words(type),
      info: label === key ? '' : label,
    }));
    return options.length ? { from, typing: true, options } : null;
  }
  if (/[\d.]$/.test(before.slice(0, from)) && word === '') return null;
  const names = [...here.bindings.values()].map((b): Completion => ({
    text: b.name,
    insert: b.name,
    kind: 'variable',
    detail: words(b.type),
    info: b.label === b.name ? '' : b.label,
  }));
  const functions = FUNCTIONS.map((f): Completion => ({
    text: f.name,
    insert: f.parameters.length ? `${f.name}(` : `${f.name}()`,
    kind: 'function',
    detail: f.signature.slice(f.name.length),
    info: f.summary,
  }));
  return { from, typing: word !== '', options: [...names, ...functions] };
}

/** The functions whose second part is asked of each of a list. */
const ASK_EACH = new Set(['ANYOF', 'ALLOF', 'NONEOF', 'COUNTOF']);
/** What `each` names at the end of a text: one of the list that the innermost function around it asks; null outside of any. */
function eachTypeAt(before: string, scope: Scope): Type | null {
  const open: { name: string; from: number; comma: number | null }[] = [];
  for (const match of before.matchAll(OPENINGS)) {
    const [all, name] = match;
    if (all.startsWith('"') || all.startsWith('/*')) continue;
    if (all.endsWith('(')) open.push({ name: (name ?? '').toUpperCase(), from: match.index + all.length, comma: null });
    else if (all === ')') open.pop();
    else if (open.length) open[open.length - 1]!.comma ??= match.index;
  }
  const call = [...open].reverse().find((o) => ASK_EACH.has(o.name) && o.comma !== null);
  if (!call) return null;
  const checked = checkFormula(parseFormula(`COUNTOF(${before.slice(call.from, call.comma as number)}, ISBLANK(each))`), scope);
  const part = checked.syntax && checked.extras.get(checked.syntax);
  const asked = part?.kind === 'each' && part.condition.kind === 'call' ? part.condition.args[0]?.value : undefined;
  return (asked && checked.types.get(asked)) ?? null;
}
/** A scope in which `each` is known as well, where it is. */
const withEach = (scope: Scope, type: Type | null): Scope =>
  type === null ? scope : withBinding(scope, { name: 'each', label: 'one of the list', type, source: { kind: 'each', lines: null } });
/** Brackets with the name before them, what separates, and texts and comments, in which neither counts. */
const OPENINGS = /"(?:[^"]|"")*"?|\/\*[^]*?(?:\*\/|$)|([\p{L}_][\p{L}\p{N}_]*)\s*\(|[(),;]/gu;

export interface SignatureHelp {
  readonly signature: string;
  readonly summary: string;
  /** the place in the signature text of the parameter being written; null when there are more arguments than parameters */
  readonly active: Span | null;
}

/** The function whose brackets a place in a formula lies in, with the parameter being written there. Null outside of any. */
export function signatureAt(text: string, position: number): SignatureHelp | null {
  const before = text.slice(0, position);
  const open: { name: string; commas: number }[] = [];
  // a light scan, since the formula is rarely whole while one types
  for (const match of before.matchAll(OPENINGS)) {
    const [all, name] = match;
    if (all.startsWith('"') || all.startsWith('/*')) continue;
    if (all.endsWith('(')) open.push({ name: (name ?? '').toUpperCase(), commas: 0 });
    else if (all === ')') open.pop();
    else if (open.length) open[open.length - 1]!.commas++;
  }
  const call = [...open].reverse().find((o) => functionNamed(o.name));
  const declaration = call && functionNamed(call.name);
  if (!declaration) return null;
  const parameter = parameterAt(declaration, call.commas, call.commas + 1);
  const at = declaration.parameters.findIndex((q) => q === parameter);
  const words = declaration.signature.slice(declaration.name.length + 1, -1).split(', ');
  const start = declaration.name.length + 1 + words.slice(0, at).reduce((n, w) => n + w.length + 2, 0);
  return {
    signature: declaration.signature,
    summary: declaration.summary,
    active: at < 0 ? null : { from: start, to: start + (words[at]?.length ?? 0) },
  };
}

export interface Hover extends Span {
  /** the name as it may be written in a formula, up to the part pointed at; for a function its signature */
  readonly text: string;
  readonly kind: 'name' | 'function';
  /** a name's type, a function's summary */
  readonly words: string;
  readonly label: string;
}

/** What a place in a formula points at: a name (`species.genus` when `genus` is pointed at) or a function. Null when neither. */
export function hoverAt(text: string, position: number, scope: Scope): Hover | null {
  const word = /[\p{L}_][\p{L}\p{N}_]*/gu;
  const before = text.slice(0, position);
  if ((before.match(/"/g) ?? []).length % 2 === 1) return null;
  for (const match of text.matchAll(word)) {
    const [from, to] = [match.index, match.index + match[0].length];
    if (position < from || position > to) continue;
    const called = functionNamed(match[0].toUpperCase());
    if (called && /^\s*\(/.test(text.slice(to)))
      return { from, to, kind: 'function', text: called.signature, words: called.summary, label: called.name };
    const path = `${/((?:[\p{L}_][\p{L}\p{N}_]*\.)*)$/u.exec(text.slice(0, from))?.[1] ?? ''}${match[0]}`;
    const binding = scope.bindings.get(path.split('.')[0] ?? '');
    if (!binding) return null;
    const checked = checkFormula(parseFormula(path), scope);
    if (checked.problems.some((p) => p.severity === 'error')) return null;
    const words = typeInWords(checked.type, (k) => scope.tables.get(k)?.label ?? k);
    return { from, to, kind: 'name', text: path, words, label: path === binding.name ? binding.label : path };
  }
  return null;
}
