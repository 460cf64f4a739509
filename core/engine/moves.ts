import { type Move, type Step, startsFrom, stepNow } from '../form/steps.ts';
import { listed } from '../form/who.ts';
import { Waiting, isFormulaError } from '../formula/errors.ts';
import type { ValueState } from '../model/valueState.ts';
import { giveByForm } from './byForm.ts';
import type { Frame } from './frame.ts';
import type { PlanField } from './plan.ts';
import type { Settling } from './settling.ts';
import type { PlanMove, PlanSteps } from './steps.ts';

/** A move that leads on from the step a record stands at, for whoever is signed in. */
export interface MoveState {
  readonly move: Move;
  readonly to: Step;
  /** why it cannot be made now, as a sentence; null when it can */
  readonly problem: string | null;
  /** what must be filled first: paths, or keys of lines */
  readonly lacks: readonly string[];
}
/** A move made since the entry was opened. */
export interface MoveMade {
  readonly move: Move;
  readonly from: Step;
  readonly to: Step;
}
const NO_MOVES: readonly PlanMove[] = [];
interface Made extends MoveMade {
  /** what it changed, as it was before */
  readonly before: readonly { readonly field: PlanField; readonly state: ValueState }[];
}

/** The moves of one entry: which can be made now, and which were. Told anew where something they rest on has changed; cost: a formula or two a move. */
export class Moves {
  private readonly done: Made[] = [];
  /** whether they are still to be told; see `EntryContext.tellsLate` */
  private isPutOff = false;
  /** moves from here that whoever is signed in may make, possible now or not */
  now: readonly MoveState[] = [];

  constructor(
    private readonly settling: Settling,
    private readonly steps: PlanSteps,
    /** whether a field, or lines, hold anything */
    private readonly isFilled: (key: string, slot: number) => boolean,
  ) {}

  private get root(): Frame {
    return this.settling.frames.root;
  }
  private get field(): PlanField {
    return this.settling.plan.fields[this.steps.slot] as PlanField;
  }
  /** The step the record stands at. */
  get step(): Step {
    return stepNow(this.steps.definition, this.root.values[this.field.at]);
  }
  get made(): readonly MoveMade[] {
    return this.done;
  }

  /** A record without a step is saved at the first. */
  beforeSaving(): void {
    const value = this.root.values[this.field.at] ?? null;
    if (value !== null) return;
    const by = { origin: { kind: 'default' }, cause: { kind: 'edit' }, once: true } as const;
    giveByForm(this.settling, { frame: this.root, field: this.field }, this.step.value, by);
  }

