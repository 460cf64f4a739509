import { PLAIN, type ValueKind, charactersProblem } from './kind.ts';

export const choice: ValueKind = {
  ...PLAIN,
  label: 'Choice',
  chooses: 'value',
  folded: true,
  formula: (_, options) => ({ kind: 'choice', options }),
  problem: (value, label) => (typeof value === 'string' ? charactersProblem(label, value) : `${label} must be one of the choices.`),
};
