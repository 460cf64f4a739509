import type { Env } from '../formula/env.ts';
import type { Result } from '../formula/errors.ts';
import { BEFORE_OFFER, type OfferWorld } from './offers.ts';
import { isEntered } from '../model/origin.ts';
import type { Reason, ValueState } from '../model/valueState.ts';
import type { PlanField } from './plan.ts';
import type { Cause, CheckState, FieldWords, Offer } from './state.ts';

const NO_CHECKS: readonly CheckState[] = [];
const NO_WORDS: FieldWords = { called: null, hint: null, placeholder: null };

/**
 * The state of one set of fields: of the form itself, or of one line. Arrays go by a field's place in its frame (`at`),
 * those of dirty cells by a cell's place (`local`).
 */
export class Frame {
  readonly states: ValueState[];
  readonly values: Result[];
  readonly offers: (Offer | null)[];
  readonly shown: boolean[];
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
    initial: (field: PlanField) => ValueState,
    surroundings: (frame: Frame) => { env: Env; world: OfferWorld },
  ) {
    this.states = fields.map(initial);
    this.values = this.states.map((s) => s.value);
    this.offers = fields.map((f) => (f.choices ? BEFORE_OFFER : null));
    const { length } = fields;
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
    return this.states.every((s) => s.value === null || !isEntered(s.origin));
  }
}
