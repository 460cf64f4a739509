import { canonical, MAX_NUMBER } from '../values/decimal.ts';
import { isDigit, isHalf, isLetter, isSpace } from './grammar/characters.ts';
import type { Argument, BinaryOperator, Syntax } from './syntax.ts';

/*
 * Reads formulas that are written as they should be, by recursive descent with precedence climbing over the characters (Pratt, “Top down
 * operator precedence”, 1973). It knows nothing of mistakes: whatever it is not sure of it leaves to the grammar (grammar/formula.grammar),
 * which says what is wrong and where. What both read is the same tree; a property test holds them together.
 */

/** Not written as it should be, or in a way that only the grammar reads: comments, and words that are names in one place and none in another. */
class Unsure extends Error {}
const UNSURE = new Unsure();
function unsure(): never {
  throw UNSURE;
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

/** Half of a letter beyond the first plane, without its other half. */
const HALF_ALONE = /\p{Surrogate}/u;

class Reader {
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
    if (this.at < this.text.length) unsure();
    return node;
  }

  private skip(): void {
    const { text } = this;
    while (this.at < text.length && isSpace(text.charCodeAt(this.at))) this.at++;
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
      // letters beyond the first plane stand as two: whether they are whole is the grammar's to say
      if (isHalf(text.charCodeAt(end))) unsure();
      end++;
    } while (isLetter(text.charCodeAt(end)) || isDigit(text.charCodeAt(end)));
    return end;
  }
  private keyword(): string {
    const end = this.wordEnd();
    return end - this.at > 7 || end - this.at < 2 ? '' : keywordOf(this.text.slice(this.at, end));
  }
  private enter(): void {
    if (++this.inside > this.most) unsure();
  }
  /** A node over others, the deepest of which is this deep. */
  private made<T extends Syntax>(node: T, deepest: number): T {
    this.depth = deepest + 1;
    if (this.depth > this.most) unsure();
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
    // which of both binds first is what people get wrong: the grammar's reader asks for brackets
    if (operator === 'OR' && (isAnd(left) || isAnd(right))) unsure();
    return this.made({ kind: 'binary', from: left.from, to: right.to, operator, operatorSpan: { from, to: from + length }, left, right }, Math.max(depth, this.depth)); // prettier-ignore
  }
  private not(): Syntax {
    if (this.keyword() !== 'NOT' || this.opensAfter(this.at + 3)) return this.comparison();
    const from = this.at;
    this.enter();
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
    if (this.next() !== Char.Open) unsure();
    this.enter();
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
    if (this.keyword() !== 'AND') unsure();
    this.pass(3);
    const high = this.binary(1);
    return this.made({ kind: 'between', from: item.from, to: high.to, item, low, high }, Math.max(deepest, this.depth));
  }
  /** Passes a closing bracket; gives where it ends. */
  private close(): number {
    if (this.next() !== Char.Close) unsure();
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
      // a comment, maybe
      if (c === Char.Over && this.text.charCodeAt(from + 1) === Char.Times) unsure();
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
    this.enter();
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
      if (end === from || ['NOT', 'TRUE', 'FALSE'].includes(keywordOf(property))) unsure();
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
      this.enter();
      this.pass();
      const inner = this.or();
      const { depth } = this;
      const to = this.close();
      return this.made({ kind: 'group', from, to, inner }, depth);
    }
    const { at: from } = this;
    const end = this.wordEnd();
    if (end === from) unsure();
    const word = this.text.slice(from, end);
    const keyword = keywordOf(word);
    this.at = end;
    this.skip();
    const opens = this.next() === Char.Open;
    if (keyword === 'TRUE' || keyword === 'FALSE') return this.leaf({ kind: 'yesno', from, to: opens ? this.none() : end, value: keyword === 'TRUE' }); // prettier-ignore
    if (opens && keyword !== 'IN' && keyword !== 'BETWEEN') return this.call(word, from, end);
    if (keyword) unsure();
    return this.leaf({ kind: 'name', from, to: end, name: word });
  }
  /** `()` of TRUE() and FALSE(). */
  private none(): number {
    this.enter();
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
    if (this.at === from) unsure();
    const e = this.next();
    if (e === 69 || e === 101) {
      const sign = text.charCodeAt(this.at + 1);
      const first = sign === Char.Plus || sign === Char.Minus ? this.at + 2 : this.at + 1;
      if (!isDigit(text.charCodeAt(first))) unsure();
      this.at = first;
      digits();
    }
    const to = this.at;
    const written = text.slice(from, to);
    const raw = Number(written);
    // too large is said by the grammar's reader; a letter or a point right behind belongs to something else
    if (raw > MAX_NUMBER || isLetter(this.next()) || (this.next() === Char.Dot && isDigit(text.charCodeAt(to + 1)))) unsure();
    this.skip();
    return this.leaf({ kind: 'number', from, to, value: canonical(raw), text: written });
  }
  private quoted(): Syntax {
    const { text, at: from } = this;
    let end = from;
    do {
      end = text.indexOf('"', end + 1);
      if (end < 0) unsure();
    } while (text.charCodeAt(end + 1) === Char.Quote && ++end);
    this.at = end + 1;
    this.skip();
    const inner = text.slice(from + 1, end);
    if (HALF_ALONE.test(inner)) unsure();
    return this.leaf({ kind: 'text', from, to: end + 1, value: inner.includes('"') ? inner.replaceAll('""', '"') : inner });
  }
  private call(name: string, from: number, end: number): Syntax {
    this.enter();
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
    let colon = end;
    while (isSpace(this.text.charCodeAt(colon))) colon++;
    if (this.text.charCodeAt(colon) !== Char.Colon) return null;
    const label = this.text.slice(this.at, end);
    if (keywordOf(label)) unsure();
    this.at = colon;
    this.pass();
    return label;
  }
}
const isAnd = (node: Syntax): boolean => node.kind === 'binary' && node.operator === 'AND';

/**
 * The syntax tree of a formula that is written as it should be; null where this reader is not sure. `most` is how deep its nodes may lie
 * in each other, and brackets around each other. Cost: linear in the text.
 */
export function readWell(text: string, most: number): Syntax | null {
  try {
    return new Reader(text, most).all();
  } catch (e) {
    if (e instanceof Unsure) return null;
    throw e;
  }
}
