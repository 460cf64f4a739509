import BaseComponent from '@primevue/core/basecomponent';
import BaseDirective from '@primevue/core/basedirective';
import VirtualScrollerStyle from 'primevue/virtualscroller/style';

/*
 * PrimeVue's parts without what nobody here uses, which is most of what mounting one costs. PrimeVue has no switch for it, so these steps of
 * its base part are taken out or made shorter. (Version 4.5.5, which is pinned.) What a part draws is the same: lightParts.test.ts.
 *
 * Their styles are in a file of the page (modules/partStyles.ts): a part would look for its own all the same whenever it is mounted, work
 * them through and listen for a change of the theme.
 *
 * What is passed through to the elements of a part (`pt`) is looked for at each element of each, in the part, in the workspace and in hooks,
 * at every drawing. Where nothing is, only the attributes that name an element are left.
 */
const nothing = (): void => {};

type Told = Readonly<Record<string, unknown>>;
/** What of a part's instance is read here. */
interface Part {
  readonly pt?: Told;
  readonly $attrs: Readonly<Record<string, unknown>>;
  readonly $attrSelector: string;
  readonly $id: unknown;
  readonly $params: Told;
  readonly $style: { readonly classes?: Told };
  readonly $primevueConfig?: { readonly pt?: unknown };
  readonly $: { readonly type: { readonly name?: string } };
  readonly isUnstyled?: boolean;
}
type Method = (this: Part, ...args: never[]) => unknown;
interface Base {
  methods: Record<string, Method>;
  watch: object;
}

const NAMED = 'data-pc-';
const flatNames = new Map<string, string>();
/** As PrimeVue writes names in attributes and finds them again. A part that was made of another may have none. */
function flat(name: string | undefined): string | undefined {
  if (name === undefined) return undefined;
  let known = flatNames.get(name);
  if (known === undefined) flatNames.set(name, (known = name.replace(/[-_]/g, '').toLowerCase()));
  return known;
}

/** Whether all that is passed to a part is how the part around it calls it. */
function isOnlyNamed(told: Told | undefined): boolean {
  for (const key in told) if (!key.startsWith(NAMED)) return false;
  return true;
}
function isPlain(part: Part, told: Told | undefined, key: string): boolean {
  if (key === '' || part.$primevueConfig?.pt !== undefined || !isOnlyNamed(told)) return false;
  for (const name in part.$attrs) if (name.startsWith('pt:')) return false;
  return true;
}

/** The attributes that name an element of a part. */
function names(part: Part, key: string): Record<string, unknown> {
  if (key === 'transition') return {};
  if (key !== 'root') return { [`${NAMED}section`]: flat(key) };
  const around = part.pt?.[`${NAMED}section`];
  const own = flat(part.$.type.name);
  return typeof around === 'string' && around !== ''
    ? { [`${NAMED}name`]: flat(around), [`${NAMED}extend`]: own, [part.$attrSelector]: '', [`${NAMED}section`]: 'root' }
    : { [`${NAMED}name`]: own, [part.$attrSelector]: '', [`${NAMED}section`]: 'root' };
}

const keysOf = new WeakMap<object, Map<string, string | undefined>>();
/** The key of an object by which something is meant, written anyhow. */
function keyIn(all: object, key: string): string | undefined {
  let known = keysOf.get(all);
  if (!known) keysOf.set(all, (known = new Map<string, string | undefined>()));
  if (!known.has(key))
    known.set(
      key,
      Object.keys(all).find((k) => flat(k) === flat(key)),
    );
  return known.get(key);
}

/** Takes what nobody uses out of PrimeVue's base part: of parts that are mounted from then on. */
export function lightenParts(): void {
  const base = BaseComponent as unknown as Base;
  const { ptm, ptmi, ptmo, cx } = base.methods as Record<'ptm' | 'ptmi' | 'ptmo' | 'cx', (this: Part, ...args: unknown[]) => unknown>;
  Object.assign(base.methods, {
    _loadStyles: nothing,
    _loadCoreStyles: nothing,
    _themeChangeListener: nothing,
    _removeThemeListeners: nothing,
    _hook: nothing,
    ptm(this: Part, key = '', params?: object) {
      return isPlain(this, this.pt, key) ? names(this, key) : ptm.call(this, key, params);
    },
    ptmi(this: Part, key = '', params?: object) {
      if (!isPlain(this, this.pt, key)) return ptmi.call(this, key, params);
      const all = { ...this.$attrs, ...names(this, key) } as Record<string, unknown>;
      if ('id' in all) all.id ??= this.$id;
      return all;
    },
    ptmo(this: Part, told: Told | undefined, key = '', params?: object) {
      return isPlain(this, told, key) ? names(this, key) : ptmo.call(this, told, key, params);
    },
    cx(this: Part, key = '', params?: object) {
      const { classes } = this.$style;
      if (this.isUnstyled || !classes || key === '' || key.includes('.')) return cx.call(this, key, params);
      const found = keyIn(classes, key);
      const said = found === undefined ? undefined : classes[found];
      return typeof said === 'function' ? (said as (p: object) => unknown)({ ...this.$params, ...params }) : said;
    },
  });
  base.watch = {};
  (BaseDirective as unknown as { _loadStyles: () => void })._loadStyles = nothing;
  // the only part that asks for its styles itself
  (VirtualScrollerStyle as unknown as { loadCSS: () => void }).loadCSS = nothing;
}
