import type { Origins } from '../model/noted.ts';
import type { WorkCalendar } from '../formula/functions/define.ts';
import type { Role } from '../values/roles.ts';
import type { Datum } from '../values/types.ts';
import type { Extent } from './extent.ts';

/** What the host knows when an entry opens; read once. */
export interface EntryContext {
  readonly mode: 'new' | 'edit' | 'view';
  readonly today: string;
  readonly now: string;
  readonly me: number | null;
  /** what the account is of who is signed in; what says nothing has none */
  readonly roles?: readonly Role[];
  /** the days that are worked in this workspace */
  readonly calendar?: WorkCalendar | undefined;
  readonly url?: Readonly<Record<string, string>>;
  /** the record the entry is opened under */
  readonly parent?: number | null;
  /** no rule acts on values, and nothing is made that only a screen shows: the record is only worked out, as for a backfill */
  readonly isQuiet?: boolean;
  /**
   * what only tells people something (checks, what fields say, which moves there are) is not worked out until `Entry.tell`: for many edits
   * one after the other with nobody looking. Nothing else rests on it; of moves see `Entry.tellMoves`.
   */
  readonly tellsLate?: boolean;
  /**
   * the part of the form that is worked out; what lies outside stands as it is stored, and nothing is said of it. For stored records with
   * nobody looking, where all that is asked rests on that part alone; without one all is
   */
  readonly extent?: Extent | undefined;
  /** a clock in milliseconds, by which each part is timed for the trace; without one nothing is */
  readonly clock?: (() => number) | undefined;
}

/** A stored record as an entry opens it: values by column, where they came from by the path of the field, its lines in order. */
export interface StoredRecord {
  readonly values: Readonly<Record<string, Datum>>;
  readonly origins: Origins;
  readonly lines?: Readonly<Record<string, readonly StoredLine[]>>;
}
export interface StoredLine {
  readonly id: number;
  readonly values: Readonly<Record<string, Datum>>;
  /** where they came from, where that is noted; not to be forgotten where a record was told (see told.ts) */
  readonly origins: Origins | undefined;
}
