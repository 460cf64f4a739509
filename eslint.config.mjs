import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import importX from 'eslint-plugin-import-x';
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';
import vue from 'eslint-plugin-vue';
import tseslint from 'typescript-eslint';

/**
 * Controls and tables are PrimeVue's. Where it has no part for something, the element stands with a comment on the line before that
 * disables this rule and says why.
 */
const CONTROLS = ['button', 'input', 'select', 'textarea', 'table', 'details', 'dialog', 'progress', 'meter', 'fieldset'].map(
  (element) => ({
    element,
    message: `Use PrimeVue's part for <${element}>, or say why not.`,
  }),
);
/** What may not be imported where: dependencies point one way, app and server → core (docs/architecture.md). */
const forbid = (...groups) => ({ '@typescript-eslint/no-restricted-imports': ['error', { patterns: groups }] });
const world = {
  regex: '^(vue|nuxt|#|~|@/|pinia|primevue|@vueuse|knex|better-sqlite3|h3|nitropack|node:|fs|path|crypto)',
  message: 'core knows no screen, server, database or platform.',
};
const toApp = { regex: '(^|/)app/', message: 'Only the application imports from app/.' };
const toServer = { regex: '(^|/)server/', message: 'Only the server imports from server/.' };
/** The layers of core, from the bottom: what runs imports from its own and from those below; types may be named from above. */
const LAYERS = [
  ['values'],
  ['formula'],
  ['model'],
  ['choices'],
  ['form'],
  ['engine'],
  ['review', 'exchange', 'guide', 'evidence'],
  ['contract'],
];
const layers = LAYERS.slice(0, -1).map((own, i) => ({
  files: own.map((folder) => `core/${folder}/**/*.ts`),
  ignores: ['**/*.test.ts'],
  rules: forbid(world, toApp, toServer, {
    regex: `^(\\.\\./)+(${LAYERS.slice(i + 1)
      .flat()
      .join('|')})/`,
    allowTypeImports: true,
    message: `Inside core, ${own.join(', ')} must not import what stands above: ${LAYERS.flat().join(' ← ')}.`,
  }),
}));

/** SQL stands in server/database; everything else calls what stands there. */
const sql = (what) => ({ selector: what, message: 'SQL stands in server/database/<noun>.ts: call a function of it.' });
const SQL = [
  // db('table'), ws.db('table')
  sql("CallExpression[callee.name='db']"),
  sql("CallExpression[callee.type='MemberExpression'][callee.property.name='db']"),
  sql("MemberExpression[property.name=/^(raw|schema|from)$/][object.name='db']"),
  sql('MemberExpression[property.name=/^(raw|schema|from)$/][object.property.name=/^(db|aside)$/]'),
  sql('ImportSpecifier[imported.name=/^(dataTable|foldColumn)$/]'),
];

export default tseslint.config(
  {
    ignores: [
      'test-results/**',
      'node_modules',
      '.nuxt',
      '.output',
      'data',
      'core/formula/grammar/parser.js',
      'core/formula/grammar/parser.terms.js',
      '.library',
    ],
  },
  js.configs.recommended,
  ...tseslint.configs.strict,
  ...vue.configs['flat/recommended'],
  prettier,
  {
    files: ['**/*.ts', '**/*.vue'],
    plugins: { 'import-x': importX },
    settings: { 'import-x/resolver-next': [createTypeScriptImportResolver()] },
    languageOptions: { parserOptions: { parser: tseslint.parser } },
    rules: {
      'no-undef': 'off',
      'import-x/no-cycle': ['error', { ignoreExternal: true }],
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports', disallowTypeAnnotations: false }],
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_$' }],
      'vue/multi-word-component-names': 'off',
      'vue/require-default-prop': 'off',
      'vue/no-restricted-html-elements': ['error', ...CONTROLS],
      'max-lines': ['error', { max: 600 }],
      eqeqeq: 'error',
    },
  },
  { files: ['core/**/*.ts'], ignores: ['**/*.test.ts'], rules: forbid(world, toApp, toServer) },
  ...layers,
  { files: ['app/**/*.{ts,vue}'], rules: forbid(toServer) },
  { files: ['server/**/*.ts'], rules: forbid(toApp) },
  {
    files: ['server/**/*.ts'],
    ignores: ['server/database/**', '**/*.test.ts', 'server/testing/**'],
    rules: { 'no-restricted-syntax': ['error', ...SQL] },
  },
  {
    files: ['scripts/**', '*.mjs', 'demo/**/*.mjs', 'tests/bench/*.mjs'],
    languageOptions: { globals: { process: 'readonly', console: 'readonly', URL: 'readonly', setTimeout: 'readonly', fetch: 'readonly' } },
  },
);
