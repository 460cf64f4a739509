import { isLockedByFill } from '../form/fills/index.ts';
import { type JudgedFile, filesProblem, fitProblem } from '../form/fit.ts';
import { FILES } from '../model/tables.ts';
import { fileNumbers, holdsFiles } from '../values/kinds/index.ts';
import type { Step } from '../form/steps.ts';
import type { Env } from '../formula/env.ts';
import { type Result, isDatum } from '../formula/errors.ts';
import type { ValueState } from '../model/valueState.ts';
import { type Datum, same } from '../values/types.ts';
import { askFailedAgain, askTablesAgain, takeAnswers } from './answers.ts';
import { DataCache } from './cache.ts';
import { anyMet } from './conditions.ts';
import { hidesFrom } from './compileField.ts';
import type { EntryContext, StoredRecord } from './context.ts';
import { editField, editLines, isOfLines, isOfSteps } from './edits.ts';
import { type MoveMade, type MoveState, Moves } from './moves.ts';
import type { Frame } from './frame.ts';
import { feedsAwaited, giveFill, seriesTaken } from './giving.ts';
import { overruledInSteps } from './overruled.ts';
import type { Plan, PlanField, PlanLines } from './plan.ts';
import { Settling } from './settling.ts';
import type { Done } from './trace.ts';
import { type Change, type CheckState, type Edit, type FieldWords, type Offer, type RefusedEdit, addressOf } from './state.ts';
import type { Answered, ListAsked, Want } from './wants.ts';

const NONE_REFUSED: readonly RefusedEdit[] = [];
const SUPPLIED = { kind: 'supply' } as const;

/** What stands typed in a field and is no value of its type, with a sentence that says why. */
export interface Unreadable {
  readonly text: string;
  readonly message: string;
}

/** Opens an entry and settles it. Without a record it is new. Cost: every cell once. */
export const openEntry = (
  plan: Plan,
  context: EntryContext,
  cache: DataCache = new DataCache(),
  record: StoredRecord | null = null,
): Entry => new Entry(plan, context, cache, record);

/**
 * The same in steps of some milliseconds, for records of thousands of lines where others must have their turn: what it yields says
 * nothing. Nobody may use the entry before it is given back.
 */
export function* openEntryInSteps(
  plan: Plan,
  context: EntryContext,
  cache: DataCache,
  record: StoredRecord | null,
): Generator<void, Entry> {
  const entry = new Entry(plan, context, cache, record, false);
  yield;
  yield* entry.settleInSteps({ kind: 'open' });
  return entry;
}
/** How many cells are computed in one step. */
const CELLS_A_STEP = 500;

/**
 * A record while it is being typed. It changes only through `apply`, `supply`, `give` and `retry`; each settles and gives back what
 * changed. It never waits: what it lacks stands in `wants`. Where a field of lines is meant, `line` says in which.
 */
export class Entry {
  private readonly core: Settling;
  private readonly moves: Moves | null;
  private readonly edits: Edit[] = [];
  private readonly unread = new Map<string, Unreadable>();

  constructor(
    readonly plan: Plan,
    readonly context: EntryContext,
    readonly cache: DataCache,
    record: StoredRecord | null,
    /** false when it is yet to be settled, see `openEntryInSteps` */
    settles = true,
  ) {
    this.core = new Settling(plan, context, cache, record);
    // nobody makes a move where a record is only worked out
    this.moves = context.isQuiet ? null : plan.steps && new Moves(this.core, plan.steps, (key, slot) => this.isFilled(key, slot));
    if (settles) this.settle({ kind: 'open' });
  }
  private settle(what: Done): Change {
    this.core.effects.begin();
    this.core.run();
    this.moves?.settled();
    return this.core.trace.finish(what);
  }

  /** The same as `settle`, in steps; until it has ended nobody may use the entry. */
  *settleInSteps(what: Done): Generator<void, Change> {
    this.core.effects.begin();
    while (!this.core.run(CELLS_A_STEP)) yield;
    this.moves?.settled();
    return this.core.trace.finish(what);
  }

  /** Whether a field, or lines (whose slot is -1), hold anything that counts. */
  private isFilled(key: string, slot: number): boolean {
    if (slot < 0) return this.linesShown(key) && this.lines(key).some((line) => !this.isBlankLine(key, line));
    const value = this.core.frames.root.values[slot] ?? null;
    return value !== null && isDatum(value);
  }

  // ---- reading ----

