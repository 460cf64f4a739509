import type { contract } from '~~/core/contract/index.ts';

export type { Given, Over } from '~~/core/engine/backfill.ts';

export type BackfillOffer = Answer<typeof contract.backfills.offer>;
export type BackfillView = BackfillOffer['earlier'][number];
