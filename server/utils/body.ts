import { type H3Event, getHeader } from 'h3';
import { textProblem } from '../../core/values/text.ts';
import { Refused } from '../services/errors';
import { Pace } from '../services/pace';

const tooMuch = (most: number): Refused =>
  new Refused(
    413,
    'tooMuch',
    `At most ${most >= 1e6 ? `${Math.round(most / 1e6)} MB` : `${Math.round(most / 1e3)} kB`} can be sent at once.`,
  );

/** How long what is still being sent is thrown away before the connection is ended, in milliseconds. */
const LINGER = 1000;
/**
 * For a request that is refused before all of it was read: what still comes is thrown away for a moment, then the connection ends.
 * Ended at once, the refusal could be lost on its way to whoever is still sending (RFC 9112, 9.6).
 */
export function leaveUnread({ node: { req, res } }: H3Event): void {
  res.once('finish', () => {
    req.on('data', () => undefined);
    req.resume();
    const end = setTimeout(() => req.destroy(), LINGER);
    for (const over of ['end', 'close']) req.once(over, () => clearTimeout(end));
  });
}

/**
 * The body of a request, read as it comes and no further than it may be: what is too large is refused at its limit, not
 * after all of it has been taken in.
 */
export async function readLimited(event: H3Event, most: number): Promise<Buffer> {
  const { req } = event.node;
  const refuse = (): Refused => {
    leaveUnread(event);
    return tooMuch(most);
  };
  if (Number(getHeader(event, 'content-length') ?? 0) > most) throw refuse();
  const chunks: Buffer[] = [];
  let size = 0;
  return new Promise((resolve, reject) => {
    const done = (finish: () => void): void => {
      for (const [name, listener] of Object.entries(listeners)) req.off(name, listener);
      finish();
    };
    const broken = (): void => done(() => reject(new Refused(400, 'body', 'The request ended before all of it had come.')));
    const listeners: Record<string, (chunk: Buffer) => void> = {
      data(chunk) {
        size += chunk.length;
        if (size > most) {
          req.pause();
          done(() => reject(refuse()));
        } else chunks.push(chunk);
      },
      end: () => done(() => resolve(Buffer.concat(chunks))),
      error: broken,
      aborted: broken,
      close: broken,
    };
    for (const [name, listener] of Object.entries(listeners)) req.on(name, listener);
  });
}

const DEEPEST = 64;

/** A body as JSON. Refused with a sentence: no JSON, nested too deep, characters that cannot be kept, names that are none. */
export async function readJson(event: H3Event, most: number): Promise<unknown> {
  if (!(getHeader(event, 'content-type') ?? '').startsWith('application/json')) throw new Refused(400, 'body', 'Send JSON.');
  const raw = (await readLimited(event, most)).toString('utf8');
  const pace = new Pace();
  let json: unknown;
  try {
    json = JSON.parse(raw);
  } catch {
    throw new Refused(400, 'body', 'What was sent is not JSON.');
  }
  const problem = await pace.through(jsonProblem(json));
  if (problem !== null) throw new Refused(400, 'body', problem);
  return json;
}

/** A part of a JSON value that holds others, and where it stands: its path is put together when it is told. */
interface Part {
  readonly value: object;
  readonly key: string;
  readonly inside: Part | null;
  readonly depth: number;
}
/** How many parts are looked at in one step. */
const PARTS_A_STEP = 500;
function pathOf(part: Part | null, key: string): string {
  const keys = key ? [key] : [];
  for (let at = part; at; at = at.inside) if (at.key) keys.unshift(at.key);
  return keys.join('.');
}
/** What a single value could not be kept for; null when nothing. */
function valueProblem(value: unknown, inside: Part | null, key: string): string | null {
  if (typeof value === 'string') {
    const odd = textProblem(value);
    return odd === null ? null : `${pathOf(inside, key) || 'The text'} ${odd}`;
  }
  // JSON may write a number that no computer number holds: 1e999 is read as infinite
  const isTooLarge = typeof value === 'number' && !Number.isFinite(value);
  return isTooLarge ? `${pathOf(inside, key) || 'The number'} is a number too large to be kept.` : null;
}
const isPart = (value: unknown): value is object => typeof value === 'object' && value !== null;

/**
 * What in a JSON value could not be kept as it was sent, with where it stands; null when nothing. In steps, each of some parts. Cost:
 * linear, without recursion.
 */
export function* jsonProblem(json: unknown): Generator<void, string | null> {
  if (!isPart(json)) return valueProblem(json, null, '');
  const open: Part[] = [{ value: json, key: '', inside: null, depth: 0 }];
  let seen = 0;
  for (let part = open.pop(); part; part = open.pop()) {
    if (++seen % PARTS_A_STEP === 0) yield;
    const { value, depth } = part;
    if (depth >= DEEPEST) return `What was sent is nested more than ${DEEPEST} levels deep.`;
    const isList = Array.isArray(value);
    for (const [key, inner] of Object.entries(value)) {
      if (!isList) {
        if (key === '__proto__') {
          const path = pathOf(part, '');
          return `${path ? `${path}: ` : ''}“__proto__” cannot be a name.`;
        }
        const odd = textProblem(key);
        if (odd !== null) return `A name in what was sent ${odd}`;
      }
      if (isPart(inner)) open.push({ value: inner, key, inside: part, depth: depth + 1 });
      else {
        const problem = valueProblem(inner, part, key);
        if (problem !== null) return problem;
      }
    }
  }
  return null;
}