  /** What was done lately, oldest first. */
  get trace(): readonly Change[] {
    return this.core.trace.history;
  }
  /** The edits applied so far, in order: what is sent to be saved. */
  get log(): readonly Edit[] {
    return this.edits;
  }
  /** The number of a field. Throws RangeError when the form has no such field. */
  slot(path: string): number {
    const slot = this.plan.slots.get(path);
    if (slot === undefined) throw new RangeError(`The form has no field “${path}”.`);
    return slot;
  }
  field = (path: string): PlanField => this.plan.fields[this.slot(path)] as PlanField;
  /** Lines by their key. Throws RangeError when the form has no such lines. */
  group(key: string): PlanLines {
    const group = this.plan.lines.find((l) => l.key === key);
    if (!group) throw new RangeError(`The form has no lines “${key}”.`);
    return group;
  }
  private frame(field: PlanField, line: number | null): Frame {
    if (field.group === null) return this.core.frames.root;
    const frame = line === null ? undefined : this.core.frames.lines.get(field.group, line);
    if (!frame) throw new RangeError(`There is no line ${line ?? ''} of “${field.key}”.`);
    return frame;
  }
  private at<T>(path: string, line: number | null, of: (frame: Frame) => readonly T[]): T {
    const field = this.field(path);
    return of(this.frame(field, line))[field.at] as T;
  }

  state(path: string, line: number | null = null): ValueState {
    const field = this.field(path);
    return this.frame(field, line).state(field.at);
  }
  value = (path: string, line: number | null = null): Result => this.state(path, line).value;
  offer = (path: string, line: number | null = null): Offer | null => this.at(path, line, (f) => f.offers);
  checks = (path: string, line: number | null = null): readonly CheckState[] => this.at(path, line, (f) => f.checks);
  /** What is said at the field: its label where that depends, its hint, what stands in it while it is empty. */
  words(path: string, line: number | null = null): FieldWords {
    const { definition, words } = this.field(path);
    const now = this.at(path, line, (f) => f.words);
    const fixed = (kind: 'hint' | 'placeholder'): string | null => (typeof words[kind] === 'string' ? words[kind] : null);
    return {
      called: now.called ?? (typeof words.called === 'string' ? words.called : definition.label),
      hint: now.hint ?? fixed('hint'),
      placeholder: now.placeholder ?? fixed('placeholder'),
    };
  }
  isShown = (path: string, line: number | null = null): boolean => this.at(path, line, (f) => f.shown);
  /** A hidden field is never required. */
  isRequired(path: string, line: number | null = null): boolean {
    const field = this.field(path);
    return this.isRequiredIn(field, this.frame(field, line));
  }
  /** The same of a field in a frame of `framesOf`. */
  isRequiredIn = (field: PlanField, frame: Frame): boolean =>
    (frame.required[field.at] as boolean) && (frame.shown[field.at] as boolean) && !this.isOthers(field, frame);
  /** Whether what is wrong with a field is told: of all, but where an entry works out a part of the form alone. */
  judges = ({ slot }: PlanField): boolean => !this.context.extent || this.context.extent.judged[slot] === 1;
  /** Whether a field is empty and others are to fill it, or it is to be filled at another step: nobody is kept here for it. */
  private isOthers(field: PlanField, frame: Frame): boolean {
    return field.filling.length > 0 && frame.values[field.at] === null && anyMet(field.filling, frame.env, this.context.mode);
  }
  /** What its formula alone fills is locked: nobody types it. */
  isLocked(path: string, line: number | null = null): boolean {
    const field = this.field(path);
    return this.isLockedIn(field, this.frame(field, line));
  }
  private isLockedIn = (field: PlanField, { locked }: Frame): boolean =>
    (locked[field.at] as boolean) ||
    isLockedByFill(field.definition) ||
    field.slot === this.plan.steps?.slot ||
    this.context.mode === 'view';

  /**
   * Whether a field is hidden from the person signed in, and not merely by what the record holds: a condition that asks who
   * they are does not hold. What is withheld is neither told to them nor taken from them.
   */
  isWithheld(path: string, line: number | null = null): boolean {
    const field = this.field(path);
    return this.isWithheldIn(field, this.frame(field, line));
  }
  private isWithheldIn = (field: PlanField, { shown, env }: Frame): boolean =>
    field.isPersonal && !shown[field.at] && hidesFrom(field, env, this.context.mode);

