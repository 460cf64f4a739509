import type { Origin } from '../model/origin.ts';
import { type Datum, same } from '../values/types.ts';
import { type BackfillOutcome, type Given, backfill, differences } from './backfill.ts';
import type { StoredRecord } from './context.ts';
import type { Entry } from './entry.ts';
import type { PlanField } from './plan.ts';
import { wantsNeeded } from './needed.ts';
import { type CheckState, addressOf } from './state.ts';
import { type FieldIssue, verify } from './verify.ts';
import { againstWords } from './whyNot.ts';

/*
 * What a draft would do to a record that exists (job.md, N36). Both versions of the form are run on the record by the same engine that
 * runs entries and backfills; what is told is what they do not agree on, so that data that merely moved since is nobody's doing.
 */

/**
 * What is found in a record, by what it means to whoever looks:
 * `change`: a backfill by the draft would give another value than the published version would; `follow`: the same backfill writes it
 * too, but the published version would have given the same; `next`: the next save would change it, without anybody asking for it;
 * `notOffered`: a stored choice that its list would no longer offer; `required`: empty, and would be asked for; `error`: would refuse a
 * save; `warning`; `refused`: the record cannot be given what the draft gives.
 */
export const FINDING_KINDS = ['change', 'follow', 'next', 'notOffered', 'required', 'error', 'warning', 'refused'] as const;
export type FindingKind = (typeof FINDING_KINDS)[number];

export interface Finding {
  readonly kind: FindingKind;
  readonly field: string;
  readonly line: number | null;
  /** the line's place among its lines, from 1 */
  readonly place: number | null;
  /** what is stored */
  readonly from: Datum;
  /** what the published version gives, and what the draft gives; of what is only judged, what is stored */
  readonly published: Datum;
  readonly to: Datum;
  readonly origin: Origin | null;
  /** what is said of it; null where the values say it */
  readonly message: string | null;
}

/** A record worked out with one plan. */
export interface Weighed {
  /** what is wrong with it as it stands, by kind, place and message */
  readonly standing: ReadonlyMap<string, Finding>;
  /** what the next save would write that nobody asked for, by address */
  readonly next: ReadonlyMap<string, Given>;
  readonly outcome: BackfillOutcome;
}

/**
 * Works out a record: what is wrong with it, what its next save would change, and what a backfill of `fields` would give. It
 * yields whenever the entry wants something (see `wantsNeeded`): answer and go on.
 */
export function* weigh(entry: Entry, record: StoredRecord, fields: readonly PlanField[]): Generator<void, Weighed> {
  while (wantsNeeded(entry).length) yield;
  const issues = verify(entry);
  const standing = standingIn(entry, record, issues);
  const next = new Map(differences(entry, record, new Map()).map((g) => [addressOf(g.field, g.line), g]));
  return { standing, next, outcome: yield* backfill(entry, record, fields, 'filled', issues) };
}

/** Notes what stands; a choice is offered or not, for whatever reason. */
export function noteStanding(
  found: Map<string, Finding>,
  kind: FindingKind,
  at: { readonly field: string; readonly line: number | null; readonly place: number | null },
  value: Datum,
  message: string | null,
): void {
  const { field, line, place } = at;
  const key = `${kind} ${addressOf(field, line)} ${kind === 'notOffered' ? '' : (message ?? '')}`;
  found.set(key, { kind, field, line, place, from: value, published: value, to: value, origin: null, message });
}
/** The kind of finding that an issue is; null for what is not known yet: that is no fault of the record. */
export const findingOf = ({ code }: FieldIssue): FindingKind | null =>
  code === 'unknown' ? null : code === 'required' ? 'required' : code === 'notOffered' ? 'notOffered' : 'error';

/** What is wrong with a settled entry before anything was done to it. */
function standingIn(entry: Entry, record: StoredRecord, issues: readonly FieldIssue[]): Map<string, Finding> {
  const found = new Map<string, Finding>();
  const note = (kind: FindingKind, field: string, line: number | null, message: string | null): void => {
    const value = entry.plan.slots.has(field) ? storedAt(entry, record, field, line) : null;
    noteStanding(found, kind, { field, line, place: placeOf(record, field, line) }, value, message);
  };
  for (const issue of issues) {
    const kind = findingOf(issue);
    if (kind) note(kind, issue.field, issue.line, issue.message);
  }
  entry.eachField((field, frame) => {
    if (!entry.judges(field)) return;
    const { key, at } = field;
    const { line } = frame;
    const { gone, value, origin } = frame.state(at);
    if (gone && value !== null && origin.kind === 'stored' && frame.shown[at])
      note('notOffered', key, line, againstWords(entry, key, line));
    for (const c of frame.checks[at] as readonly CheckState[]) if (c.severity === 'warning') note('warning', key, line, c.message);
  });
  return found;
}

const storedAt = (entry: Entry, record: StoredRecord, field: string, line: number | null): Datum => {
  const { column } = entry.field(field).definition;
  const values = line === null ? record.values : record.lines?.[field.split('.')[0] ?? '']?.find((l) => l.id === line)?.values;
  return (column && values?.[column]) ?? null;
};
function placeOf(record: StoredRecord, field: string, line: number | null): number | null {
  const at = line === null ? -1 : (record.lines?.[field.split('.')[0] ?? ''] ?? []).findIndex((l) => l.id === line);
  return at < 0 ? null : at + 1;
}

/** What the published version gives: nothing is a value too; where it gives none, what is stored stays. */
const publishedBy = (given: Given | undefined, stored: Datum): Datum => (given ? given.to : stored);

/**
 * What a draft would do to a record, that the version before does not: both worked out over the same stored record. Without a version
 * before, all that the draft finds. An empty array: nothing. Values that a backfill would write beside a change are told as `follow`.
 */
export function impactOn(before: Weighed | null, now: Weighed): Finding[] {
  const found: Finding[] = [];
  const was = new Map(before?.outcome.given.map((g) => [addressOf(g.field, g.line), g]));
  const changes = now.outcome.given.map(({ field, line, place, from, to, origin }): Finding => {
    const published = publishedBy(was.get(addressOf(field, line)), from);
    return { kind: same(to, published) ? 'follow' : 'change', field, line, place, from, published, to, origin, message: null };
  });
  if (changes.some((c) => c.kind === 'change')) found.push(...changes);
  const given = new Set(changes.map((c) => addressOf(c.field, c.line)));
  for (const [address, { field, line, place, from, to, origin }] of now.next) {
    const published = publishedBy(before?.next.get(address), from);
    if (!same(to, published) && !given.has(address))
      found.push({ kind: 'next', field, line, place, from, published, to, origin, message: null });
  }
  for (const [key, finding] of now.standing) if (!before?.standing.has(key)) found.push(finding);
  const refusedBefore = new Set(before?.outcome.problems.map((p) => `${addressOf(p.field, p.line)} ${p.message}`));
  for (const { field, line, message } of now.outcome.problems)
    if (!refusedBefore.has(`${addressOf(field, line)} ${message}`))
      found.push({ kind: 'refused', field, line, place: null, from: null, published: null, to: null, origin: null, message });
  return found;
}
