import { type FormProblem, formProblem } from '../form/problems.ts';
import { isDatum } from '../formula/errors.ts';
import { foldText } from '../values/text.ts';
import type { Datum, Row } from '../values/types.ts';
import { sortedWhole, storedOf } from './candidates.ts';
import type { Entry } from './entry.ts';
import { settersOf } from './mistakes.ts';
import type { PlanField } from './plan.ts';

/** How many rows are looked through in all; past it nothing more is said. */
const MOST_ROWS = 50_000;
/** How many choices are named. */
const MOST_NAMED = 4;

/** What a field can ever hold; null: anything, or it cannot be told. */
type Values = ReadonlySet<string> | null;

/**
 * Choices that nobody can reach: the cascade is walked from the top, and what belongs to something that the field above never offers is
 * never offered itself. Only what is certain is said: of lists that wait for the field above, equate it, and whose rows are known here
 * (small tables, option lists); a field above that something else than its list fills may hold anything. What a condition leaves out that asks nothing
 * of the entry is left out on purpose, with all that belongs to it, and not told. Gives a warning for each such field. Cost: linear in the rows of the lists.
 */
export function unreachedIn(entry: Entry): FormProblem[] {
  return new Walk(entry).problems();
}

class Walk {
  private readonly known = new Map<number, Values>();
  private readonly found: FormProblem[] = [];
  private rows = 0;
  private readonly setters: ReturnType<typeof settersOf>;
  constructor(private readonly entry: Entry) {
    this.setters = settersOf(entry.plan);
  }

  problems(): FormProblem[] {
    for (const { slot } of this.entry.plan.fields) this.valuesOf(slot);
    return this.found;
  }

  private valuesOf(slot: number): Values {
    const known = this.known.get(slot);
    if (known !== undefined) return known;
    // a circle is told elsewhere; here it leads nowhere
    this.known.set(slot, null);
    const values = this.walk(this.entry.plan.fields[slot] as PlanField);
    this.known.set(slot, values);
    return values;
  }
  private walk(field: PlanField): Values {
    const { choices } = field;
    if (!choices || choices.asks || choices.large || choices.source.waiting === 'all' || this.isFilled(field)) return null;
    const whole = choices.table ? this.entry.cache.table(choices.table)?.rows : null;
    const all = choices.options ?? (whole ? sortedWhole(whole, field) : null);
    this.rows += all?.length ?? 0;
    if (!all || this.rows > MOST_ROWS) return null;
    const parts = choices.narrowing?.parts ?? [];
    // what asks something else of the entry may leave anything
    const fixed = parts.filter((p) => p.params.length === 0 && p.drivers.length === 0 && p.through === null);
    const equated = parts.flatMap(({ equates }) => {
      const above = equates && equates.slot !== field.slot ? this.valuesOf(equates.slot) : null;
      return equates && above ? [{ ...equates, above }] : [];
    });
    const env = { ...this.entry.environment, params: [] as readonly Datum[] };
    const values = new Set<string>();
    const missed: Row[] = [];
    let by: number | null = null;
    let told = 0;
    let belong = false;
    for (const row of all) {
      const of = { ...env, candidate: row };
      if (!fixed.every((p) => p.run(of) === true)) {
        values.add(keyOf(storedOf(field, row)));
        continue;
      }
      told++;
      const missing = equated.find(({ candidate, above }) => {
        const value = candidate(of);
        return isDatum(value) && !above.has(keyOf(value));
      });
      if (!missing) values.add(keyOf(storedOf(field, row)));
      else {
        missed.push(row);
        by ??= missing.slot;
        belong ||= missing.candidate(of) !== null;
      }
    }
    if (missed.length && by !== null) this.tell(field, missed, told, this.entry.plan.fields[by] as PlanField, belong);
    return values;
  }

  /** Whether something else than its list gives a field a value: a formula, a rule, a move, a change, a choice that does not wait for it. */
  private isFilled({ slot, value }: PlanField): boolean {
    const { fields } = this.entry.plan;
    const others = (this.setters.get(slot) ?? []).filter((s) => s.from === null || fields[s.from]?.choices?.source.waiting === 'all');
    return value !== null || others.length > 0;
  }

  private tell(field: PlanField, missed: readonly Row[], all: number, above: PlanField, belong: boolean): void {
    const { label } = above.definition;
    const names = missed.slice(0, MOST_NAMED).map((row) => this.textOf(field, row));
    const more = missed.length > MOST_NAMED ? ` and ${missed.length - MOST_NAMED} more` : '';
    const many = missed.length === 1 ? '1 of its choices' : `${missed.length} of its ${all} choices`;
    const it = missed.length === 1 ? 'it belongs' : 'they belong';
    const because = belong ? `${label} never offers what ${it} to` : `${it} to no ${label}`;
    const message = `${many} can never be chosen, because ${because}: ${names.join(', ')}${more}.`;
    this.found.push(formProblem('unreached', field.key, 'where', message, { severity: 'warning' }));
  }
  private textOf(field: PlanField, row: Row): string {
    const { table, source } = field.choices!;
    const shown = (source.kind === 'rows' && source.show) || (table && this.entry.plan.tables.get(table)?.shown) || 'label';
    const text = row[shown];
    return text === null || text === undefined || typeof text === 'object' ? `row ${row.id}` : String(text);
  }
}
/** Values that are the same have the same key: texts whatever their case, numbers by what they are. */
const keyOf = (value: Datum): string => (typeof value === 'string' ? `t ${foldText(value)}` : `v ${JSON.stringify(value)}`);
