import type { ValueKind } from './kind.ts';
import { text } from './text.ts';

export const longtext: ValueKind = { ...text, label: 'Long text', sheet: { width: 40 } };
