import { filesProblem, fitProblem } from '../form/fit.ts';
import { holdsFiles } from '../values/kinds/index.ts';
import { type Result, isDatum, isFormulaError, isWaiting } from '../formula/errors.ts';
import type { Entry } from './entry.ts';
import type { Frame } from './frame.ts';
import { atOnce } from './inSteps.ts';
import type { PlanField } from './plan.ts';
import type { CheckState } from './state.ts';

export interface FieldIssue {
  readonly field: string;
  /** in which line, for a field of lines */
  readonly line: number | null;
  readonly code: 'required' | 'notOffered' | 'error' | 'type' | 'check' | 'unknown' | 'unreadable';
  readonly message: string;
}
type Said = Pick<FieldIssue, 'code' | 'message'>;

/** What is wrong with what a field that is shown holds, whatever it offers and whoever put it there; null when nothing is. */
export function wrongWith({ definition, column }: PlanField, value: Result, isRequired: () => boolean): Said | null {
  const { label } = definition;
  if (isFormulaError(value)) return { code: 'error', message: `${label} cannot be computed: ${value.message}` };
  if (isWaiting(value)) return { code: 'unknown', message: `${label} is not known yet.` };
  if (value === null) return isRequired() ? { code: 'required', message: `${label} is required.` } : null;
  const misfit = isDatum(value) ? fitProblem(definition, column, value) : null;
  return misfit === null ? null : { code: 'type', message: misfit };
}

/**
 * Whether a settled entry may be saved: every stored choice offered, every required field filled, no error value, no
 * error check, types and lengths right, and known of every hidden field whether it is emptied. One issue per field (of a line: per line
 * and field), the first that counts; an empty array means it may. A stored choice that nobody touched may stay although it is no longer offered; hidden fields
 * and blank lines are no reason to refuse (engine.md, "Saving"). The screen and the server ask this same question.
 */
export const verify = (entry: Entry): FieldIssue[] => atOnce(verifyInSteps(entry));

/** The same in steps, for records of thousands of lines where others must have their turn. Nobody may change the entry before it has ended. */
export function* verifyInSteps(entry: Entry): Generator<void, FieldIssue[]> {
  const issues: FieldIssue[] = [];
  const judge = (field: PlanField, frame: Frame): void => {
    const said = entry.judges(field) ? issueOf(entry, field, frame) : null;
    if (said) issues.push({ field: field.key, line: frame.line, ...said });
  };
  for (const frame of entry.framesOf(null)) for (const field of frame.fields) judge(field, frame);
  for (const { field, message } of entry.movesBroken())
    if (!issues.some((i) => i.field === field && i.line === null)) issues.push({ field, line: null, code: 'required', message });
  for (const { key, group, definition } of entry.plan.lines) {
    if (!entry.linesShown(key)) continue;
    const frames = entry.framesOf(group).filter((f) => !f.isBlank);
    if (entry.linesRequired(key) && !frames.length)
      issues.push({ field: key, line: null, code: 'required', message: `${definition.label}: at least one line is required.` });
    for (const frame of frames) {
      for (const field of frame.fields) judge(field, frame);
      yield;
    }
  }
  return issues;
}

function issueOf(entry: Entry, field: PlanField, frame: Frame): Said | null {
  const { key, at, definition } = field;
  const { line } = frame;
  const { value, origin, gone } = frame.state(at);
  const { label } = definition;
  const errorCheck = (frame.checks[at] as readonly CheckState[]).find((c) => c.severity === 'error');
  if (errorCheck) return { code: 'check', message: errorCheck.message };
  // saved now, it would be emptied, or not, by what is not known
  if (frame.isAside(at)) return { code: 'unknown', message: `Whether ${label} applies is not known yet.` };
  if (!frame.shown[at]) return null;
  const unreadable = entry.unreadable(key, line);
  if (unreadable) return { code: 'unreadable', message: unreadable.message };
  const wrong = wrongWith(field, value, () => entry.isRequiredIn(field, frame));
  if (wrong || value === null) return wrong;
  if (holdsFiles(definition.type)) {
    const files = entry.files(key, line);
    if (files === 'unknown') return { code: 'unknown', message: `${label} is still loading.` };
    if (files === 'gone') return { code: 'type', message: `${label}: there is no such file. Send it again.` };
    const unfit = filesProblem(definition, files);
    if (unfit) return { code: 'type', message: unfit };
  }
  // what nobody touched needs no list to stand
  if (origin.kind === 'stored') return null;
  const offer = frame.offers[at];
  switch (offer?.status) {
    case 'failed':
      return { code: 'unknown', message: `The choices of ${label} could not be loaded: ${offer.reason ?? 'no reason given'}` };
    case 'loading':
      return { code: 'unknown', message: `The choices of ${label} are still loading.` };
    case 'waiting':
      return { code: 'notOffered', message: `${label} waits for another field; its choice cannot be checked yet.` };
  }
  return gone ? { code: 'notOffered', message: `${label}: this choice is not offered here. Choose another.` } : null;
}
