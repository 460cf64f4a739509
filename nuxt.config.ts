import { useNuxt } from 'nuxt/kit';
import { partsNamed } from './modules/partStyles';

/** Parts of PrimeVue that tables of rows are made of, and those that few screens have. */
const ROWS = new Set(['datatable', 'column', 'columngroup', 'row', 'paginator', 'multiselect', 'treetable']);
const SELDOM = new Set([
  'splitter',
  'splitterpanel',
  'selectbutton',
  'togglebutton',
  'tabs',
  'tab',
  'tablist',
  'drawer',
  'menu',
  'toggleswitch',
  'datepicker',
]);
/** The modules of the script, as the bundler knows them. */
interface ModuleGraph {
  getModuleIds(): Iterable<string>;
  getModuleInfo(id: string): {
    readonly isEntry: boolean;
    readonly importedIds: readonly string[];
    readonly importers: readonly string[];
  } | null;
}
type ModuleInfo = NonNullable<ReturnType<ModuleGraph['getModuleInfo']>>;
/** Modules, with all that stands behind them. */
function closure(
  graph: ModuleGraph,
  of: (id: string, info: ModuleInfo) => boolean,
  next: (info: ModuleInfo) => readonly string[],
): ReadonlySet<string> {
  const found = new Set<string>();
  const open = [...graph.getModuleIds()].filter((id) => of(id, graph.getModuleInfo(id) as ModuleInfo));
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (found.has(id)) continue;
    found.add(id);
    open.push(...next(graph.getModuleInfo(id) as ModuleInfo));
  }
  return found;
}
const ENTRY_PAGES = /\/app\/(layouts\/[a-z]+|pages\/entry\/\[form\]\/(new|\[id\]))\.vue/;
let known: { readonly entry: ReadonlySet<string>; readonly schemas: ReadonlySet<string> } | null = null;
/** What a page for entering a record reads before it stands, and what reads schemas: what defines forms, not what works with them. */
const knownOf = (graph: ModuleGraph): NonNullable<typeof known> =>
  (known ??= {
    entry: closure(
      graph,
      (id, { isEntry }) => isEntry || ENTRY_PAGES.test(id),
      ({ importedIds }) => importedIds,
    ),
    schemas: closure(
      graph,
      (id) => /\/node_modules\/zod\//.test(id),
      ({ importers }) => importers,
    ),
  });

/** The parts of PrimeVue that what stands over every screen is made of. */
const OVER = new Set(['toast', 'confirmdialog', 'dialog', 'focustrap']);

/**
 * The file a module of the browser's script goes to. Left to itself the script falls into 140 files, each of which a cold page asks for
 * one after the other. What is heavy and seldom used stays apart: charts, the calendar, the formula editor; and a page for entering
 * records reads nothing of what only those who build need.
 */
