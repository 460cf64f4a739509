import type { CellKind } from '../plan.ts';
import { checks } from './checks.ts';
import { choices } from './choices.ts';
import type { CellWays } from './kind.ts';
import { locked } from './locked.ts';
import { required } from './required.ts';
import { shown } from './shown.ts';
import { value } from './value.ts';
import { words } from './words.ts';

/** Everything of a field that can change. */
export const CELLS: Readonly<Record<CellKind, CellWays>> = { shown, choices, value, required, locked, checks, words };