  /** The step the record stands at; null where the form has no steps. */
  get step(): Step | null {
    return this.moves?.step ?? null;
  }
  /** The moves from there that whoever is signed in may make, with what stands against each. */
  get movesNow(): readonly MoveState[] {
    return this.moves?.now ?? [];
  }
  /** The moves made since the entry was opened. */
  get movesMade(): readonly MoveMade[] {
    return this.moves?.made ?? [];
  }
  /** What moves that were made asked for and is empty again. */
  movesBroken = (): readonly { readonly field: string; readonly message: string }[] => this.moves?.broken() ?? [];

  /** The files that stand in a field; `unknown` while what is known of them is on its way, `gone` where one is no more. */
  files(path: string, line: number | null = null): readonly JudgedFile[] | 'unknown' | 'gone' {
    const found: JudgedFile[] = [];
    for (const id of fileNumbers(this.value(path, line))) {
      const row = this.cache.row(FILES, id);
      if (row === undefined) return 'unknown';
      if (row === null) return 'gone';
      found.push({ name: String(row.name), kind: String(row.kind), size: Number(row.size ?? 0) });
    }
    return found;
  }
  /** What is wrong with the files that stand in a field, as it can be told before saving; null when nothing is. */
  filesProblem(path: string, line: number | null = null): string | null {
    const { definition } = this.field(path);
    const files = holdsFiles(definition.type) ? this.files(path, line) : [];
    return typeof files === 'string' ? null : filesProblem(definition, files);
  }

  /** The ids of a group's lines, in order. */
  lines = (key: string): readonly number[] => this.core.frames.lines.ids(this.group(key).group);
  linesShown = (key: string): boolean => this.core.frames.lines.state(this.group(key).group, 'linesShown');
  /** Whether at least one line must be entered. */
  linesRequired(key: string): boolean {
    const { group, filling } = this.group(key);
    if (!this.core.frames.lines.state(group, 'linesRequired') || !this.linesShown(key)) return false;
    return !anyMet(filling, this.core.frames.root.env, this.context.mode);
  }
  /** Whether lines can be neither added, taken out, moved nor changed. */
  linesLocked = (key: string): boolean =>
    this.core.frames.lines.state(this.group(key).group, 'linesLocked') || this.context.mode === 'view';
  /** Whether the lines are hidden and count as none: they are not saved. */
  linesEmptied = (key: string): boolean => this.core.frames.lines.isEmptied(this.group(key).group);
  /** Whether there is such a line, still. */
  hasLine = (key: string, line: number): boolean => this.core.frames.lines.get(this.group(key).group, line) !== undefined;
  /** Whether nobody has entered anything in a line: it is neither judged nor saved. */
  isBlankLine = (key: string, line: number): boolean => this.core.frames.lines.get(this.group(key).group, line)?.isBlank ?? true;
  /** An id for a line to be added: one that no line has or had. */
  freeLine = (key: string): number => this.core.frames.lines.free(this.group(key).group);

  /** The values as formulas read them, for explanations. */
  get environment(): Env {
    return this.core.frames.root.env;
  }
  environmentOf = (path: string, line: number | null): Env => this.frame(this.field(path), line).env;

  /** Everything still lacking, each want once. */
  get wants(): readonly Want[] {
    return this.core.lacks.all;
  }
  /** What is lacking to answer a question that nothing of the entry asks: `ask` reads of it, and what that wanted is given. */
  wantedBy = (ask: () => void): readonly Want[] => this.core.lacks.wantedBy(ask);
  /** Feeds that a value waits for. */
  get feedsAwaited(): ReadonlySet<string> {
    return feedsAwaited(this.core);
  }
  /** The numbers of series that values rest on, by the name of the series: what a save takes. */
  get seriesTaken(): ReadonlyMap<string, number> {
    return seriesTaken(this.core);
  }

  /** What fills would give now where a person has decided otherwise, by address; in steps, until they have ended nobody may change the entry. */
  overruledInSteps = (): Generator<void, ReadonlyMap<string, Datum>> => overruledInSteps(this.core);

  /** Whether the field's value stays a person's although its fill would give another. */
  differs(path: string, line: number | null = null): boolean {
    const { value, suggestion, origin } = this.state(path, line);
    return suggestion !== undefined && isDatum(suggestion) && origin.kind !== this.field(path).value?.kind && !same(value, suggestion);
  }
  /** The list a field shows, as list wants carry it. */
  asked(path: string, line: number | null = null): ListAsked {
    const offer = this.offer(path, line);
    return { field: path, params: offer?.params ?? [], open: offer?.open ?? [] };
  }
  /** The states of the form's own fields, or of each line of a group in their order: for what looks at all of them, and by no name. */
  framesOf = (group: number | null): readonly Frame[] => this.core.frames.of(group);
  /** Every field in every frame: those of the form, then those of each line. */
  eachField(visit: (field: PlanField, frame: Frame) => void): void {
    this.core.frames.each(visit);
  }

