import type { Narrowing } from '../choices/narrowing.ts';
import type { FieldSource } from '../choices/sources/index.ts';
import type { FieldValue } from '../form/fills/index.ts';
import type { Field, Form, Lines } from '../form/definition.ts';
import type { FormulaPlace } from '../form/formulas.ts';
import type { FieldPart, FormProblem } from '../form/problems.ts';
import type { Column, Tables } from '../model/tables.ts';
import type { Arithmetic, ArithmeticOfMany } from '../formula/arithmetic.ts';
import type { PickPart } from '../formula/extras.ts';
import type { Run } from '../formula/compile.ts';
import type { Formula } from '../formula/formula.ts';
import type { Scope } from '../formula/scope.ts';
import type { Type } from '../values/typing.ts';
import type { Waiting } from '../formula/errors.ts';
import type { Datum, Row } from '../values/types.ts';
import type { PlanCondition } from './conditions.ts';
import type { OfferWorld } from './offers.ts';
import type { Origin } from '../model/origin.ts';
import type { PlanRule } from './rules.ts';
import type { PlanSteps } from './steps.ts';
import type { Cause, CheckPlace } from './state.ts';

/** The things of a field that can change in an entry. */
export const CELL_KINDS = ['shown', 'choices', 'value', 'required', 'locked', 'checks', 'words'] as const;
export type CellKind = (typeof CELL_KINDS)[number];

/** The things of a group of lines that can change: which lines there are, and whether they are shown, required, locked. */
export const LINES_KINDS = ['linesShown', 'lines', 'linesRequired', 'linesLocked'] as const;
export type LinesKind = (typeof LINES_KINDS)[number];

/**
 * One thing that can change. Its id is also its place in dependency order: what it reads has a smaller id. A cell of a
 * line field stands for that cell in every line of its group.
 */
export interface Cell {
  readonly id: number;
  readonly kind: CellKind | LinesKind;
  /** the field's slot; for the cells of lines themselves, the number of the group */
  readonly slot: number;
  /** the group of lines in each of whose lines the cell exists; null for a cell of the form */
  readonly group: number | null;
  /** its place among the cells of its frame (the form, or a line of the group) */
  readonly local: number;
  /** why what reads it is computed when it changes: one for all, since every change of every settle would make another */
  readonly cause: Cause;
  /** what a change of it by a calculation is, for the same reason */
  readonly calculated: Changed;
}

/** What changes: a part of a field or of lines, or a rule by its id, and what then filled the field. */
export interface Changed {
  readonly field: string;
  readonly cell: CellKind | LinesKind | 'rule';
  readonly origin: Origin | null;
}

/**
 * The fields whose value is plain arithmetic, by slot, laid out for the shortest way through them: what computing such a cell needs lies in
 * a few arrays instead of in a dozen objects each.
 */
export interface PlanArithmetic extends ArithmeticOfMany {
  /** the field's place among the values of its frame */
  readonly at: Int32Array;
  /** what becomes of the result: `AS_IT_IS`, `TO_15_DIGITS`, or the decimals it is rounded to */
  readonly rounding: Int32Array;
}
/**
 * The cells by their ids, laid out for the way that every settle goes: through a few arrays of numbers instead of an object or two for
 * each cell.
 */
export interface PlanCells {
  /** its place among the cells of its frame */
  readonly local: Int32Array;
  /** the group of lines, or -1 for a cell of the form */
  readonly group: Int32Array;
  /** 1 for the value of a field that plain arithmetic fills, see `PlanArithmetic` */
  readonly isArithmetic: Uint8Array;
  /** `dependents`, one cell’s after the other’s, and by id where they begin; the last says where they end */
  readonly readers: Int32Array;
  readonly readersFrom: Int32Array;
}
export const AS_IT_IS = -1000;
export const TO_15_DIGITS = -1001;

export interface PlanValue {
  readonly kind: FieldValue['kind'];
  readonly formula: Formula;
  readonly definition: FieldValue;
  /** the formula's result as the field holds it: rounded, composed; what it cannot hold is an error */
  readonly fitted: Run;
  /** the same as plain arithmetic, where the formula is no more and the field holds numbers */
  readonly arithmetic: Arithmetic | null;
  /** of a default that asks for the last record with the same value in other fields: those fields; until then it is not given */
  readonly awaits: readonly number[];
}

/** What a change by hand does to another field. */
export interface PlanSpread {
  readonly slot: number;
  /** null clears */
  readonly formula: Formula | null;
  readonly when: Formula | null;
}

/** What is said: fixed, or by a formula. */
export type PlanWords = string | Formula;
/** What is said at a field beside what is wrong with it: what it is called where that depends, a hint, what stands in it while it is empty. */
export const WORD_KINDS = ['called', 'hint', 'placeholder'] as const;
export type WordKind = (typeof WORD_KINDS)[number];

export interface PlanCheck {
  readonly when: PlanCondition;
  readonly message: PlanWords;
  /** `note`: running text, which says nothing is wrong */
  readonly severity: 'note' | 'warning' | 'error';
  /** where it is said: at the field, at a section (by id), or at the form */
  readonly at: CheckPlace;
}

