import type { Row } from '../values/types.ts';
import type { Result, Waiting } from './errors.ts';

/** What a compiled formula reads when it runs. One object is reused for a whole entry; only `candidate` changes. */
export interface Env {
  /** the fields' values by slot */
  readonly values: readonly Result[];
  /** the row that `choice` names; null outside narrowings */
  candidate: Row | null;
  /** in a narrowing: the parts that do not read the candidate, computed once before the rows are gone through */
  params: readonly Result[];
  /** read once when the entry opens, in the workspace's zone: `YYYY-MM-DD`, `YYYY-MM-DDTHH:MM:SS` */
  readonly today: string;
  readonly now: string;
  /** id in `people` of who is signed in */
  readonly me: number | null;
  readonly mode: 'new' | 'edit' | 'view';
  readonly url: Readonly<Record<string, string>>;
  /** The row with this id; null when there is none; Waiting when it is not here yet (the engine notes the want). */
  row(table: string, id: number): Row | null | Waiting;
}
