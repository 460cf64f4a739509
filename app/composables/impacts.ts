import type { Answer } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';

export type ImpactView = NonNullable<Answer<typeof contract.impacts.last>>;
export type ImpactKind = ImpactView['counts'][number]['kind'];

/** What is found in records, in the order it is told. */
export const IMPACT_WORDS: Readonly<Partial<Record<ImpactKind, string>>> = {
  change: 'would change',
  next: 'changed by the next save',
  notOffered: 'no longer offered',
  required: 'required and empty',
  error: 'would not be saved',
  warning: 'warned of',
  refused: 'cannot be given it',
  seen: 'seen by more people',
  unseen: 'seen by fewer',
};
