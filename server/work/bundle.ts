import { join } from 'node:path';
import { type Plugin, build } from 'esbuild';

/** What stays outside: what is no JavaScript, and what packages load only where somebody has it. */
const OUTSIDE = ['better-sqlite3', 'exceljs', 'pg-native', 'pg-query-stream', 'sqlite3', 'mysql', 'mysql2', 'mariadb/callback', 'oracledb', 'tedious']; // prettier-ignore

/** The words of errors in languages nobody reads here: a third of what a thread would have to read. */
const withoutLanguages: Plugin = {
  name: 'without-languages',
  setup(making) {
    making.onResolve({ filter: /locales\/index\.c?js$/ }, ({ path, importer }) =>
      /[\\/]zod[\\/]/.test(importer) ? { path, namespace: 'languages' } : undefined,
    );
    making.onLoad({ filter: /.*/, namespace: 'languages' }, () => ({ contents: 'export {}' }));
  },
};

/**
 * Makes what runs in threads one file, with the packages it needs in it: a thread that has to find and read hundreds of files takes twice
 * as long until it can begin. `root` is the project's folder, `outfile` where the file comes to stand: below a folder of packages with
 * those that stay outside.
 */
export async function bundleWork(root: string, outfile: string): Promise<void> {
  await build({
    entryPoints: [join(root, 'server/work/entry.ts')],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // kinds of databases that Knex finds by their names; ours are given as they are
    external: [...OUTSIDE, '../../dialects/*'],
    plugins: [withoutLanguages],
    // packages of the older kind ask for those of Node.js so
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
    },
    logLevel: 'error',
  });
}
