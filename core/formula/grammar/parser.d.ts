import type { LRParser } from '@lezer/lr';

export const parser: LRParser;