/** Where a field's candidates come from, everything looked up. */
export interface PlanChoices {
  readonly source: FieldSource;
  /** the table the candidates are rows of (or whose column gives the values); null for lists */
  readonly table: string | null;
  /** whether the row's id is stored, or the candidate's value */
  readonly stores: 'row' | 'value';
  /** of a list: its options as rows, once and for all */
  readonly options: readonly Row[] | null;
  /** of a list: what records may hold that is offered no more */
  readonly retired?: readonly Row[];
  /** of distinct values: the column */
  readonly values: string | null;
  /** of a feed or of attributes: what its candidates are asked with */
  readonly asks: PlanAsk | null;
  readonly large: boolean;
  readonly sort: readonly Pick<Column, 'key' | 'type'>[];
  readonly search: readonly string[];
  readonly narrowing: Narrowing | null;
  /**
   * Which fields above this choice fills when it is made: those its narrowing equates, if the field is to fill them and the
   * candidate's side can be told (of a value of a column in a large table it cannot).
   */
  readonly fills: readonly number[];
  /** of rows: the text a candidate is shown by, where it is more than a column */
  readonly shownAs?: Formula | null;
}

/** What candidates that come from a call or from a value are made of. */
export type PlanAsk = {
  /** what it is asked with, by name */
  readonly formulas: readonly { readonly name: string; readonly part: FieldPart; readonly formula: Formula }[];
} & (
  | { readonly feed: string }
  /** made here, of what it is asked with; `row` is the table of the row whose every column is offered */
  | {
      readonly feed: null;
      readonly row: string | null;
      readonly rows: (given: Readonly<Record<string, Datum>>, world: OfferWorld) => readonly Row[] | Waiting;
    }
);

/** A formula of a form as somebody wrote it, compiled where it stands. */
export interface Written extends FormulaPlace {
  readonly formula: Formula;
}

/** A field compiled: its slot is its place in `Plan.fields`. The form's own fields come first, then those of each group of lines. */
export interface PlanField {
  /** the path: `species`, or `lots.grams` for a field of lines */
  readonly key: string;
  readonly slot: number;
  /** its place among the values of its frame */
  readonly at: number;
  /** the group of lines it belongs to; null for a field of the form */
  readonly group: number | null;
  readonly definition: Field;
  readonly type: Type;
  readonly column: Column | null;
  readonly value: PlanValue | null;
  readonly choices: PlanChoices | null;
  /** all must be met: its own, of its section and page, and of rules that hide it */
  readonly shown: readonly PlanCondition[];
  /** of rules that show it: one is enough */
  readonly showing: readonly PlanCondition[];
  /** one is enough */
  readonly required: readonly PlanCondition[];
  readonly locked: readonly PlanCondition[];
  /** of those that lock: what keeps it from people who are not to fill it, now; of them it is not required either */
  readonly filling: readonly PlanCondition[];
  readonly words: Readonly<Record<WordKind, PlanWords | null>>;
  readonly checks: readonly PlanCheck[];
  readonly spreads: readonly PlanSpread[];
  /** whether whom it is shown to depends on who is signed in: hidden from a person, it is neither told nor taken */
  readonly isPersonal: boolean;
  /** a calculation that chooses nothing and holds no file: what such a cell takes is worked out on a short way */
  readonly isPlain: boolean;
}

/** A group of lines compiled. */
export interface PlanLines {
  readonly key: string;
  readonly group: number;
  readonly definition: Lines;
  /** slot of its first field; the others follow in the order of the columns */
  readonly first: number;
  readonly count: number;
  readonly shown: readonly PlanCondition[];
  readonly showing: readonly PlanCondition[];
  readonly required: readonly PlanCondition[];
  readonly locked: readonly PlanCondition[];
  readonly filling: readonly PlanCondition[];
}

/** A form compiled against its tables. Immutable and shared by every entry opened from it. */
export interface Plan {
  readonly form: Form;
  readonly tables: Tables;
  readonly scope: Scope;
  /** the names inside lines, by the key of the lines */
  readonly lineScopes: ReadonlyMap<string, Scope>;
  readonly fields: readonly PlanField[];
  /** the form's own fields: the first of `fields` */
  readonly own: readonly PlanField[];
  readonly lines: readonly PlanLines[];
  /** slots by path */
  readonly slots: ReadonlyMap<string, number>;
  readonly cells: readonly Cell[];
  readonly cellTable: PlanCells;
  /** how many cells a frame has: of the form, and of a line of each group */
  readonly frameCells: { readonly form: number; readonly lines: readonly number[] };
  /** cell ids that read a cell, by cell id: in the same frame, or in every line when a cell of the form is read */
  readonly dependents: readonly (readonly number[])[];
  /** cell ids that read a line's cell through all lines at once (`SUM(lots.grams)`) */
  readonly across: readonly (readonly number[])[];
  /** the cell of a field's kind, or -1; for `lines` and `linesShown` by group */
  readonly cellOf: Readonly<Record<CellKind | LinesKind, Int32Array>>;
  /** the fields that plain arithmetic fills */
  readonly arithmetic: PlanArithmetic;
  /** field slots that a field's cells read: the tracks of the rail */
  readonly drivers: readonly (readonly Driver[])[];
  /** every PICK and GATHER, by the number that wants name it by */
  readonly picks: readonly PickPart[];
  /** what acts on values at moments, in order */
  readonly rules: readonly PlanRule[];
  /** by slot: the places in `rules` of those that act on its change */
  readonly triggered: readonly (readonly number[])[];
  /** the steps of a record's life, and the moves between them */
  readonly steps: PlanSteps | null;
  /** all formulas that the form computes with */
  readonly formulas: readonly Formula[];
  readonly problems: readonly FormProblem[];
  /** every formula that is written in the form and can be read, where it stands; those that have mistakes too */
  readonly written: readonly Written[];
}

export interface Driver {
  readonly slot: number;
  readonly through: CellKind;
}