  /**
   * Notes what stands typed in a field without being a value of its type, and why; null when it can be read again. The value
   * stays what it was, and the entry cannot be saved while it stands there.
   */
  noteUnreadable(path: string, line: number | null, unreadable: Unreadable | null): void {
    const address = addressOf(this.field(path).key, line);
    if (unreadable) this.unread.set(address, unreadable);
    else this.unread.delete(address);
  }
  unreadable = (path: string, line: number | null = null): Unreadable | null =>
    this.unread.size ? (this.unread.get(addressOf(path, line)) ?? null) : null;

  // ---- changing ----

  /**
   * Applies edits in order, each settled before the next. Edits that may not be made are refused and change nothing. The next edit is
   * asked for when the one before has settled, so that a generator may go by what stands there then. What people are told of several is
   * worked out once, behind the last: checks, and the moves there are; no value rests on it. Throws what asking for the next edit throws;
   * the edits before it stand.
   */
  apply(edits: Iterable<Edit>): Change {
    const isOne = Array.isArray(edits) && edits.length < 2;
    if (isOne || this.core.tellsLate) return this.applyEach(edits);
    this.core.tellLater();
    try {
      return this.applyEach(edits, true);
    } finally {
      // where making the next edit failed, those before it stand, and are told too
      if (this.core.tellsLate) this.tell();
    }
  }
  private applyEach(edits: Iterable<Edit>, tells = false): Change {
    let refused: RefusedEdit[] | null = null;
    const made = Array.isArray(edits) ? (edits as Edit[]) : [];
    // of a list without an iterator: most are lists of one, and made at every key
    if (made === edits) for (let i = 0; i < made.length; i++) refused = this.applyOne(made[i] as Edit, refused);
    else
      for (const edit of edits) {
        made.push(edit);
        refused = this.applyOne(edit, refused);
      }
    if (tells) this.tellPutOff();
    return this.core.trace.finish(made, refused ?? NONE_REFUSED);
  }
  /** Applies an edit where it may be made, else adds it to those refused; gives these. */
  private applyOne(edit: Edit, refused: RefusedEdit[] | null): RefusedEdit[] | null {
    const message = this.editProblem(edit);
    if (message === null) this.perform(edit);
    else (refused ??= []).push({ field: edit.field, line: edit.line ?? null, message });
    return refused;
  }
  /**
   * Applies edits that may be made before those ahead of them have settled (see `inRounds`), and settles once. A round of one edit is
   * that edit applied.
   */
  applyRound(edits: readonly Edit[]): Change {
    if (edits.length < 2) return this.apply(edits);
    const refused: RefusedEdit[] = [];
    for (const edit of edits) {
      const message = this.editProblem(edit);
      if (message === null) this.make(edit);
      else refused.push({ field: edit.field, line: edit.line ?? null, message });
    }
    this.core.run();
    this.moves?.tellAfterEdit();
    return this.core.trace.finish(edits, refused);
  }
  private tellPutOff(): void {
    this.core.tell();
    this.core.run();
    this.tellMoves();
  }
  private perform(edit: Edit): void {
    this.make(edit);
    this.core.run();
    if (isOfSteps(edit)) this.moves?.settled();
    else this.moves?.tellAfterEdit();
  }
  /** Does what an edit does, but for what follows from it. */
  private make(edit: Edit): void {
    this.edits.push(edit);
    this.core.isEdited = true;
    this.core.effects.begin();
    if (edit.kind === 'move') this.moves?.make(edit.move);
    else if (edit.kind === 'unmove') this.moves?.takeBack();
    else if (isOfLines(edit)) editLines(this.core, edit, this.group(edit.field));
    else {
      const field = this.field(edit.field);
      const frame = this.frame(field, edit.line ?? null);
      if (this.unread.size && edit.kind !== 'takeSuggestion') this.unread.delete(addressOf(field.key, frame.line));
      editField(this.core, edit, field, frame);
    }
  }

