import type { z } from 'zod';
import type { Origin } from '../../model/origin.ts';
import type { ValueState } from '../../model/valueState.ts';
import { calculation, staysAsStored } from './calculation.ts';
import { defaultFill } from './default.ts';
import type { FillKind, FillPlace } from './kind.ts';
import { prefill } from './prefill.ts';
import type { valueSchema } from './schemas.ts';

export type FieldValue = z.infer<typeof valueSchema>;
export type FillName = FieldValue['kind'];

/** Every kind of fill. */
const FILLS: Readonly<Record<FillName, FillKind<FieldValue>>> = { default: defaultFill, prefill, calculation };
export const FILL_NAMES = Object.keys(FILLS) as [FillName, ...FillName[]];

/** The origin of what a fill gives. */
export const fillOrigin = (kind: FillName): Origin => FILLS[kind].origin;
/** Whether a field has its formula's value alone: nobody types it, and nothing else sets it. */
export const isLockedByFill = (field: { readonly value: Pick<FieldValue, 'kind'> | null }): boolean =>
  field.value !== null && FILLS[field.value.kind].locks;
/** Whether a fill gives once, when a record is new. */
export const givesOnce = (field: { readonly value: Pick<FieldValue, 'kind'> | null }): boolean =>
  field.value !== null && FILLS[field.value.kind].once;
/** The value as a field's fill has it, from the value as it stood. */
export const followFill = (fill: FieldValue, before: ValueState, place: FillPlace): ValueState =>
  FILLS[fill.kind].follow(fill, before, place);

/** Whether a calculated field keeps its stored value when its record is opened: what it would be is only told. */
export const staysStored = ({ definition }: { readonly definition: { readonly value: FieldValue | null } }, state: ValueState): boolean =>
  definition.value?.kind === 'calculation' && staysAsStored(state, definition.value.always);

export { CALCULATED } from './calculation.ts';
