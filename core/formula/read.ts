import { canonical, MAX_NUMBER } from '../values/decimal.ts';
import { isDigit, isHalf, isLetter, isSpace } from './grammar/characters.ts';
import type { Argument, BinaryOperator, Syntax } from './syntax.ts';

/*
 * Reads formulas by recursive descent with precedence climbing over the characters (Pratt, “Top down operator precedence”, 1973). The
 * language is that of grammar/formula.grammar, by which the editor colours what is being typed; property tests hold them together: both
 * read the same texts, as the same tree.
 */

/** Why a text cannot be read. */
export type Reason = 'unexpected' | 'brackets' | 'operations';
/** A text that cannot be read, and the part of it where that shows: nothing up to there is wrong. */
export class Unread extends Error {
  constructor(
    readonly reason: Reason,
    readonly from: number,
    readonly to: number,
  ) {
    super(reason);
  }
}

const enum Char {
  Quote = 34, Percent = 37, And = 38, Open = 40, Close = 41, Times = 42, Plus = 43, Comma = 44, Minus = 45, Dot = 46, Over = 47,
  Zero = 48, Nine = 57, Colon = 58, Semicolon = 59, Less = 60, Equal = 61, Greater = 62, Power = 94,
} // prettier-ignore

/** How strongly an operator between two values binds; 0 is none. */
function strength(c: number): number {
  switch (c) {
    case Char.And: return 1;
    case Char.Plus: case Char.Minus: return 2;
    case Char.Times: case Char.Over: return 3;
    case Char.Power: return 4;
    default: return 0;
  } // prettier-ignore
}
/** Words that are no names, as they are written in capitals. */
const WORDS = new Set(['AND', 'OR', 'NOT', 'IN', 'BETWEEN', 'TRUE', 'FALSE']);
/** The word in capitals where it is one of those, else an empty text. Most names are longer than any of them. */
function keywordOf(word: string): string {
  if (word.length > 7 || word.length < 2) return '';
  const upper = word.toUpperCase();
  return WORDS.has(upper) ? upper : '';
}

/** Operands joined by a sign or a word. */
export type Mixed = Extract<Syntax, { kind: 'binary' }>;
/** What was read. */
export interface Read {
  readonly syntax: Syntax;
  /** what must be said of it, in the order of where it ends: AND beside OR without brackets, and numbers that are too large */
  readonly doubts: readonly (Mixed | Extract<Syntax, { kind: 'number' }>)[];
}

class Reader {
  readonly doubts: (Mixed | Extract<Syntax, { kind: 'number' }>)[] = [];
  private at = 0;
  /** how many brackets and signs stand around what is read */
  private inside = 0;
  /** how deep the node is that was made last */
  private depth = 0;
  private readonly text: string;
  private readonly most: number;
  constructor(text: string, most: number) {
    this.text = text;
    this.most = most;
  }

  all(): Syntax {
    this.skip();
    const node = this.or();
    if (this.at < this.text.length) this.unexpected();
    return node;
  }

  /** What stands here cannot stand here. */
  private unexpected(at = this.at): never {
    throw new Unread('unexpected', at, this.partEnd(at));
  }
  /** Where the word, number or text that begins there ends; one character where none does. */
  private partEnd(at: number): number {
    const { text } = this;
    if (at >= text.length) return at;
    if (text.charCodeAt(at) === Char.Quote) {
      const end = text.indexOf('"', at + 1);
      return end < 0 ? text.length : end + 1;
    }
    let end = at;
    while (end < text.length && (isLetter(text.charCodeAt(end)) || isDigit(text.charCodeAt(end)))) end++;
    return Math.max(end, at + 1);
  }

  private skip(): void {
    this.at = this.skipped(this.at);
  }
  /** Where what means something goes on from there: behind space and comments. */
  private skipped(from: number): number {
    const { text } = this;
    let at = from;
    for (;;) {
      const c = text.charCodeAt(at);
      if (isSpace(c)) at++;
      else if (c === Char.Over && text.charCodeAt(at + 1) === Char.Times) {
        const end = text.indexOf('*/', at + 2);
        // a comment that is not closed is none
        if (end < 0) return at;
        at = end + 2;
      } else return at;
    }
  }
  private next(): number {
    return this.text.charCodeAt(this.at);
  }
  /** Passes a sign and what is empty after it. */
  private pass(length = 1): void {
    this.at += length;
    this.skip();
  }
  /** Where the word that begins here ends; where none begins, here. */
  private wordEnd(): number {
    const { text } = this;
    let end = this.at;
    if (!isLetter(text.charCodeAt(end))) return end;
    do {
      // letters beyond the first plane stand as two; a half of one is no letter
      if (!isHalf(text.charCodeAt(end))) end++;
      else if (isPair(text, end)) end += 2;
      else break;
    } while (isLetter(text.charCodeAt(end)) || isDigit(text.charCodeAt(end)));
    return end;
  }
  private keyword(): string {
    const end = this.wordEnd();
    return end - this.at > 7 || end - this.at < 2 ? '' : keywordOf(this.text.slice(this.at, end));
  }
  private enter(reason: Reason): void {
    if (++this.inside > this.most) throw new Unread(reason, this.at, this.at + 1);
  }
  /** A node over others, the deepest of which is this deep. */
  private made<T extends Syntax>(node: T, deepest: number): T {
    this.depth = deepest + 1;
    if (this.depth > this.most) throw new Unread('operations', node.from, node.from + 1);
    return node;
  }
  private leaf<T extends Syntax>(node: T): T {
    this.depth = 0;
    return node;
  }

