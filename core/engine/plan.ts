import type { Narrowing } from '../choices/narrowing.ts';
import type { Field, FieldSource, FieldValue, Form } from '../form/definition.ts';
import type { FormProblem } from '../form/problems.ts';
import type { Column, Tables } from '../form/tables.ts';
import type { Formula } from '../formula/formula.ts';
import type { Scope } from '../formula/scope.ts';
import type { Type } from '../formula/types.ts';
import type { Row } from '../values/types.ts';

/** The things of a field that can change in an entry. */
export const CELL_KINDS = ['shown', 'choices', 'value', 'required', 'locked', 'checks'] as const;
export type CellKind = (typeof CELL_KINDS)[number];

/** One thing that can change. Its id is also its place in dependency order: what it reads has a smaller id. */
export interface Cell {
  readonly id: number;
  readonly kind: CellKind;
  readonly slot: number;
}

export interface PlanValue {
  readonly kind: FieldValue['kind'];
  readonly formula: Formula;
  readonly definition: FieldValue;
}

export interface PlanCheck {
  readonly when: Formula;
  readonly message: string;
  readonly severity: 'warning' | 'error';
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
  /** of distinct values: the column */
  readonly values: string | null;
  readonly large: boolean;
  readonly sort: readonly Pick<Column, 'key' | 'type'>[];
  readonly search: readonly string[];
  readonly narrowing: Narrowing | null;
}

/** A field compiled: its slot is its place in `Plan.fields` and in an entry's values. */
export interface PlanField {
  readonly key: string;
  readonly slot: number;
  readonly definition: Field;
  readonly type: Type;
  readonly column: Column | null;
  readonly value: PlanValue | null;
  readonly choices: PlanChoices | null;
  readonly shown: readonly Formula[];
  readonly required: Formula | null;
  readonly locked: Formula | null;
  readonly checks: readonly PlanCheck[];
}

/** A form compiled against its tables. Immutable and shared by every entry opened from it. */
export interface Plan {
  readonly form: Form;
  readonly tables: Tables;
  readonly scope: Scope;
  readonly fields: readonly PlanField[];
  readonly slots: ReadonlyMap<string, number>;
  readonly cells: readonly Cell[];
  /** cell ids that read a cell, by cell id */
  readonly dependents: readonly (readonly number[])[];
  /** the cell of a field's kind, or -1 */
  readonly cellOf: Readonly<Record<CellKind, Int32Array>>;
  /** field slots that a field's cells read: the tracks of the rail */
  readonly drivers: readonly (readonly Driver[])[];
  readonly problems: readonly FormProblem[];
}

export interface Driver {
  readonly slot: number;
  readonly through: CellKind;
}
