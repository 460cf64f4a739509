import { type Form, fieldAt } from '../form/definition.ts';
import { valueSchema } from '../form/fills/schemas.ts';
import { changeField, removeField } from '../form/edit.ts';

/* What is proposed for a form, with its evidence, and what taking it into the form means. */

export const PROPOSAL_KINDS = [
  'prefill',
  'calculation',
  'default',
  'carry',
  'otherwise',
  'narrowing',
  'show',
  'require',
  'check',
  'unused',
] as const;
export type ProposalKind = (typeof PROPOSAL_KINDS)[number];

export interface Proposal {
  readonly kind: ProposalKind;
  /** the path of the field it changes; of a rule that is turned off, `@` and its id */
  readonly field: string;
  /** what the field gets: a formula; of `check` the condition under which it warns; of `carry` and `unused` nothing */
  readonly formula: string;
  /** what a check says */
  readonly message: string | null;
  /** in how many of how many records it fits */
  readonly fits: number;
  readonly of: number;
  /** in how many what the field has today fits, where it has something */
  readonly today: number | null;
  /** some of the records it does not fit, by number */
  readonly exceptions: readonly number[];
}
/** The same proposal, whenever it is found: what was refused stays refused. */
export const proposalKey = ({ kind, field, formula }: Pick<Proposal, 'kind' | 'field' | 'formula'>): string =>
  `${kind} ${field} ${formula}`;

/** Whether a form does already what is proposed, or has no such field any more. */
export function hasProposal(form: Form, { kind, field: key, formula }: Proposal): boolean {
  if (kind === 'unused' && key.startsWith('@')) return !form.rules.some((r) => `@${r.id}` === key && r.on);
  const field = fieldAt(form, key);
  if (!field) return true;
  switch (kind) {
    case 'carry':
      return field.carry;
    case 'prefill':
    case 'calculation':
    case 'default':
    case 'otherwise':
      return field.value?.formula === formula;
    case 'narrowing':
      return Boolean(field.source && 'where' in field.source && field.source.where?.includes(formula));
    case 'show':
      return field.shown === formula;
    case 'require':
      return field.required === formula;
    case 'check':
      return field.checks.some((c) => c.when === formula);
    case 'unused':
      return false;
  }
}

/** The form with a proposal taken in: an edit as any other. The form as it is where the field is gone. */
export function withProposal(form: Form, proposal: Proposal): Form {
  const { field: key, formula } = proposal;
  if (proposal.kind === 'unused' && key.startsWith('@'))
    return { ...form, rules: form.rules.map((r) => (`@${r.id}` === key ? { ...r, on: false } : r)) };
  const field = fieldAt(form, key);
  if (!field) return form;
  const change = (to: Parameters<typeof changeField>[2]): Form => changeField(form, key, to);
  switch (proposal.kind) {
    case 'prefill':
    case 'calculation':
    case 'default':
      return change({ value: valueSchema.parse({ kind: proposal.kind, formula }) });
    case 'carry':
      return change({ carry: true });
    case 'otherwise':
      return field.value ? change({ value: { ...field.value, formula } }) : form;
    case 'narrowing':
      if (!field.source || !('where' in field.source)) return form;
      return change({ source: { ...field.source, where: field.source.where ? `(${field.source.where}) AND ${formula}` : formula } });
    case 'show':
      return change({ shown: formula });
    case 'require':
      return change({ required: formula });
    case 'check':
      return change({ checks: [...field.checks, { when: formula, message: proposal.message ?? 'Is that right?', severity: 'warning' }] });
    case 'unused':
      return removeField(form, key);
  }
}