  private or(): Syntax {
    let left = this.and();
    while (this.keyword() === 'OR') left = this.joined(left, 'OR', 2, () => this.and());
    return left;
  }
  private and(): Syntax {
    let left = this.not();
    while (this.keyword() === 'AND') left = this.joined(left, 'AND', 3, () => this.not());
    return left;
  }
  private joined(left: Syntax, operator: BinaryOperator, length: number, operand: () => Syntax): Syntax {
    const { at: from, depth } = this;
    this.pass(length);
    const right = operand();
    const node = this.made({ kind: 'binary', from: left.from, to: right.to, operator, operatorSpan: { from, to: from + length }, left, right } satisfies Syntax, Math.max(depth, this.depth)); // prettier-ignore
    // which of both binds first is what people get wrong
    if (operator === 'OR' && (isAnd(left) || isAnd(right))) this.doubts.push(node);
    return node;
  }
  private not(): Syntax {
    if (this.keyword() !== 'NOT' || this.opensAfter(this.at + 3)) return this.comparison();
    const from = this.at;
    this.enter('operations');
    this.pass(3);
    const operand = this.not();
    this.inside--;
    return this.made({ kind: 'unary', from, to: operand.to, operator: 'NOT', operand }, this.depth);
  }
  private opensAfter(at: number): boolean {
    while (isSpace(this.text.charCodeAt(at))) at++;
    return this.text.charCodeAt(at) === Char.Open;
  }

  private comparison(): Syntax {
    let left = this.binary(1);
    for (;;) {
      const c = this.next();
      if (c === Char.Equal || c === Char.Less || c === Char.Greater) {
        const second = this.text.charCodeAt(this.at + 1);
        const two = (c !== Char.Equal && second === Char.Equal) || (c === Char.Less && second === Char.Greater);
        const length = two ? 2 : 1;
        left = this.joined(left, this.text.slice(this.at, this.at + length) as BinaryOperator, length, () => this.binary(1));
        continue;
      }
      const word = isLetter(c) ? this.keyword() : '';
      if (word === 'IN') left = this.among(left);
      else if (word === 'BETWEEN') left = this.between(left);
      else return left;
    }
  }
  private among(item: Syntax): Syntax {
    let deepest = this.depth;
    this.pass(2);
    if (this.next() !== Char.Open) this.unexpected();
    this.enter('brackets');
    this.pass();
    const list: Syntax[] = [];
    if (this.next() !== Char.Close) {
      for (;;) {
        list.push(this.or());
        deepest = Math.max(deepest, this.depth);
        if (this.next() !== Char.Comma && this.next() !== Char.Semicolon) break;
        this.pass();
      }
    }
    const to = this.close();
    return this.made({ kind: 'in', from: item.from, to, item, list }, deepest);
  }
  private between(item: Syntax): Syntax {
    let deepest = this.depth;
    this.pass(7);
    const low = this.binary(1);
    deepest = Math.max(deepest, this.depth);
    if (this.keyword() !== 'AND') this.unexpected();
    this.pass(3);
    const high = this.binary(1);
    return this.made({ kind: 'between', from: item.from, to: high.to, item, low, high }, Math.max(deepest, this.depth));
  }
  /** Passes a closing bracket; gives where it ends. */
  private close(): number {
    if (this.next() !== Char.Close) this.unexpected();
    const to = this.at + 1;
    this.inside--;
    this.pass();
    return to;
  }

  /** What stands between operators that bind at least this strongly. */
  private binary(least: number): Syntax {
    let left = this.percent();
    for (;;) {
      const c = this.next();
      const binds = strength(c);
      if (binds === 0 || binds < least) return left;
      const { at: from, depth } = this;
      this.pass();
      const right = this.binary(binds + 1);
      const operator = this.text[from] as BinaryOperator;
      left = this.made({ kind: 'binary', from: left.from, to: right.to, operator, operatorSpan: { from, to: from + 1 }, left, right }, Math.max(depth, this.depth)); // prettier-ignore
    }
  }
  private percent(): Syntax {
    let operand = this.unary();
    while (this.next() === Char.Percent) {
      const to = this.at + 1;
      this.pass();
      operand = this.made({ kind: 'percent', from: operand.from, to, operand }, this.depth);
    }
    return operand;
  }
  private unary(): Syntax {
    const c = this.next();
    if (c !== Char.Minus && c !== Char.Plus) return this.postfix();
    const from = this.at;
    this.enter('operations');
    this.pass();
    const operand = this.unary();
    this.inside--;
    return this.made({ kind: 'unary', from, to: operand.to, operator: c === Char.Minus ? '-' : '+', operand }, this.depth);
  }
  private postfix(): Syntax {
    let object = this.primary();
    while (this.next() === Char.Dot) {
      this.pass();
      const end = this.wordEnd();
      const { at: from } = this;
      const property = this.text.slice(from, end);
      if (end === from) this.unexpected();
      this.at = end;
      this.skip();
      object = this.made({ kind: 'member', from: object.from, to: end, object, property, propertySpan: { from, to: end } }, this.depth);
    }
    return object;
  }

