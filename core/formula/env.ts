import type { WorkCalendar } from './functions/define.ts';
import type { Role } from '../values/roles.ts';
import type { Datum, Row } from '../values/types.ts';
import type { FormulaError, Result, Waiting } from './errors.ts';
import type { FeedParams, PickPart } from './extras.ts';

/** What a compiled formula reads when it runs. One object is reused for a whole entry; only `candidate` and `each` change. */
export interface Env {
  /** the fields' values: of the form by slot, inside a line by the place among the line's fields */
  readonly values: readonly Result[];
  /** inside a line: the form around it */
  readonly outer: Env | null;
  /** the row that `choice` names; null outside narrowings */
  candidate: Row | null;
  /** the one of a list that `each` names, inside the condition of ANYOF and its kin */
  each?: Each | null;
  /** in a narrowing: the parts that do not read the candidate, computed once before the rows are gone through */
  params: readonly Result[];
  /** read once when the entry opens, in the workspace's zone: `YYYY-MM-DD`, `YYYY-MM-DDTHH:MM:SS` */
  readonly today: string;
  readonly now: string;
  /** id in `people` of who is signed in */
  readonly me: number | null;
  /** what the account is of who is signed in */
  readonly roles?: readonly Role[];
  readonly calendar?: WorkCalendar | undefined;
  readonly mode: 'new' | 'edit' | 'view';
  readonly url: Readonly<Record<string, string>>;
  /** id of the record this entry was opened under */
  readonly parent: number | null;
  /** on edit, the stored values by column */
  readonly before: Readonly<Record<string, Datum>> | null;
  /** All lines' values of a line field (by its place among the line's fields), in order; at -1 the ids of the lines. */
  lines(group: number, at: number): Result;
  /**
   * The sum of all lines' numbers of a field, kept up by what changes instead of added anew; null where it cannot be told so
   * (a value is an error or waits, or the sum is not exact) and must be added up.
   */
  total?(group: number, at: number): number | null;
  /** The candidate that a choice field's value stands for, with its attributes; null when it is not among those offered. */
  item(slot: number): Row | null;
  /** The row with this id; null when there is none; Waiting when it is not here yet (the engine notes the want). */
  row(table: string, id: number): Row | null | Waiting;
  /** what is looked up beyond names; absent where nothing can be looked up */
  readonly data?: DataEnv;
}

/** One of a list: its value, and what it has under names where it is a line. */
export interface Each {
  readonly value: Datum;
  readonly line: Readonly<Record<string, Datum>> | null;
}

/** Look-ups of the functions that read data (PICK, NEXTNUMBER, FEED, `last`). */
export interface DataEnv {
  /** The id of the first row that meets the condition, or the ids of all. */
  pick(part: PickPart, env: Env): Result;
  /** The number that is next in a series; provisional until the record is saved. */
  series(name: string): Result;
  /** The id of my record of this form saved last, of those whose column has the value where one is named. */
  last(column: string | null, value: Datum): Result;
  /** The first item a feed answers. */
  feed(feed: string, params: FeedParams): Row | null | Waiting | FormulaError;
}
