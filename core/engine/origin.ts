/** Where a value came from. Stored with the record, so it is plain data. */
export type Origin =
  /** nothing has set it */
  | { readonly kind: 'none' }
  | { readonly kind: 'typed' }
  | { readonly kind: 'chosen' }
  /** a person emptied it */
  | { readonly kind: 'emptied' }
  | { readonly kind: 'default' }
  | { readonly kind: 'prefill' }
  | { readonly kind: 'calculation' }
  /** it stood in the address the form was opened by */
  | { readonly kind: 'url' }
  /** from the entry saved before */
  | { readonly kind: 'carried' }
  /** the only choice left */
  | { readonly kind: 'onlyOne' }
  /** filled because a field below was chosen first */
  | { readonly kind: 'filledUp'; readonly from: string }
  /** cleared because it was no longer offered */
  | { readonly kind: 'cleared'; readonly by: readonly string[] }
  /** set or cleared because another field was changed by hand */
  | { readonly kind: 'spread'; readonly from: string }
  /** hidden fields that clear their value */
  | { readonly kind: 'hidden' }
  /** in the record as it was saved; `was` is how it came there */
  | { readonly kind: 'stored'; readonly was: Origin };

export const NO_ORIGIN: Origin = Object.freeze({ kind: 'none' });

/** Whether a person decided the value, so that a prefill must not replace it. */
export function isPersons(origin: Origin): boolean {
  switch (origin.kind) {
    case 'typed':
    case 'chosen':
    case 'emptied':
    case 'url':
    case 'carried':
      return true;
    case 'stored':
      return isPersons(origin.was);
    default:
      return false;
  }
}

/** How a stored value came to be, however often it was saved since. */
export const firstOrigin = (origin: Origin): Origin => (origin.kind === 'stored' ? firstOrigin(origin.was) : origin);

/** Origins that say nothing more than their kind. */
export const PLAIN_ORIGINS = ['none', 'typed', 'chosen', 'emptied', 'default', 'prefill', 'calculation', 'url', 'carried', 'onlyOne', 'hidden'] as const; // prettier-ignore
/** Every kind of origin there is. */
export const ORIGIN_KINDS = [...PLAIN_ORIGINS, 'filledUp', 'cleared', 'spread', 'stored'] as const;
const KNOWN: ReadonlySet<string> = new Set(ORIGIN_KINDS);

/** Reads an origin back from storage; anything unknown counts as typed, so that it is never overwritten. */
export function parseOrigin(input: unknown): Origin {
  const kind = typeof input === 'object' && input !== null && 'kind' in input ? String(input.kind) : '';
  return KNOWN.has(kind) ? (input as Origin) : { kind: 'typed' };
}