  /** Tells which moves there are now, where an edit may have changed what they rest on. */
  tellAfterEdit(): void {
    if (this.steps.reads === null || this.settling.movesMayDiffer) this.settled();
  }
  /** Tells what was put off. */
  tellPutOff(): void {
    if (this.isPutOff) this.tell();
  }
  /**
   * The entry has settled, and anything may have changed what they rest on: tells them. Where what people are told is put off they are told
   * when one is made, and at the end; until then they lack nothing.
   */
  settled(): void {
    if (this.settling.tellsLate) {
      this.isPutOff = true;
      this.settling.lacks.none('moves');
    } else this.tell();
  }
  /** Tells which moves there are now. What their conditions lack is wanted. The same as before, it is the same array: it is told at most keys. */
  tell(): void {
    const { lacks, context } = this.settling;
    this.settling.movesMayDiffer = false;
    this.isPutOff = false;
    lacks.begin();
    const here = this.step.value;
    let place = 0;
    let told: MoveState[] | null = null;
    for (const move of context.mode === 'view' ? NO_MOVES : this.steps.moves) {
      if (!startsFrom(move.definition, here) || (move.who !== null && move.who.run(this.root.env) !== true)) continue;
      const before = this.now[place];
      const now = this.stateOf(move, before);
      if (now !== before) told ??= this.now.slice(0, place);
      told?.push(now);
      place++;
    }
    if (told) this.now = told;
    else if (place < this.now.length) this.now = this.now.slice(0, place);
    lacks.end('moves', 'change');
  }
  /** How a move stands; what it was before where that is the same. */
  private stateOf(move: PlanMove, before: MoveState | undefined): MoveState {
    const { definition } = move;
    const to = stepNow(this.steps.definition, definition.to);
    const isMissing = ({ key, slot }: PlanMove['filled'][number]): boolean => !this.isFilled(key, slot);
    if (move.filled.some(isMissing)) {
      const missing = move.filled.filter(isMissing);
      const labels = missing.map((f) => f.label);
      return { move: definition, to, problem: `First fill ${listed(labels, 'and')}.`, lacks: missing.map((f) => f.key) };
    }
    const problem = this.problemOf(move);
    const isSame = before?.move === definition && before.to === to && before.problem === problem && !before.lacks.length;
    return isSame ? before : { move: definition, to, problem, lacks: [] };
  }
  /** What stands against a move whose fields are filled; null: nothing. */
  private problemOf({ when, sets }: PlanMove): string | null {
    const holds = when === null ? true : when.run(this.root.env);
    let waits = holds instanceof Waiting;
    // all are asked, so that all they lack is wanted
    for (const act of sets) if (act.kind === 'set' && act.formula?.run(this.root.env) instanceof Waiting) waits = true;
    if (waits) return 'What it asks for is being looked up.';
    if (isFormulaError(holds)) return `Its condition cannot be computed: ${holds.message}`;
    return holds === true ? null : 'Its condition does not hold.';
  }
  /** Why a move cannot be made, as a sentence; null when it can. */
  problem(id: string): string | null {
    const known = this.steps.definition.moves.find((m) => m.id === id);
    if (!known) return 'There is no such move.';
    this.tellPutOff();
    const here = this.step;
    if (!startsFrom(known, here.value)) return `${known.label} is not possible at the step ${here.label}.`;
    const state = this.now.find((m) => m.move.id === id);
    if (!state) return `${known.label} is not yours to make.`;
    return state.problem === null ? null : `${known.label} is not possible yet. ${state.problem}`;
  }
  /** What a move that was made asked for and is empty again, by field, with a sentence. */
  broken(): { readonly field: string; readonly message: string }[] {
    return this.done.flatMap(({ move }) =>
      (this.steps.moves.find((m) => m.definition === move)?.filled ?? [])
        .filter((f) => !this.isFilled(f.key, f.slot))
        .map((f) => ({ field: f.key, message: `${f.label} must be filled: ${move.label}.` })),
    );
  }

  /** Makes a move that can be made. */
  make(id: string): void {
    const { settling, root } = this;
    const move = this.steps.moves.find((m) => m.definition.id === id) as PlanMove;
    const cause = { kind: 'move', move: id } as const;
    const by = { origin: { kind: 'move', move: id }, cause, once: false } as const;
    const fields = settling.plan.fields;
    // all is computed from what had settled, before anything is set
    const given = move.sets.flatMap((a) =>
      a.kind === 'set' ? [{ field: fields[a.slot] as PlanField, value: a.formula ? a.formula.run(root.env) : null }] : [],
    );
    const from = this.step;
    const changed = [this.field, ...given.map((g) => g.field)];
    const before = changed.map((field) => ({ field, state: root.state(field.at) }));
    this.done.push({ move: move.definition, from, to: stepNow(this.steps.definition, move.definition.to), before });
    giveByForm(settling, { frame: root, field: this.field }, move.definition.to, by);
    for (const { field, value } of given) giveByForm(settling, { frame: root, field }, value, by);
  }
  /** Takes back the move made last: what it set and nobody changed since is as it was before. */
  takeBack(): void {
    const { settling, root } = this;
    const last = this.done.pop();
    for (const { field, state } of last?.before ?? []) {
      const { origin } = root.state(field.at);
      const isIts = origin.kind === 'move' && origin.move === last?.move.id;
      if (!isIts && field !== this.field) continue;
      settling.setState(root, field, state, { kind: 'edit' }, 'change');
      settling.markOwn(root, 'value', field, 'change', { kind: 'edit' });
    }
  }
}
