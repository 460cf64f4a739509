import { type LineOrigins, LinesAlike, originsByLine } from '../model/noted.ts';
import type { StoredLine, StoredRecord } from './context.ts';

/** A stored record as it travels to a screen: where the values of its lines came from is said once for all that were filled alike. */
export interface ToldRecord extends Pick<StoredRecord, 'values' | 'origins'> {
  readonly lines?: Readonly<Record<string, readonly Pick<StoredLine, 'id' | 'values'>[]>> | undefined;
  readonly lineOrigins?: LineOrigins | undefined;
}

/** A record as it is told. Cost: its lines. */
export function toldRecord({ values, origins, lines }: StoredRecord): ToldRecord {
  if (!lines) return { values, origins };
  const alike = new LinesAlike();
  const told = Object.entries(lines).map(([key, all]) => [
    key,
    all.map((line) => {
      if (line.origins) alike.add(line.id, line.origins);
      return { id: line.id, values: line.values };
    }),
  ]);
  return { values, origins, lines: Object.fromEntries(told) as ToldRecord['lines'], lineOrigins: alike.all };
}

/** A record as an entry opens it, of one as it was told; what else it has stays. Cost: its lines. */
export function recordOfTold<T extends ToldRecord>(told: T): Omit<T, 'lines' | 'lineOrigins'> & StoredRecord {
  const { lines, lineOrigins = [], ...more } = told;
  if (!lines) return more;
  const came = originsByLine(lineOrigins);
  const stored = Object.entries(lines).map(([key, all]) => [key, all.map(({ id, values }) => ({ id, values, origins: came.get(id) }))]);
  return { ...more, lines: Object.fromEntries(stored) as StoredRecord['lines'] };
}