function scriptOf(id: string, graph: ModuleGraph): string | undefined {
  const path = id.split('?')[0]!;
  const ours = path.startsWith(import.meta.dirname) ? path.slice(import.meta.dirname.length) : '';
  const isAtEntry = knownOf(graph).entry.has(id);
  const later = knownOf(graph).schemas.has(id) ? 'building' : 'asked';
  const part = /\/node_modules\/(?:primevue|@primevue(?!\/nuxt-module)|@primeuix)\/([a-z]+)/.exec(path)?.[1];
  if (part) return SELDOM.has(part) ? undefined : ROWS.has(part) ? 'rows' : isAtEntry ? 'controls' : OVER.has(part) ? 'over' : 'more';
  if (/\/node_modules\/(zod|decimal\.js|@formatjs|intl-messageformat)\//.test(path)) return isAtEntry ? 'core' : later;
  // by the grammar the formula editor colours; nothing else reads it
  if (/^\/core\/formula\/grammar\/(parser|tokens)/.test(ours)) return undefined;
  if (/^\/core\/(values|formula|form|choices|engine|model)\//.test(ours)) return isAtEntry ? 'core' : later;
  if (/\/node_modules\/(vue|@vue|pinia|vue-router|@vueuse\/(core|shared))\//.test(path)) return 'frame';
  if (ours.endsWith('/RowsTable.vue')) return 'rows';
  // what extends one of these goes with it: files that ask for each other come in an order of chance, and may find nothing there
  if (/\/parts\/((OverAll|SignInAgain)\.vue|StayDialog\.ts)$/.test(ours)) return 'over';
  if (/Formula(Editor|Before|Elsewhere)|NamesAtHand|CascadePicture|ClashDialog/.test(path)) return undefined;
  if (isAtEntry && /^\/app\/(components\/(entry|parts)|composables|stores|state|layouts|pages\/entry)/.test(ours)) return 'entry';
  if (!knownOf(graph).schemas.has(id) && /^\/app\/(components\/parts|composables|stores|state)\//.test(ours)) return 'asked';
  // why a value stands there, the record's history, files: when somebody asks
  if (/^\/app\/components\/entry/.test(ours)) return 'asked';
  if (
    /^\/app\/(components\/design\/(?!FirstSteps|DraftState|HomeTables)|pages\/design\/forms\/\[key\]\/index|stores\/(draft|tryout))/.test(
      ours,
    )
  )
    return 'design';
  return undefined;
}

export default defineNuxtConfig({
  compatibilityDate: '2026-01-01',
  // A working tool behind a sign-in: everything is drawn in the browser, the server answers data.
  ssr: false,
  devtools: { enabled: false },
  telemetry: false,
  modules: ['@pinia/nuxt', '@primevue/nuxt-module'],
  css: [
    '@fontsource-variable/atkinson-hyperlegible-next/index.css',
    '@fontsource-variable/atkinson-hyperlegible-mono/index.css',
    'primeicons/primeicons.css',
    '~/assets/base.css',
    '~/theme/parts.css',
  ],
  components: [{ path: '~/components', pathPrefix: false }],
  primevue: {
    autoImport: true,
    components: { include: partsNamed(`${import.meta.dirname}/app`) },
    directives: { include: ['Tooltip'] },
    // the parts' styles are a file of their own: modules/partStyles.ts
    loadStyles: false,
    options: {
      theme: 'none',
      ripple: false,
      // days and months as our readers write them; the calendar's week begins on a Monday
      locale: { firstDayOfWeek: 1, dateFormat: 'dd/mm/yy' },
    },
  },
  app: {
    head: {
      title: 'Brisk Acorn',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1, interactive-widget=resizes-content' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/acorn.svg' }],
    },
  },
  hooks: {
    // whatever a page may need later is read when it does: asked for beforehand it takes the line from what is needed now
    'build:manifest'(manifest) {
      for (const chunk of Object.values(manifest)) {
        chunk.prefetch = false;
        chunk.dynamicImports = [];
      }
    },
    // of what the module writes into every page, only what the browser reads
    'modules:done'() {
      const { public: told } = useNuxt().options.runtimeConfig as { public: Record<string, unknown> };
      const { usePrimeVue, options } = told.primevue as { usePrimeVue: boolean; options: object };
      told.primevue = { usePrimeVue, options };
    },
  },
  nitro: {
    hooks: {
      // what runs in threads is a file of its own, with none of the server in it
      async compiled(nitro) {
        if (nitro.options.dev) return;
        const { bundleWork } = await import('./server/work/bundle');
        await bundleWork(import.meta.dirname, `${nitro.options.output.serverDir}/work.mjs`);
      },
    },
    // as it stands: for older engines every property of a class would be defined by a call, which costs a fifth of a save
    esbuild: { options: { target: 'node20' } },
    compressPublicAssets: true,
    // the guide’s pictures are those of the documentation
    publicAssets: [{ dir: `${import.meta.dirname}/docs/screenshots`, baseURL: '/pictures', maxAge: 3600 }],
    externals: {
      traceInclude: [
        // workbooks are read and written in threads, whose code the tracer does not see
        'node_modules/exceljs/excel.js',
        'node_modules/tinypool/dist/entry/worker.js',
        // packages below exceljs name this file in their exports, where the tracer does not look
        ...['async-function', 'async-generator-function', 'generator-function'].map((p) => `node_modules/${p}/require.mjs`),
      ],
    },
    typescript: {
      tsConfig: {
        compilerOptions: { noUncheckedIndexedAccess: true, allowImportingTsExtensions: true, noEmit: true },
        exclude: ['../tests', '../**/*.test.ts'],
      },
    },
  },
  vite: {
    resolve: { alias: { 'primevue/ripple': `${import.meta.dirname}/app/theme/noRipple.ts` } },
    build: { target: 'es2022', cssCodeSplit: false },
    $client: { build: { rollupOptions: { output: { manualChunks: scriptOf } }, minify: 'terser' } },
  },
  // the core takes nothing that it does not import
  imports: { transform: { exclude: [/\/core\//] } },
  // only what a page needs is read for it; the rest when somebody goes there
  experimental: { defaults: { nuxtLink: { prefetch: false } } },
  typescript: {
    strict: true,
    tsConfig: {
      compilerOptions: { noUncheckedIndexedAccess: true, allowImportingTsExtensions: true, noEmit: true },
      exclude: ['../tests', '../**/*.test.ts'],
    },
  },
  routeRules: {
    '/**': {
      headers: {
        'X-Content-Type-Options': 'nosniff',
        'X-Frame-Options': 'DENY',
        'Referrer-Policy': 'same-origin',
        'Cross-Origin-Opener-Policy': 'same-origin',
      },
    },
  },
});