  /** Why an edit may not be made, as a sentence; null when it may. The same check serves the screen and the server. */
  editProblem(edit: Edit): string | null {
    const { lines: frames } = this.core.frames;
    if (isOfLines(edit)) {
      const lines = this.plan.lines.find((l) => l.key === edit.field);
      if (!lines) return `The form has no lines “${edit.field}”.`;
      return this.linesLocked(edit.field) ? `${lines.definition.label} cannot be changed here.` : frames.problem(edit, lines);
    }
    const field = this.plan.fields[this.plan.slots.get(edit.field) ?? -1];
    if (!field) return `The form has no field “${edit.field}”.`;
    const { label } = field.definition;
    if (isOfSteps(edit)) {
      if (field.slot !== this.plan.steps?.slot || this.context.mode === 'view') return 'This record cannot be moved here.';
      if (edit.kind === 'unmove') return this.movesMade.length ? null : 'No move was made that could be taken back.';
      return this.moves?.problem(edit.move) ?? null;
    }
    if (field.slot === this.plan.steps?.slot) return `${label} holds the step: it is moved, not typed.`;
    const frame = field.group === null ? this.core.frames.root : frames.get(field.group, edit.line ?? 0);
    if (!frame) return `The line of ${label} no longer exists.`;
    if (edit.kind === 'takeSuggestion')
      return frame.state(field.at).suggestion === undefined ? `${label} has no suggestion to take.` : null;
    if (isLockedByFill(field.definition)) return `${label} is calculated and cannot be typed.`;
    if (this.isWithheldIn(field, frame)) return `${label} is not shown to you, so you cannot fill it in.`;
    if (this.isLockedIn(field, frame)) return `${label} is locked.`;
    return edit.kind === 'set' ? fitProblem(field.definition, field.column, edit.value) : null;
  }

  /**
   * Gives a field what its fill gives now, whatever stands in it, and settles; see `giveFill`. While it gives Waiting, call it again
   * when what is wanted has been supplied.
   */
  give(path: string, line: number | null = null): Result | undefined {
    const field = this.field(path);
    const given = this.giveIn(field, this.frame(field, line));
    if (this.core.trace.isUnderWay) this.settle(SUPPLIED);
    return given;
  }
  /** The same of a field in a frame of `framesOf`. */
  giveIn(field: PlanField, frame: Frame): Result | undefined {
    const given = giveFill(this.core, field, frame);
    // where nothing rests on it there is nothing to settle; what it did is told with what comes next
    if (this.core.dirty.size) this.settle(SUPPLIED);
    return given;
  }

  /** Takes answers in and settles on. Answers to questions no longer asked stay in the cache and change nothing. */
  supply(answered: readonly Answered[]): Change {
    takeAnswers(this.core, answered);
    return this.settle(SUPPLIED);
  }
  /** The same in steps; until it has ended nobody may use the entry. */
  *supplyInSteps(answered: readonly Answered[]): Generator<void, Change> {
    takeAnswers(this.core, answered);
    return yield* this.settleInSteps(SUPPLIED);
  }
  /** The entry is about to be saved: rules of that moment act, and a record without a step gets the first. Both the screen and the server say so, before it is judged. */
  beforeSaving(): Change {
    this.core.isEdited = true;
    this.core.effects.begin();
    this.core.effects.moment('saves');
    this.moves?.beforeSaving();
    return this.settle({ kind: 'save' });
  }
  /** Works out what was put off of what people are told (`EntryContext.tellsLate`); from now on it is worked out with all else. */
  tell(): Change {
    this.core.tell();
    return this.settle(SUPPLIED);
  }
  /** Works out which moves there are now, where that was put off: asked before one is made. What their conditions lack is wanted. */
  tellMoves(): void {
    this.moves?.tellPutOff();
  }
  /** The same in steps; until it has ended nobody may use the entry. */
  *tellInSteps(): Generator<void, Change> {
    this.core.tell();
    return yield* this.settleInSteps(SUPPLIED);
  }
  /** Asks again for what failed. */
  retry(): Change {
    askFailedAgain(this.core);
    return this.settle(SUPPLIED);
  }
  /**
   * Asks anew for the lists of fields whose choices the server would not take: what was known of them is out of date. What is
   * no longer offered is then said at its field.
   */
  reread(fields: readonly { readonly field: string; readonly line?: number | null }[]): Change {
    askTablesAgain(this.core, new Set(fields.flatMap(({ field }) => this.field(field).choices?.table ?? [])));
    return this.settle(SUPPLIED);
  }
  /** Computes every cell anew; for tests and for proving that nothing was missed. A settled entry gives no changes. */
  recomputeAll(): Change {
    this.core.markAll();
    this.core.run();
    this.moves?.settled();
    return this.core.trace.take(SUPPLIED);
  }
}
