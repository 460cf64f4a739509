import { givesOnce } from '../form/fills/index.ts';
import type { DataEnv, Env } from '../formula/env.ts';
import { type Result, Waiting, isDatum } from '../formula/errors.ts';
import { ENTERED, NO_ORIGIN, type Origin, firstOrigin } from '../model/origin.ts';
import { FILES } from '../model/tables.ts';
import { type ValueState, opened } from '../model/valueState.ts';
import type { Datum, Row } from '../values/types.ts';
import type { DataCache } from './cache.ts';
import type { EntryContext, StoredRecord } from './context.ts';
import { Frame } from './frame.ts';
import type { Lacks } from './lacks.ts';
import { LineFrames } from './lineFrames.ts';
import { dataEnv } from './picks.ts';
import type { OfferWorld } from './offers.ts';
import type { Plan, PlanField, PlanLines } from './plan.ts';

/** The frames of an entry, of the form and of its lines, with what formulas in them read. */
export class Frames {
  readonly root: Frame;
  readonly lines: LineFrames;
  private readonly form: readonly Frame[];
  private readonly data: DataEnv;
  // one of each for all frames: a record of thousands of lines has as many
  private readonly readRow: Env['row'] = (table, id) => this.row(table, id);
  private readonly readLines: Env['lines'] = (group, at) => this.lines.values(group, at);
  private readonly readTotal: Env['total'] = (group, at) => this.lines.total(group, at);
  private readonly want: OfferWorld['want'] = (want) => this.lacks.want(want);

  constructor(
    private readonly plan: Plan,
    private readonly context: EntryContext,
    private readonly cache: DataCache,
    private readonly lacks: Lacks,
    record: StoredRecord | null,
  ) {
    this.data = dataEnv(plan, cache, this.want, (name, number) => lacks.number(name, number));
    const values = record?.values ?? null;
    this.root = this.make(0, null, plan.own, plan.frameCells.form, values, values, (f) => initial(f, values, record?.origins[f.key]));
    this.form = [this.root];
    this.lines = new LineFrames(plan.lines, (no, line, group, stored) => {
      const { first, count } = plan.lines[group] as PlanLines;
      const values = stored?.values ?? null;
      const start = (f: PlanField): ValueState => initial(f, values, stored?.origins?.[f.key]);
      return this.make(no, line, plan.fields.slice(first, first + count), plan.frameCells.lines[group] ?? 0, null, values, start);
    });
    for (const { group, key, definition } of plan.lines) {
      for (const line of record?.lines?.[key] ?? []) this.lines.add(group, line.id, null, line);
      if (!record && context.mode === 'new') for (let i = 1; i <= definition.start; i++) this.lines.add(group, -i);
    }
  }

  private make(
    no: number,
    line: number | null,
    fields: readonly PlanField[],
    cells: number,
    before: Readonly<Record<string, Datum>> | null,
    values: Readonly<Record<string, Datum>> | null,
    start: (field: PlanField) => ValueState,
  ): Frame {
    const { plan, context, cache } = this;
    return new Frame(
      no,
      line,
      fields,
      cells,
      (f) => firstValue(f, values),
      start,
      (frame) => {
        const outer = line === null ? null : this.root.env;
        const env: Env = {
          values: frame.values,
          outer,
          candidate: null,
          each: null,
          params: [],
          today: context.today,
          now: context.now,
          me: context.me,
          roles: context.roles ?? [],
          calendar: context.calendar,
          mode: context.mode,
          url: context.url ?? {},
          parent: context.parent ?? null,
          before: outer ? outer.before : before,
          row: this.readRow,
          lines: this.readLines,
          total: this.readTotal,
          item: (slot) => this.item(frame, slot),
          data: this.data,
        };
        const valueAt = (slot: number): Result => {
          const field = plan.fields[slot] as PlanField;
          return (field.group === null ? this.root.values : frame.values)[field.at] ?? null;
        };
        return { env, world: { plan, env, valueAt, cache, want: this.want } };
      },
    );
  }

  /** The frames of a group of lines, in their order; of null, that of the form. */
  of(group: number | null): readonly Frame[] {
    return group === null ? this.form : this.lines.of(group);
  }
  /** A frame by its number; none when its line is gone. */
  numbered(no: number): Frame | undefined {
    return no === 0 ? this.root : this.lines.numbered(no);
  }
  /** The frame a field stands in when it is looked at from a frame: its own, or that of the form. */
  home(field: PlanField, from: Frame): Frame {
    return field.group === null ? this.root : from;
  }

  /** Every field in every frame: those of the form, then those of each line. */
  each(visit: (field: PlanField, frame: Frame) => void): void {
    for (const field of this.plan.own) visit(field, this.root);
    for (const { group } of this.plan.lines)
      for (const frame of this.lines.of(group)) for (const field of frame.fields) visit(field, frame);
  }

  /** A row of a table; wanted, and Waiting, while it is not here. */
  row(table: string, id: number): Row | null | Waiting {
    const row = this.cache.row(table, id);
    if (row !== undefined) return row;
    const known = this.plan.tables.get(table);
    if (!known && table !== FILES) return null;
    this.lacks.want(!known || known.large ? { kind: 'row', table, id } : { kind: 'table', table });
    return Waiting.value;
  }
  /** The row (or option) that a choice field's value stands for. */
  candidate(frame: Frame, field: PlanField, value: Result): Row | null | Waiting {
    if (!field.choices || !isDatum(value) || value === null) return null;
    const { options, table, stores } = field.choices;
    if (stores === 'row' && table !== null) return typeof value === 'number' ? this.row(table, value) : null;
    return (options ?? frame.offers[field.at]?.rows)?.find((r) => r.value === value) ?? null;
  }
  private item(frame: Frame, slot: number): Row | null {
    const field = this.plan.fields[slot] as PlanField;
    const row = this.candidate(frame, field, frame.values[field.at] ?? null);
    return row instanceof Waiting ? null : row;
  }
}

const STORED_TYPED: Origin = Object.freeze({ kind: 'stored', was: ENTERED.typed });
/** What a field opens with: what is stored, nothing where it is not filled yet. */
const firstValue = ({ definition: { column } }: PlanField, values: Readonly<Record<string, Datum>> | null): Datum =>
  (values && column && values[column]) ?? null;
/** The same, and how it stands. */
function initial(field: PlanField, values: Readonly<Record<string, Datum>> | null, was: Origin | undefined): ValueState {
  const column = field.definition.column;
  if (!values || !column) return opened(null, NO_ORIGIN, givesOnce(field), false);
  return opened(firstValue(field, values), storedOrigin(was), false, true);
}
/** The origin of a stored value, from how it came there, where that was noted. */
export const storedOrigin = (was: Origin | undefined): Origin => (was ? { kind: 'stored', was: firstOrigin(was) } : STORED_TYPED);
