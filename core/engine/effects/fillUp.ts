import { narrowRows } from '../../choices/narrowing.ts';
import { isLockedByFill } from '../../form/fills/index.ts';
import { Waiting, isDatum } from '../../formula/errors.ts';
import { changed } from '../../model/valueState.ts';
import { foldText } from '../../values/text.ts';
import { type Row, same } from '../../values/types.ts';
import type { Frame } from '../frame.ts';
import type { PlanField } from '../plan.ts';
import type { Settling } from '../settling.ts';
import type { Cause } from '../state.ts';
import type { Effect, Happened } from './kind.ts';

interface Chosen {
  readonly frame: Frame;
  readonly field: PlanField;
}

/** Choosing a row first fills the empty fields that its narrowing equates, and so on upwards. */
export class FillUp implements Effect {
  readonly atOnce = true;
  private readonly chosen: Chosen[] = [];
  /** fields whose filling up waits for a row; until then their own lists cannot judge them */
  private heldBack: readonly Chosen[] = [];

  constructor(private readonly settling: Settling) {}

  get pending(): boolean {
    return this.chosen.length > 0;
  }
  follows({ choices }: PlanField): boolean {
    return choices !== null;
  }
  noted({ frame, field, value }: Happened): void {
    if (value !== null && field.choices) this.chosen.push({ frame, field });
  }
  /** Whether a field waits to be filled up from. */
  holds(frame: Frame, field: PlanField): boolean {
    return this.heldBack.length > 0 && this.heldBack.some((h) => h.frame === frame && h.field === field);
  }

  run(): void {
    const { lacks } = this.settling;
    const later: Chosen[] = [];
    lacks.begin();
    for (let next = this.chosen.pop(); next !== undefined; next = this.chosen.pop()) {
      const { frame, field } = next;
      if (!frame.alive || !field.choices?.fills.length) continue;
      const rows = this.rowsMeant(frame, field);
      if (rows instanceof Waiting) later.push(next);
      else if (rows.length) this.fill(frame, field, rows);
    }
    // what could not go on for want of a row goes on when the row comes
    this.chosen.push(...later);
    lacks.end('fillUp', 'change');
    for (const held of this.heldBack)
      if (held.frame.alive && !later.some((l) => l.frame === held.frame && l.field === held.field))
        this.settling.markOwn(held.frame, 'value', held.field, 'change', { kind: 'supply' });
    this.heldBack = later;
  }

  /** The candidates that a field's value may stand for: the row, the option, or all rows that have the value in the column. */
  private rowsMeant(frame: Frame, field: PlanField): readonly Row[] | Waiting {
    const { value } = frame.state(field.at);
    const { table, values, narrowing } = field.choices as NonNullable<PlanField['choices']>;
    if (values === null || table === null) {
      const row = this.settling.frames.candidate(frame, field, value);
      return row instanceof Waiting ? row : row ? [row] : [];
    }
    const all = this.settling.cache.table(table)?.rows;
    if (!all) {
      this.settling.lacks.want({ kind: 'table', table });
      return Waiting.value;
    }
    if (typeof value !== 'string') return [];
    const key = foldText(value);
    const having = all.filter((r) => typeof r[values] === 'string' && foldText(r[values]) === key);
    const offer = frame.offers[field.at];
    const left = narrowRows(narrowing, having, new Set(offer?.open ?? []), { ...frame.env, params: offer?.params ?? [] });
    return left.waiting ? Waiting.value : left.rows;
  }

  /** Where the rows meant agree on what stands above, it is filled in; where they do not, nothing can be told. */
  private fill(frame: Frame, field: PlanField, rows: readonly Row[]): void {
    const { plan, frames } = this.settling;
    for (const { equates } of field.choices?.narrowing?.parts ?? []) {
      if (!equates) continue;
      const parent = plan.fields[equates.slot] as PlanField;
      const home = frames.home(parent, frame);
      const above = home.state(parent.at);
      // a calculated parent follows its own formula
      if (above.value !== null || isLockedByFill(parent)) continue;
      const found = rows.map((row) => {
        frame.env.candidate = row;
        return equates.candidate(frame.env);
      });
      frame.env.candidate = null;
      const [value = null] = found;
      if (value === null || !isDatum(value) || !found.every((v) => isDatum(v) && same(v, value))) continue;
      const cause: Cause = { kind: 'cell', field: field.key, cell: 'value' };
      const next = changed(above, { value, origin: { kind: 'filledUp', from: field.key }, gone: false, offerKey: null, pending: false });
      this.settling.setState(home, parent, next, cause, 'change');
      this.settling.markOwn(home, 'value', parent, 'change', cause);
      // the list below was narrowed by what it itself filled: that is no change of its driver
      frame.put(field.at, changed(frame.state(field.at), { offerKey: null }));
      this.settling.effects.noted({ frame: home, field: parent, value, isNew: true, by: 'fillUp' });
    }
  }
}
