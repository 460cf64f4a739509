import { fitProblem } from '../form/fit.ts';
import { isDatum, isFormulaError, isWaiting } from '../formula/errors.ts';
import type { Entry } from './entry.ts';

export interface FieldIssue {
  readonly field: string;
  readonly code: 'required' | 'notOffered' | 'error' | 'type' | 'check' | 'unknown';
  readonly message: string;
}

/**
 * Whether a settled entry may be saved: every stored choice offered, every required field filled, no error value, no
 * error check, types and lengths right. One issue per field, the first that counts; an empty array means it may.
 * A stored choice that nobody touched may stay although it is no longer offered; hidden fields are no reason to
 * refuse (engine.md, "Saving"). The screen and the server ask this same question.
 */
export function verify(entry: Entry): FieldIssue[] {
  const issues: FieldIssue[] = [];
  for (const field of entry.plan.fields) {
    const { key, definition } = field;
    const { value, origin, gone } = entry.state(key);
    const { label } = definition;
    const add = (code: FieldIssue['code'], message: string): void => void issues.push({ field: key, code, message });
    const errorCheck = entry.checks(key).find((c) => c.severity === 'error');
    if (errorCheck) {
      add('check', errorCheck.message);
      continue;
    }
    if (!entry.isShown(key)) continue;
    if (isFormulaError(value)) add('error', `${label} cannot be computed: ${value.message}`);
    else if (isWaiting(value)) add('unknown', `${label} is not known yet.`);
    else if (value === null) {
      if (entry.isRequired(key)) add('required', `${label} is required.`);
    } else {
      const offer = entry.offer(key);
      const misfit = isDatum(value) ? fitProblem(definition, field.column, value) : null;
      if (misfit) add('type', misfit);
      else if (offer?.status === 'failed')
        add('unknown', `The choices of ${label} could not be read: ${offer.reason ?? 'no reason given'}`);
      else if (offer?.status === 'loading') add('unknown', `The choices of ${label} are still being read.`);
      else if (gone && origin.kind !== 'stored') add('notOffered', `${label}: this choice is not offered here. Choose another.`);
      else if (offer?.status === 'waiting' && origin.kind !== 'stored')
        add('notOffered', `${label} waits for another field; its choice cannot stand yet.`);
    }
  }
  return issues;
}
