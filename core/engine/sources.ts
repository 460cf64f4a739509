import { type SourcePlace, compileSource, sourceMisfit, sourceStores } from '../choices/sources/index.ts';
import { type Narrowing, narrowingOf } from '../choices/narrowing.ts';
import { subsetScope } from '../choices/subsets.ts';
import type { Field } from '../form/definition.ts';
import { OPTION_COLUMNS } from '../model/lists.ts';
import { type FieldPart, type FormProblem, formProblem } from '../form/problems.ts';
import { type Table, isSeveral } from '../model/tables.ts';
import type { World } from '../model/world.ts';
import { type Formula, formula } from '../formula/formula.ts';
import { type Scope, withBinding } from '../formula/scope.ts';
import { KINDS } from '../values/kinds/index.ts';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';
import type { PlanChoices } from './plan.ts';

type CompileFormula = (path: string, part: FieldPart, text: string | null, expected: Type | null, scope?: Scope) => Formula | null;

/**
 * Which fields above a choice fills when it is made: those its narrowing equates. Of a value of a column in a large table the
 * candidate's side cannot be told.
 */
function fillsOf({ source, narrowing, values, large }: Omit<PlanChoices, 'fills'>): readonly number[] {
  if (!source.fillUp || (values !== null && large)) return [];
  return [...new Set((narrowing?.parts ?? []).flatMap((p) => (p.equates ? [p.equates.slot] : [])))];
}

/** Compiles where a field's choices come from: looks everything up, says what is missing. */
export class SourceCompiler {
  constructor(
    private readonly world: World,
    private readonly scope: Scope,
    private readonly problems: FormProblem[],
    private readonly formula: CompileFormula,
  ) {}

  choices(path: string, definition: Field): PlanChoices | null {
    const { source, type } = definition;
    const stores = KINDS[type].chooses;
    if (!stores) return null;
    const place = this.place(path, definition);
    if (!source) return place.note('noSource', 'It does not say yet where the choices come from.');
    if (sourceStores(source.kind) !== stores) return place.note('noSource', sourceMisfit(source, isSeveral(type)));
    const found = compileSource(source, place);
    if (!found) return null;
    const choices = {
      source, stores, table: null, options: null, retired: [], values: null, asks: null, large: false, sort: [], search: ['label'], ...found,
    }; // prettier-ignore
    return { ...choices, fills: fillsOf(choices) };
  }

  private place(path: string, field: Field): SourcePlace {
    const note = (code: FormProblem['code'], message: string, part: FieldPart = 'source'): null => {
      this.problems.push(formProblem(code, path, part, message));
      return null;
    };
    return {
      world: this.world,
      field,
      scope: this.scope,
      note,
      formula: (part, text, expected, scope) => this.formula(path, part, text, expected, scope),
      ofRows: (table) => this.candidateScope(table),
      ofItems: (members = new Map()) => this.optionScope(members),
      narrowing: (where, subset, scope) => this.narrowing(path, where, subset, scope),
      subset: (table, key) => this.subset(table, key, note),
    };
  }

  /** The condition of a subset, or null when all rows are meant; a subset that is broken or gone is said. */
  private subset(table: Table, key: string | null, note: SourcePlace['note']): string | null {
    if (key === null) return null;
    const subset = table.subsets?.find((s) => s.key === key);
    if (!subset) return note('noSubset', `${table.label} has no subset “${key}”.`);
    const broken = formula(subset.condition, subsetScope(this.scope, table.key), T.YESNO).problems.find((p) => p.severity === 'error');
    if (broken) return note('noSubset', `The subset ${subset.label} of ${table.label} has a mistake: ${broken.message}`);
    return subset.condition;
  }

  /** A narrowing; the condition of a subset stands before the field's own, so that the funnel counts it first. */
  private narrowing(path: string, where: string | null, subset: string | null, scope: Scope): Narrowing | null {
    const own = this.formula(path, 'where', where, T.YESNO, scope);
    if (subset === null) return own && narrowingOf(own);
    return narrowingOf(formula(own ? `(${subset}) AND (${own.text})` : subset, scope, T.YESNO));
  }

  /** The scope of a narrowing: `choice` is the candidate row. */
  private candidateScope(table: string): Scope {
    return withBinding(this.scope, { name: 'choice', label: 'The row on offer', type: T.rowOf(table), source: { kind: 'candidate' } });
  }

  /** Candidates that are no rows have a value, a label and what their source gives besides. */
  private optionScope(members: ReadonlyMap<string, Type>): Scope {
    const plain = OPTION_COLUMNS.map((k): [string, Type] => [k, k === 'level' ? T.NUMBER : k === 'retired' ? T.YESNO : T.TEXT]);
    const columns = new Map([...plain, ...members].map(([key, type]) => [key, { key, label: key, type }]));
    const shape = { key: OPTION_ROWS, label: 'the list', shown: 'label', columns };
    const scope = this.candidateScope(OPTION_ROWS);
    return { ...scope, tables: new Map(scope.tables).set(OPTION_ROWS, shape) };
  }
}

const OPTION_ROWS = '_options';
