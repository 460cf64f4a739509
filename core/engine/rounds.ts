import { isOfLines, isOfSteps } from './edits.ts';
import { atOnce } from './inSteps.ts';
import type { Cell, Plan, PlanField } from './plan.ts';
import { reachOf } from './reach.ts';
import type { Edit } from './state.ts';

/*
 * Which edits may be made before the one ahead of them has settled. A log of a record with lines names each line after the other, but what
 * is done in one line says nothing of the next: laid side by side, twenty lines settle as often as the longest line has steps.
 */

/** How many edits stand in one round at most: what many of them lack at once, others wait for. */
const MOST_AT_ONCE = 64;

/**
 * Edits in rounds: made round by round, each round settled once, they come to what they come to one by one, each settled before the next.
 * `isNew`: of a new record. Inside a round edits stand as they were made. Two edits may change places, or share a round, where neither
 * reaches what is looked at when the other is made, and where whatever both reach is worked out from what stands there alone, not from
 * how it stood before (a total; but no field that somebody may type in). What asks how all stands comes alone: a move, a line taken out or
 * moved, a field whose change sets others or sets off a rule. Held by a property test.
 *
 * The rounds are those of Foata's normal form (Cartier, Foata, Problèmes combinatoires de commutation et réarrangements, 1969): each edit
 * stands in the first round behind all before it that it does not commute with. Cost: edits, times the kinds of edits among them.
 */
export function inRounds(plan: Plan, edits: readonly Edit[], isNew: boolean): Rounds {
  return atOnce(roundsInSteps(plan, edits, isNew));
}
type Rounds = readonly (readonly Edit[])[];
/** How many edits are laid out in one step. */
const EDITS_A_STEP = 500;

/** The same in steps, for logs of tens of thousands of edits where others must have their turn. */
export function* roundsInSteps(plan: Plan, edits: readonly Edit[], isNew: boolean): Generator<void, Rounds> {
  const kinds = edits.length > 1 ? kindsOf(plan, isNew) : null;
  if (!kinds) return edits.map((e) => [e]);
  const rounds: Edit[][] = [];
  /** the last round with an edit of a kind, in whatever line; and the same by line */
  const latest = new Map<EditKind, number>();
  const inLines = plan.lines.map(() => new Map<number | null, Map<EditKind, number>>());
  let first = 0;
  let laid = 0;
  for (const edit of edits) {
    if (++laid % EDITS_A_STEP === 0) yield;
    const kind = kinds.of(edit);
    if (!kind) {
      first = rounds.push([edit]);
      continue;
    }
    let round = first;
    for (const [other, at] of latest) {
      if (at < round) continue;
      if (kinds.meeting(kind, other) === 'anywhere') round = at + 1;
      // lines are added in the order in which they were
      else if (other === kind && kind.adds) round = at;
    }
    if (kind.group !== null) {
      const line = 'line' in edit ? (edit.line ?? null) : null;
      const ofGroup = inLines[kind.group] as (typeof inLines)[number];
      let there = ofGroup.get(line);
      if (!there) ofGroup.set(line, (there = new Map()));
      for (const [other, at] of there) if (at >= round && kinds.meeting(kind, other) !== 'never') round = at + 1;
      there.set(kind, round);
    }
    latest.set(kind, Math.max(round, latest.get(kind) ?? 0));
    (rounds[round] ??= []).push(edit);
  }
  return rounds.flatMap(inParts);
}
const inParts = (round: readonly Edit[]): (readonly Edit[])[] =>
  Array.from({ length: Math.ceil(round.length / MOST_AT_ONCE) }, (_, i) => round.slice(i * MOST_AT_ONCE, (i + 1) * MOST_AT_ONCE));

/** What edits of one field reach, or those that add a line. Cells stand as bits, by their ids. */
interface EditKind {
  readonly no: number;
  /** whether it adds a line */
  readonly adds: boolean;
  /** the group of lines in one of which it is made; null for the form's own fields */
  readonly group: number | null;
  /** what is looked at when it is made: of its own line, or of the form */
  readonly looks: Bits;
  /** what it reaches of its own line, and what of the form and of all lines */
  readonly own: Bits;
  readonly all: Bits;
}
type Meeting = 'never' | 'in one line' | 'anywhere';
type Bits = Uint32Array;
const has = (bits: Bits, id: number): boolean => ((bits[id >> 5] as number) & (1 << (id & 31))) !== 0;
const put = (bits: Bits, id: number): void => void (bits[id >> 5]! |= 1 << (id & 31));

/** The kinds of edits of a plan, each worked out when it is first met. */
class Kinds {
  private readonly byNo: (EditKind | null)[] = [];
  private readonly meetings = new Map<number, Meeting>();
  private readonly words: number;
  /** the cells whose outcome hangs on how they stood before */
  private readonly remembers: Bits;

  constructor(
    private readonly plan: Plan,
    isNew: boolean,
  ) {
    this.words = (plan.cells.length >> 5) + 1;
    this.remembers = this.none();
    for (const { id, kind, slot } of plan.cells)
      if (kind === 'value' && !(isNew && this.isWorkedOut(plan.fields[slot] as PlanField))) put(this.remembers, id);
  }
  private none = (): Bits => new Uint32Array(this.words);
  /** Whether a field of a new record is whatever its formula gives, come what may: a hidden one also tells what emptied it. */
  private isWorkedOut = ({ isPlain, slot }: PlanField): boolean => isPlain && (this.plan.cellOf.shown[slot] as number) < 0;

