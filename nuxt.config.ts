import { readFileSync, readdirSync } from 'node:fs';
import { useNuxt } from 'nuxt/kit';

/**
 * PrimeVue's parts that some template names. The styles of all its parts, used or not, would stand in every page (450 kB) and be
 * worked through by the browser before anything is drawn.
 */
function partsUsed(): string[] {
  const folder = `${import.meta.dirname}/app`;
  const templates = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((f) => f.endsWith('.vue'));
  const names = templates.flatMap((f) => [...readFileSync(`${folder}/${f}`, 'utf8').matchAll(/<([A-Z][A-Za-z]+)/g)].map((m) => m[1]!));
  return [...new Set(names)];
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
    components: { include: partsUsed() },
    directives: { include: ['Tooltip'] },
    options: {
      ripple: false,
      // days and months as our readers write them; the calendar's week begins on a Monday
      locale: { firstDayOfWeek: 1, dateFormat: 'dd/mm/yy' },
    },
    importTheme: { from: `${import.meta.dirname}/app/theme/theme.ts`, as: 'briskTheme' },
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
        const { build } = await import('esbuild');
        await build({
          entryPoints: [`${import.meta.dirname}/server/work/entry.ts`],
          outfile: `${nitro.options.output.serverDir}/work.mjs`,
          bundle: true,
          platform: 'node',
          format: 'esm',
          target: 'node20',
          packages: 'external',
        });
      },
    },
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
  vite: { build: { target: 'es2022' } },
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
