/* Bounds that screens tell too: they stand apart from the contract's schemas, so that a screen that tells one does not load those. */

/** How many rows are entered, or records changed, at once. */
export const MOST_AT_ONCE = 1000;