  /** The kind of an edit; null where it comes alone. */
  of(edit: Edit): EditKind | null {
    if (isOfSteps(edit)) return null;
    const { plan } = this;
    if (isOfLines(edit)) {
      const lines = edit.kind === 'addLine' ? plan.lines.find((l) => l.key === edit.field) : undefined;
      return lines ? this.kind(plan.fields.length + lines.group) : null;
    }
    const slot = plan.slots.get(edit.field);
    return slot === undefined ? null : this.kind(slot);
  }
  private kind(no: number): EditKind | null {
    let kind = this.byNo[no];
    if (kind === undefined) this.byNo[no] = kind = this.made(no);
    return kind;
  }
  private made(no: number): EditKind | null {
    const { plan } = this;
    const field = plan.fields[no];
    const adds = field === undefined;
    const group = field ? field.group : no - plan.fields.length;
    const kind = { no, adds, group, looks: this.none(), own: this.none(), all: this.none() };
    const open: number[] = [];
    const reach = (id: number, isOwn: boolean): void => {
      if (id < 0 || has(kind.all, id) || (isOwn && has(kind.own, id))) return;
      put(isOwn ? kind.own : kind.all, id);
      open.push(id);
    };
    if (field) {
      if (field.spreads.length) return null;
      for (const of of ['value', 'choices', 'shown', 'locked'] as const) {
        const id = plan.cellOf[of][field.slot] as number;
        if (id >= 0) put(kind.looks, id);
      }
      reach(plan.cellOf.value[field.slot] as number, field.group !== null);
    } else {
      const locked = plan.cellOf.linesLocked[group as number] as number;
      if (locked >= 0) put(kind.looks, locked);
      for (const reader of plan.dependents[plan.cellOf.lines[group as number] as number] ?? []) reach(reader, false);
      for (const cell of plan.cells) if (cell.group === group) reach(cell.id, true);
    }
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      const cell = plan.cells[id] as Cell;
      // reached in every line it is among `all`; it may have been among those of its own line before
      const isOwn = cell.group !== null && !has(kind.all, id);
      if (cell.kind === 'value' && this.setsOff(plan.fields[cell.slot] as PlanField)) return null;
      for (const reader of plan.dependents[id] ?? []) reach(reader, isOwn && (plan.cells[reader] as Cell).group === cell.group);
      for (const reader of plan.across[id] ?? []) reach(reader, false);
      // a choice fills what it was narrowed by: in its own line, or of the form
      const fills = cell.kind === 'value' ? (plan.fields[cell.slot]?.choices?.fills ?? []) : [];
      for (const slot of fills) reach(plan.cellOf.value[slot] as number, isOwn && plan.fields[slot]?.group === cell.group);
    }
    return kind;
  }
  /** Whether a change of a field's value does more than to be read: rules act on it, or it fills others from what an outside service says of it. */
  private setsOff({ slot, choices }: PlanField): boolean {
    const { triggered, steps, rules } = this.plan;
    if (triggered[slot]?.length || (choices?.fills.length && asksFeed(choices))) return true;
    return slot === steps?.slot && rules.some((r) => r.definition.reaches.length > 0);
  }

  /** Where edits of two kinds do not commute. */
  meeting(a: EditKind, b: EditKind): Meeting {
    const key = Math.min(a.no, b.no) * (this.plan.fields.length + this.plan.lines.length) + Math.max(a.no, b.no);
    let found = this.meetings.get(key);
    if (found === undefined) this.meetings.set(key, (found = this.met(a, b)));
    return found;
  }
  private met(a: EditKind, b: EditKind): Meeting {
    let inOne = false;
    for (let w = 0; w < this.words; w++) {
      const [aOwn, aAll, aLooks] = [a.own[w] as number, a.all[w] as number, a.looks[w] as number];
      const [bOwn, bAll, bLooks] = [b.own[w] as number, b.all[w] as number, b.looks[w] as number];
      const both = (aAll & (bAll | bOwn)) | (aOwn & bAll);
      const remembers = this.remembers[w] as number;
      if ((both & remembers) | (aAll & bLooks) | (bAll & aLooks)) return 'anywhere';
      if ((aOwn & bOwn & remembers) | (aOwn & bLooks) | (bOwn & aLooks)) inOne = true;
    }
    return inOne ? 'in one line' : 'never';
  }
}

const asksFeed = (choices: PlanField['choices']): boolean => typeof choices?.asks?.feed === 'string';

/**
 * The kinds of edits of a plan; null where each comes alone: outside services are not asked as a record opens, and what a rule of that
 * moment waits for may come with any edit.
 */
function kindsOf(plan: Plan, isNew: boolean): Kinds | null {
  const known = isNew ? ofNew : ofStored;
  let kinds = known.get(plan);
  if (kinds === undefined) {
    const mayCome = plan.rules.some((r) => r.definition.opens) && reachOf(plan).feeds.size > 0;
    known.set(plan, (kinds = mayCome ? null : new Kinds(plan, isNew)));
  }
  return kinds;
}
const ofNew = new WeakMap<Plan, Kinds | null>();
const ofStored = new WeakMap<Plan, Kinds | null>();
