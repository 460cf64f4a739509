import type { z } from 'zod';

/*
 * Definitions as they are kept: JSON that was valid when it was written. One that cannot be read any more, or was never
 * sound, is told as broken with its reason; it never takes another with it.
 */

/** Text as JSON; undefined when it is none. */
export function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return undefined;
  }
}

/** Why a definition cannot be read, as a sentence: the first place that does not fit. */
export function whyBroken({ issues: [issue] }: z.ZodError): string {
  return `It cannot be read: ${issue?.path.join('.') ?? ''} ${issue?.message ?? ''}`.replace(/ +/g, ' ');
}

/** More are of no use to anybody: those read first go. */
const MOST_READ = 1000;
/** Definitions as they were read last, by what each is: when one is written, the others need not be read again. */
export class LastRead {
  private readonly read = new Map<string, { readonly text: string; readonly made: unknown }>();
  /** What `read` makes of a text; what it made of this text before is given again, and nobody may change it. `name` tells what it is the text of. */
  again<T>(name: string, text: string, read: (text: string) => T): T {
    const known = this.read.get(name);
    if (known?.text === text) return known.made as T;
    const made = read(text);
    this.read.delete(name);
    if (this.read.size >= MOST_READ) this.read.delete(this.read.keys().next().value as string);
    this.read.set(name, { text, made });
    return made;
  }
}

export interface Broken {
  readonly key: string;
  readonly label: string;
  readonly reason: string;
}

/** Reads definitions one by one: those that are sound, and those that are not with why. */
export function readEach<R extends { readonly key: string; readonly label: string }, T>(
  rows: readonly R[],
  schema: z.ZodType<T>,
  inputOf: (row: R) => unknown,
): { read: T[]; broken: Broken[] } {
  const read: T[] = [];
  const broken: Broken[] = [];
  for (const row of rows) {
    const result = schema.safeParse(inputOf(row));
    if (result.success) read.push(result.data);
    else {
      broken.push({ key: row.key, label: row.label, reason: whyBroken(result.error) });
    }
  }
  return { read, broken };
}