  private primary(): Syntax {
    const c = this.next();
    if (isDigit(c) || c === Char.Dot) return this.number();
    if (c === Char.Quote) return this.quoted();
    if (c === Char.Open) {
      const from = this.at;
      this.enter('brackets');
      this.pass();
      const inner = this.or();
      const { depth } = this;
      const to = this.close();
      return this.made({ kind: 'group', from, to, inner }, depth);
    }
    const { at: from } = this;
    const end = this.wordEnd();
    if (end === from) this.unexpected();
    const word = this.text.slice(from, end);
    const keyword = keywordOf(word);
    this.at = end;
    this.skip();
    const opens = this.next() === Char.Open;
    if (keyword === 'TRUE' || keyword === 'FALSE') return this.leaf({ kind: 'yesno', from, to: opens ? this.none() : end, value: keyword === 'TRUE' }); // prettier-ignore
    if (opens && keyword !== 'IN' && keyword !== 'BETWEEN') return this.call(word, from, end);
    if (keyword) this.unexpected(from);
    return this.leaf({ kind: 'name', from, to: end, name: word });
  }
  /** `()` of TRUE() and FALSE(). */
  private none(): number {
    this.enter('brackets');
    this.pass();
    return this.close();
  }
  private number(): Syntax {
    const { text, at: from } = this;
    const digits = (): void => {
      while (isDigit(this.next())) this.at++;
    };
    digits();
    if (this.next() === Char.Dot && isDigit(text.charCodeAt(this.at + 1))) {
      this.at++;
      digits();
    }
    if (this.at === from) this.unexpected();
    const e = this.next();
    if (e === 69 || e === 101) {
      const sign = text.charCodeAt(this.at + 1);
      const first = sign === Char.Plus || sign === Char.Minus ? this.at + 2 : this.at + 1;
      if (isDigit(text.charCodeAt(first))) {
        this.at = first;
        digits();
      }
    }
    const to = this.at;
    const written = text.slice(from, to);
    const raw = Number(written);
    this.skip();
    const node = this.leaf({ kind: 'number', from, to, value: canonical(raw), text: written } satisfies Syntax);
    if (raw > MAX_NUMBER) this.doubts.push(node);
    return node;
  }
  private quoted(): Syntax {
    const { text, at: from } = this;
    let end = from;
    do {
      end = text.indexOf('"', end + 1);
      if (end < 0) this.unexpected();
    } while (text.charCodeAt(end + 1) === Char.Quote && ++end);
    this.at = end + 1;
    this.skip();
    const inner = text.slice(from + 1, end);
    return this.leaf({ kind: 'text', from, to: end + 1, value: inner.includes('"') ? inner.replaceAll('""', '"') : inner });
  }
  private call(name: string, from: number, end: number): Syntax {
    this.enter('brackets');
    this.pass();
    const args: Argument[] = [];
    let deepest = -1;
    if (this.next() !== Char.Close) {
      for (;;) {
        const label = this.label();
        args.push({ label, value: this.or() });
        deepest = Math.max(deepest, this.depth);
        if (this.next() !== Char.Comma && this.next() !== Char.Semicolon) break;
        this.pass();
      }
    }
    const to = this.close();
    return this.made({ kind: 'call', from, to, name: name.toUpperCase(), nameSpan: { from, to: end }, args }, deepest);
  }
  /** `name:` before an argument, where there is one. */
  private label(): string | null {
    const end = this.wordEnd();
    if (end === this.at) return null;
    const colon = this.skipped(end);
    if (this.text.charCodeAt(colon) !== Char.Colon) return null;
    const label = this.text.slice(this.at, end);
    if (keywordOf(label)) return null;
    this.at = colon;
    this.pass();
    return label;
  }
}
/** Whether it is operands joined by AND. */
export const isAnd = (node: Syntax): boolean => node.kind === 'binary' && node.operator === 'AND';
const isPair = (text: string, at: number): boolean => (text.codePointAt(at) as number) > 0xffff;

/**
 * Reads a formula. `most` is how deep its nodes may lie in each other, and brackets around each other: the same that bounds the stack.
 * Throws `Unread` for a text that cannot be read. Cost: linear in the text.
 */
export function readText(text: string, most: number): Read {
  const reader = new Reader(text, most);
  return { syntax: reader.all(), doubts: reader.doubts };
}
