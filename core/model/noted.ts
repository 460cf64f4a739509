import { type Origin, parseOrigin } from './origin.ts';

/*
 * Where the values of a record came from, as it is noted with the record and told to a screen. Most lines of a record were filled in one of
 * a few ways: those of one way stand together, so that thousands of lines take little more than their numbers.
 */

/** Where the values of a record, or of one of its lines, came from, by the path of the field. */
export type Origins = Readonly<Record<string, Origin>>;
/** The same of lines, by the rows they are stored in: each entry says it of all the lines that were filled alike. */
export type LineOrigins = readonly { readonly lines: readonly number[]; readonly origins: Origins }[];

/** Puts lines together that were filled alike, one by one as they come. */
export class LinesAlike {
  private readonly byText = new Map<string, { lines: number[]; origins: Origins }>();
  /** what was met is found sooner: lines that were read together have their origins in one object */
  private readonly byObject = new Map<Origins, number[]>();

  /** Adds a line by its row. One of which nothing is noted is left out. */
  add(line: number, origins: Origins): void {
    const known = this.byObject.get(origins);
    if (known) return void known.push(line);
    const text = JSON.stringify(origins);
    if (text === '{}') return;
    let alike = this.byText.get(text);
    if (!alike) this.byText.set(text, (alike = { lines: [], origins }));
    alike.lines.push(line);
    this.byObject.set(origins, alike.lines);
  }
  get all(): LineOrigins {
    return [...this.byText.values()];
  }
}

/** Lines with where their values came from, put together. Cost: its lines. */
export function linesAlike(lines: Iterable<readonly [line: number, origins: Origins]>): LineOrigins {
  const alike = new LinesAlike();
  for (const [line, origins] of lines) alike.add(line, origins);
  return alike.all;
}

/** Where the values of each line came from, by its row; what is alike is one object. Cost: its lines. */
export function originsByLine(all: LineOrigins): Map<number, Origins> {
  const found = new Map<number, Origins>();
  for (const { lines, origins } of all)
    for (const line of lines) {
      // rows of two tables may have one number; their fields have different paths
      const before = found.get(line);
      found.set(line, before ? { ...before, ...origins } : origins);
    }
  return found;
}

/** Where the values of a stored record came from: its own, and those of its lines by their rows. */
export interface Noted {
  readonly origins: Origins;
  readonly lines: ReadonlyMap<number, Origins>;
}
export const NOTHING_NOTED: Noted = Object.freeze({ origins: {}, lines: new Map<number, Origins>() });

/** Under this name stands in a note what it says of lines: no address is so. */
const LINES = '#';

/** The note of a record as it is stored, a text: where its own values came from, and those of its lines. */
export const noteText = (origins: Origins, lines: LineOrigins): string =>
  JSON.stringify(lines.length ? { ...origins, [LINES]: lines } : origins);

/**
 * Reads the text of a note back. Versions before noted lines one by one, under addresses (`lots.grams#12`): those are read as well. What
 * is no origin counts as typed. Throws SyntaxError for what is no JSON, which nothing here writes. Cost: its lines.
 */
export function readNote(text: string): Noted {
  const { [LINES]: together = [], ...noted } = JSON.parse(text) as Record<string, Origin> & { [LINES]?: LineOrigins };
  const origins: Record<string, Origin> = {};
  const byAddress = new Map<number, Record<string, Origin>>();
  for (const [address, origin] of Object.entries(noted)) {
    const at = address.indexOf('#');
    if (at < 0) {
      origins[address] = parseOrigin(origin);
      continue;
    }
    const line = Number(address.slice(at + 1));
    let of = byAddress.get(line);
    if (!of) byAddress.set(line, (of = {}));
    of[address.slice(0, at)] = parseOrigin(origin);
  }
  const alike = together.map(({ lines, origins: of }) => ({
    lines,
    origins: Object.fromEntries(Object.entries(of).map(([path, origin]) => [path, parseOrigin(origin)])),
  }));
  const lines = originsByLine([...[...byAddress].map(([line, of]) => ({ lines: [line], origins: of })), ...alike]);
  return { origins, lines };
}
