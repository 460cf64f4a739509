import type { Component } from 'vue';
import type { FieldValue, FillName } from '~~/core/form/fills/index.ts';
import FillCalculation from './FillCalculation.vue';
import FillDefault from './FillDefault.vue';
import FillPrefill from './FillPrefill.vue';

/** What the part of the sentence about a fill is given; it tells what of it is to be changed. */
export interface FillPart<K extends FillName> {
  readonly fill: Extract<FieldValue, { kind: K }>;
}
/** A kind of fill on screen: how the sentence about the field goes on, and what is said behind its formula. */
interface FillScreen {
  readonly label: string;
  readonly note: string;
  readonly part: Component;
}
export const FILL_SCREENS: Readonly<Record<FillName, FillScreen>> = {
  default: { label: 'starts with the default', note: 'on a new entry', part: FillDefault },
  prefill: { label: 'is prefilled with', note: 'can be typed over', part: FillPrefill },
  calculation: { label: 'is calculated as', note: 'read-only', part: FillCalculation },
};
