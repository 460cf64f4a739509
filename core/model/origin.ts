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
  /** a rule of the form set or cleared it, by its id */
  | { readonly kind: 'rule'; readonly rule: string }
  /** a move from step to step set or cleared it, by its id */
  | { readonly kind: 'move'; readonly move: string }
  /** hidden fields that clear their value */
  | { readonly kind: 'hidden' }
  /** in the record as it was saved; `was` is how it came there */
  | { readonly kind: 'stored'; readonly was: Origin };

export const NO_ORIGIN: Origin = Object.freeze({ kind: 'none' });
/** The origins of what people enter, one of each: an edit makes none. */
export const ENTERED: Readonly<Record<'typed' | 'chosen' | 'emptied' | 'url' | 'carried', Origin>> = Object.freeze({
  typed: Object.freeze({ kind: 'typed' }),
  chosen: Object.freeze({ kind: 'chosen' }),
  emptied: Object.freeze({ kind: 'emptied' }),
  url: Object.freeze({ kind: 'url' }),
  carried: Object.freeze({ kind: 'carried' }),
});

/** How a stored value came to be, however often it was saved since. */
export const firstOrigin = (origin: Origin): Origin => (origin.kind === 'stored' ? firstOrigin(origin.was) : origin);

/**
 * What stands behind a value: a person here, what was brought along when the entry was opened, a formula of the field, or the form as
 * it follows from something else; nobody behind what is not there, and behind what was stored, which says itself what was.
 */
export type Maker = 'person' | 'brought' | 'formula' | 'form' | 'nobody';
interface OriginKind {
  readonly maker: Maker;
  /** somebody entered something by it: a line that has it is no blank one */
  readonly enters: boolean;
  /** it says nothing more than its kind */
  readonly plain: boolean;
}
const of = (maker: Maker, enters: boolean, plain = true): OriginKind => ({ maker, enters, plain });
const ORIGINS: Readonly<Record<Origin['kind'], OriginKind>> = {
  none: of('nobody', false),
  typed: of('person', true),
  chosen: of('person', true),
  emptied: of('person', false),
  default: of('formula', false),
  prefill: of('formula', false),
  calculation: of('formula', false),
  url: of('brought', true),
  carried: of('brought', true),
  onlyOne: of('form', false),
  hidden: of('form', false),
  filledUp: of('form', true, false),
  cleared: of('form', false, false),
  spread: of('form', true, false),
  rule: of('form', true, false),
  move: of('form', true, false),
  stored: of('nobody', true, false),
};
/** Who or what stands behind a value, however often it was saved since. */
export const makerOf = (origin: Origin): Maker => ORIGINS[firstOrigin(origin).kind].maker;

/** Whether a person decided the value, so that a prefill must not replace it. */
export const isPersons = (origin: Origin): boolean => makerOf(origin) === 'person' || makerOf(origin) === 'brought';
/** Whether a default, a prefill or a calculation of the field gave the value, be it before it was stored. */
export const isByFormula = (origin: Origin): boolean => makerOf(origin) === 'formula';
/** Whether a value that stands in an entry came there without anybody typing or choosing it in this field. */
export const isByItself = ({ kind }: Origin): boolean => !['person', 'nobody'].includes(ORIGINS[kind].maker);
/** Whether somebody entered something here, in this field or by what they chose in another. */
export const isEntered = (origin: Origin): boolean => ORIGINS[firstOrigin(origin).kind].enters;

/** Every kind of origin there is; those that say nothing more than their kind. */
export const ORIGIN_KINDS = Object.keys(ORIGINS) as [Origin['kind'], ...Origin['kind'][]];
export type PlainOrigin = Exclude<Origin['kind'], 'filledUp' | 'cleared' | 'spread' | 'rule' | 'move' | 'stored'>;
export const PLAIN_ORIGINS = ORIGIN_KINDS.filter((k) => ORIGINS[k].plain) as [PlainOrigin, ...PlainOrigin[]];
const KNOWN: ReadonlySet<string> = new Set(ORIGIN_KINDS);

/** Reads an origin back from storage; anything unknown counts as typed, so that it is never overwritten. */
export function parseOrigin(input: unknown): Origin {
  const kind = typeof input === 'object' && input !== null && 'kind' in input ? String(input.kind) : '';
  return KNOWN.has(kind) ? (input as Origin) : { kind: 'typed' };
}
