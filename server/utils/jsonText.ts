import { Pace } from '../services/pace';

/** Where so many stand beside each other, or below, an answer is written in parts. */
const MANY = 100;
/** How many of a list are written at once. */
const PART = 8;
/** How deep lists are looked for: an answer holds lists of things that hold lists, and seldom more. */
const DEPTH = 4;

/**
 * The JSON text of an answer, the same that `JSON.stringify` writes; others have their turn in between where it is long. Takes what JSON can
 * say: what has a `toJSON` of its own is written by it, in one go with what is around it.
 */
export async function jsonText(value: unknown): Promise<string> {
  if (!isLong(value, DEPTH)) return JSON.stringify(value);
  const parts: string[] = [];
  const pace = new Pace();
  for (const part of partsOf(value, DEPTH)) {
    parts.push(part);
    await pace.rest();
  }
  return parts.join('');
}

const isObject = (value: unknown): value is object => typeof value === 'object' && value !== null && !('toJSON' in value);
/** Whether there is a long list in it somewhere. Cost: linear in what is short. */
function isLong(value: unknown, depth: number): boolean {
  if (!isObject(value)) return false;
  if (Array.isArray(value)) return value.length > MANY || (depth > 0 && value.some((v) => isLong(v, depth - 1)));
  const within = Object.values(value);
  return within.length > MANY || (depth > 0 && within.some((v) => isLong(v, depth - 1)));
}

/** The text of what is long, as `isLong` tells it, in parts. */
function* partsOf(value: unknown, depth: number): Generator<string> {
  if (Array.isArray(value)) return yield* listParts(value, depth);
  let before = '{';
  for (const [key, held] of Object.entries(value as object)) {
    const named = `${before}${JSON.stringify(key)}:`;
    if (depth > 0 && isLong(held, depth - 1)) {
      yield named;
      yield* partsOf(held, depth - 1);
    } else {
      const text = written(held);
      // what JSON cannot say is left out, as JSON.stringify does
      if (text === undefined) continue;
      yield `${named}${text}`;
    }
    before = ',';
  }
  yield before === '{' ? '{}' : '}';
}
function* listParts(list: readonly unknown[], depth: number): Generator<string> {
  yield '[';
  for (let i = 0; i < list.length; i += PART) {
    const part = list.slice(i, i + PART);
    if (i > 0) yield ',';
    if (depth === 0 || !part.some((v) => isLong(v, depth - 1))) yield JSON.stringify(part).slice(1, -1);
    else yield* singly(part, depth - 1);
  }
  yield ']';
}
function* singly(part: readonly unknown[], depth: number): Generator<string> {
  for (let i = 0; i < part.length; i++) {
    if (i > 0) yield ',';
    if (isLong(part[i], depth)) yield* partsOf(part[i], depth);
    else yield written(part[i]) ?? 'null';
  }
}
const written = (value: unknown): string | undefined => JSON.stringify(value) as string | undefined;
