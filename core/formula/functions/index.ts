import { DATA } from './data.ts';
import { DATES } from './date.ts';
import type { FunctionDeclaration, FunctionGroup } from './define.ts';
import { EXTENDED } from './extended.ts';
import { FINANCIAL } from './financial.ts';
import { INFORMATION } from './information.ts';
import { LIST } from './list.ts';
import { LOGICAL } from './logical.ts';
import { LOOKUPS } from './lookups.ts';
import { MATHEMATICS } from './mathematics.ts';
import { NUMERIC } from './numeric.ts';
import { STATISTICS } from './statistics.ts';
import { TEXTS } from './text.ts';

/** Every function of the language, by group and name: completion, the checker, the guide and the tests read this. */
export const FUNCTIONS: readonly FunctionDeclaration[] = [
  ...LOGICAL,
  ...INFORMATION,
  ...NUMERIC,
  ...MATHEMATICS,
  ...LIST,
  ...STATISTICS,
  ...TEXTS,
  ...DATES,
  ...FINANCIAL,
  ...LOOKUPS,
  ...EXTENDED,
  ...DATA,
];

const BY_NAME: ReadonlyMap<string, FunctionDeclaration> = new Map(FUNCTIONS.map((f) => [f.name, f]));
export const FUNCTION_NAMES: readonly string[] = [...BY_NAME.keys()];

/** The declaration of a function by its upper-case name, or null. */
export const functionNamed = (name: string): FunctionDeclaration | null => BY_NAME.get(name) ?? null;

export const GROUP_LABELS: Readonly<Record<FunctionGroup, string>> = {
  logical: 'Conditions', information: 'About a value', numeric: 'Numbers', list: 'Lists and totals',
  text: 'Text', date: 'Dates and times', financial: 'Money', data: 'Related data and text',
}; // prettier-ignore

export type { FunctionDeclaration, FunctionGroup } from './define.ts';
