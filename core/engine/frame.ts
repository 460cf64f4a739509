import type { Env } from '../formula/env.ts';
import type { Result } from '../formula/errors.ts';
import { BEFORE_OFFER, type OfferWorld } from './offers.ts';
import { isEntered } from '../model/origin.ts';
import { CALCULATED } from '../form/fills/index.ts';
import { type Reason, type ValueState, filled } from '../model/valueState.ts';
import type { PlanField } from './plan.ts';
import type { Cause, CheckState, FieldWords, Offer } from './state.ts';

/** A state that is not a calculation's alone; one that is; one that is and was not made since its value changed; one that was never asked for. */
const [OTHERWISE, CALCULATION, BEHIND, UNREAD] = [0, 1, 2, 3] as const;

const NO_CHECKS: readonly CheckState[] = [];
const NO_WORDS: FieldWords = { called: null, hint: null, placeholder: null };

/** Whether a field was shown before it could not be told, and why that was asked since. */
export interface Untold {
  readonly shown: boolean;
  readonly reason: Reason;
}

/**
 * The state of one set of fields: of the form itself, or of one line. Arrays go by a field's place in its frame (`at`),
 * those of dirty cells by a cell's place (`local`).
 */
export class Frame {
  /** each made when it is first asked for: of a stored record that is worked out in part, most never are */
  private readonly states: (ValueState | undefined)[];
  /** what formulas read: the values of the states */
  readonly values: Result[];
  /** by field, how its state stands to a calculation that gave its value; see `isCalculated` */
  private readonly given: Uint8Array;
  readonly offers: (Offer | null)[];
  readonly shown: boolean[];
  /** fields of which cannot be told yet what hides them, by `at`; they are not shown meanwhile */
  untold: Map<number, Untold> | null = null;
  /** how fields stood that may lose their value when it is told what hides them, by `at`; their value is not known meanwhile */
  private aside: Map<number, ValueState> | null = null;
  /** the values that stood in fields that wait now, by `at` */
  private waited: Map<number, Result> | null = null;
  readonly required: boolean[];
  readonly locked: boolean[];
  readonly checks: (readonly CheckState[])[];
  readonly words: FieldWords[];
  readonly reasons: (Reason | null)[];
  readonly causes: (Cause | null)[];
  readonly env: Env;
  readonly world: OfferWorld;
  /** false once its line has been removed: what was still to be computed for it is dropped */
  alive = true;

  constructor(
    /** 0 the form; lines count on from 1 and are never numbered again */
    readonly no: number,
    /** the line's id: that of its row, or negative until it is saved; null for the form */
    readonly line: number | null,
    readonly fields: readonly PlanField[],
    cells: number,
    /** what a field opens with: its value, and how it stands */
    valueOf: (field: PlanField) => Result,
    private readonly initial: (field: PlanField) => ValueState,
    surroundings: (frame: Frame) => { env: Env; world: OfferWorld },
  ) {
    const { length } = fields;
    this.states = new Array<ValueState | undefined>(length);
    this.values = fields.map(valueOf);
    this.given = new Uint8Array(length).fill(UNREAD);
    this.offers = fields.map((f) => (f.choices ? BEFORE_OFFER : null));
    this.shown = new Array<boolean>(length).fill(true);
    this.required = new Array<boolean>(length).fill(false);
    this.locked = new Array<boolean>(length).fill(false);
    this.checks = new Array<readonly CheckState[]>(length).fill(NO_CHECKS);
    this.words = new Array<FieldWords>(length).fill(NO_WORDS);
    this.reasons = new Array<Reason | null>(cells).fill(null);
    this.causes = new Array<Cause | null>(cells).fill(null);
    const { env, world } = surroundings(this);
    this.env = env;
    this.world = world;
  }

  /**
   * Whether nobody has entered anything here. Blank lines are not judged and not saved; a default or a calculation alone
   * does not make a line.
   */
  get isBlank(): boolean {
    return this.fields.every((_, at) => this.values[at] === null || this.isCalculated(at) || !isEntered(this.state(at).origin));
  }

  /** A field's value and how it stands. */
  state(at: number): ValueState {
    const given = this.given[at];
    if (given === UNREAD) {
      this.given[at] = OTHERWISE;
      return (this.states[at] = this.initial(this.fields[at] as PlanField));
    }
    const known = this.states[at] as ValueState;
    if (given !== BEHIND) return known;
    const now = filled(known, this.values[at] ?? null, CALCULATED, known.done);
    this.states[at] = now;
    this.given[at] = CALCULATION;
    return now;
  }
  /** How a field stood before it was put aside, else how it stands. */
  known(at: number): ValueState {
    return this.aside?.get(at) ?? this.state(at);
  }
  /** Whether a field was put aside. */
  isAside(at: number): boolean {
    return this.aside !== null && this.aside.has(at);
  }
  /** A field stood so, which may lose its value when that is told; until something else is put. */
  putAside(at: number, state: ValueState): void {
    (this.aside ??= new Map<number, ValueState>()).set(at, state);
  }
  /** Sets how a field stands; its value among `values` is set apart, when it has changed. */
  put(at: number, state: ValueState): void {
    this.states[at] = state;
    this.aside?.delete(at);
    this.given[at] = state.origin === CALCULATED && state.suggestion === state.value ? CALCULATION : OTHERWISE;
  }
  /** A field waits in which a value stood. */
  waits(at: number, value: Result): void {
    (this.waited ??= new Map<number, Result>()).set(at, value);
  }
  /** What stood in a field before it waited; undefined where it did not wait, and from then on. */
  stood(at: number): Result | undefined {
    if (this.waited === null) return undefined;
    const value = this.waited.get(at);
    this.waited.delete(at);
    return value;
  }
  /** Whether the value is what a calculation gave, and nothing else is to be said of it: all but the value is then as it was. */
  isCalculated(at: number): boolean {
    const given = this.given[at];
    return given === CALCULATION || given === BEHIND;
  }
  /** A calculation gives a field that is so calculated another value. Its state is made when somebody asks for it. */
  calculate(at: number, value: Result): void {
    this.values[at] = value;
    this.given[at] = BEHIND;
  }
}
