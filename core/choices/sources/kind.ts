import type { PlanAsk, PlanChoices } from '../../engine/plan.ts';
import type { Field } from '../../form/definition.ts';
import type { FieldPart, FormProblem } from '../../form/problems.ts';
import type { Formula } from '../../formula/formula.ts';
import type { Scope } from '../../formula/scope.ts';
import type { References } from '../../model/references.ts';
import type { Table } from '../../model/tables.ts';
import type { World } from '../../model/world.ts';
import type { Row } from '../../values/types.ts';
import type { Type } from '../../values/typing.ts';
import type { Narrowing } from '../narrowing.ts';

/** Candidates as a source gives them; what it does not say is "none of it" (see `PlanChoices`). */
export type Candidates = Pick<PlanChoices, 'narrowing'> & Partial<Omit<PlanChoices, 'narrowing' | 'source' | 'stores' | 'fills'>>;

/** What a source finds where it is compiled, and how it says what is wrong. */
export interface SourcePlace {
  readonly world: World;
  readonly field: Field;
  readonly scope: Scope;
  /** Says what is wrong. `part` is the part of the field it stands in, 'source' when not said. */
  note(code: FormProblem['code'], message: string, part?: FieldPart): null;
  /** Compiles a formula of the field; null where there is none or it is broken (which is said). */
  formula(part: FieldPart, text: string | null, expected: Type | null, scope?: Scope): Formula | null;
  /** The names a condition over rows of a table may use: those of the form, and `choice`. */
  ofRows(table: string): Scope;
  /** The same of candidates that are no rows: they have a value, a label, and `members` besides. */
  ofItems(members?: ReadonlyMap<string, Type>): Scope;
  /** The narrowing of a condition; that of a subset (null: none) stands before the field's own. */
  narrowing(where: string | null, subset: string | null, scope: Scope): Narrowing | null;
  /** The condition of a subset of a table; null when all rows are meant, or when it is broken or gone (which is said). */
  subset(table: Table, key: string | null): string | null;
}

/**
 * Where choices come from: everything that depends on which kind it is. A kind is one file in this folder and one line in
 * `index.ts`; the screen has one part for each (`app/components/design/sources/`).
 */
export interface SourceKind<S> {
  /** what a choice of it stores: the number of the row, or a value */
  readonly stores: PlanChoices['stores'];
  /** why a field that stores the other cannot have it; `several`: of a field of several */
  misfit(several: boolean): string;
  /** The table whose rows are the values themselves; null when they are none. */
  rowsOf(source: S): string | null;
  /** The values offered, where they are known without asking; else null. */
  values(source: S, world: World): readonly string[] | null;
  /** What a choice has besides its value, for formulas; null when it has nothing. */
  members(source: S, world: World): ReadonlyMap<string, Type> | null;
  /** The source with everything it names passed through; its narrowing is passed by the caller. */
  named(source: S, to: References): S;
  /** What it offers, looked up; null when nothing can be offered (which is said). */
  compile(source: S, place: SourcePlace): Candidates | null;
}

const LABEL: ReadonlyMap<string, Type> = new Map([['label', { kind: 'text' }]]);
/** What candidates have in common that are no rows: they are found by their label. */
export const ITEMS = {
  stores: 'value',
  misfit: (several: boolean): string =>
    `${several ? 'Links' : 'A link'} can only hold rows of a table; for other choices the field must be a Choice.`,
  rowsOf: () => null,
  values: (): readonly string[] | null => null,
  members: (): ReadonlyMap<string, Type> | null => LABEL,
} as const;

/** Candidates known from the start. What is retired is offered no more; a record that has it keeps it, flagged. */
export const listed = (place: SourcePlace, where: string | null, options: readonly Row[], retired: readonly Row[] = []): Candidates => ({
  options,
  retired,
  narrowing: place.narrowing(where, null, place.ofItems()),
});
/** Candidates that are asked for. */
export const asking = (
  place: SourcePlace,
  where: string | null,
  asks: PlanAsk | null,
  members?: ReadonlyMap<string, Type>,
): Candidates | null => asks && { asks, narrowing: place.narrowing(where, null, place.ofItems(members)) };
