import type { FunnelStep } from '../choices/narrowing.ts';
import type { Result } from '../formula/errors.ts';
import type { Datum, Row } from '../values/types.ts';
import type { CellKind, LinesKind, WordKind } from './plan.ts';
import type { Origin } from '../model/origin.ts';

/** What a field offers now. */
export interface Offer {
  /** 'waiting': a driver is empty; 'loading': rows are on their way; 'failed': they could not be had, or a condition fails */
  readonly status: 'ready' | 'waiting' | 'loading' | 'failed';
  /** keys of the empty drivers it waits for */
  readonly waitsFor: readonly string[];
  /** the candidates, in order; null for a large source, which is read in pages */
  readonly rows: readonly Row[] | null;
  readonly total: number;
  /** there are more than `total` */
  readonly capped: boolean;
  /** rows of the source before narrowing; null when not known (large source) */
  readonly all: number | null;
  readonly funnel: readonly FunnelStep[] | null;
  /** the stored value of the only candidate, when one is left */
  readonly only: Datum;
  readonly reason: string | null;
  /** the values the narrowing was given, and the parts skipped: what list wants carry */
  readonly params: readonly Datum[];
  readonly open: readonly number[];
  /** the same params and open parts have the same key */
  readonly key: string;
}

/** Where a message stands: at its field, at a section, or at the form. */
export type CheckPlace = { readonly kind: 'field' } | { readonly kind: 'section'; readonly id: string } | { readonly kind: 'form' };
export interface CheckState {
  readonly message: string;
  readonly severity: 'note' | 'warning' | 'error';
  readonly at: CheckPlace;
}
/** What is said at a field now. */
export type FieldWords = Readonly<Record<WordKind, string | null>>;

/** What a person does. `field` is a path; for a field of lines, `line` says in which. */
export type Edit =
  | {
      readonly kind: 'set';
      readonly field: string;
      readonly line?: number;
      readonly value: Datum;
      /** not by hand: the value stood in the address, or was carried over from the entry before */
      readonly by?: 'url' | 'carried';
    }
  | { readonly kind: 'clear'; readonly field: string; readonly line?: number }
  /** gives a typed-over value back to its prefill, or takes what a stored calculation would be today */
  | { readonly kind: 'takeSuggestion'; readonly field: string; readonly line?: number }
  /** moves the record to another step; `field` is the one that holds the step, `move` the id of the move */
  | { readonly kind: 'move'; readonly field: string; readonly line?: undefined; readonly move: string }
  /** takes back the move made last since the entry was opened */
  | { readonly kind: 'unmove'; readonly field: string; readonly line?: undefined }
  /** `field` is the key of the lines; a new line has a negative id of its own; `at` is its place, else the end */
  | { readonly kind: 'addLine'; readonly field: string; readonly line: number; readonly at?: number }
  | { readonly kind: 'removeLine'; readonly field: string; readonly line: number }
  /** `to` is the place it has afterwards */
  | { readonly kind: 'moveLine'; readonly field: string; readonly line: number; readonly to: number };

/** A field, or a field in a line, as one text: `species`, `lots.grams#12`. What screens, messages and origins go by. */
export const addressOf = (field: string, line: number | null | undefined): string =>
  line === null || line === undefined ? field : `${field}#${line}`;

export type Cause =
  | { readonly kind: 'open' }
  | { readonly kind: 'edit' }
  | { readonly kind: 'supply' }
  /** another cell changed */
  | { readonly kind: 'cell'; readonly field: string; readonly cell: CellKind | LinesKind }
  | { readonly kind: 'rule'; readonly rule: string }
  | { readonly kind: 'move'; readonly move: string };

/** One thing that changed, for the screen to patch and the trace to show. */
export interface CellChange {
  readonly field: string;
  /** in which line, for a field of lines; for a line added or removed, which */
  readonly line: number | null;
  /** `rule`: a rule was asked; `field` is its id */
  readonly cell: CellKind | LinesKind | 'rule';
  readonly cause: Cause;
  /** for rules: whether its condition held; for values: before and after; for states: booleans; for choices: numbers offered; for lines: how many there are */
  readonly from: Result;
  readonly to: Result;
  readonly origin: Origin | null;
}

/** The field and the line that an address names. */
export function parseAddress(address: string): { readonly field: string; readonly line?: number } {
  const at = address.indexOf('#');
  return at < 0 ? { field: address } : { field: address.slice(0, at), line: Number(address.slice(at + 1)) };
}

/** What one call did: everything that changed, in the order it happened. */
export interface Change {
  readonly what:
    | { readonly kind: 'open' }
    | { readonly kind: 'supply' }
    | { readonly kind: 'save' }
    | { readonly kind: 'edit'; readonly edits: readonly Edit[] };
  readonly changes: readonly CellChange[];
  /** how many cells were computed: the cost of the settle */
  readonly computed: number;
  readonly refused: readonly RefusedEdit[];
  /** how long each part took, where the entry was opened with a clock */
  readonly times?: readonly PartTime[];
}

/** How long one part of a field (in all its lines), or one rule, took in a call. */
export interface PartTime {
  readonly field: string;
  readonly cell: CellChange['cell'];
  /** how often it was computed */
  readonly computed: number;
  readonly milliseconds: number;
}

export interface RefusedEdit {
  readonly field: string;
  readonly line: number | null;
  readonly message: string;
}
