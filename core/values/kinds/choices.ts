import { listOf } from '../typing.ts';
import { SEVERAL, type ValueKind, charactersProblem } from './kind.ts';

export const choices: ValueKind = {
  ...SEVERAL,
  label: 'Choices, several',
  chooses: 'value',
  formula: (_, options) => listOf({ kind: 'choice', options }),
  problem: (value, label) =>
    Array.isArray(value) && value.every((v) => typeof v === 'string' && charactersProblem(label, v) === null)
      ? null
      : `${label} must be some of the choices.`,
};
