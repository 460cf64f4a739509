// npm run bench [name …]: bundles and runs the benchmarks, and prints ratios against the named baselines.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { build } from 'esbuild';

const here = fileURLToPath(new URL('.', import.meta.url));
const wanted = process.argv.slice(2);
// what is measured beside the product is installed here, by a package file of its own
const others = join(here, 'others');
process.env.BRISK_BENCH_OTHERS = others;
const needsOthers = !wanted.length || wanted.some((w) => 'beside'.startsWith(w));
if (needsOthers && !existsSync(join(others, 'node_modules')))
  execFileSync('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund'], { cwd: others, stdio: 'inherit' });
// inside the project, so that the bundles find its packages
const folder = mkdtempSync(join(here, '../../node_modules/.brisk-bench-'));
try {
  const files = readdirSync(here).filter((f) => f.endsWith('.bench.ts') && (!wanted.length || wanted.some((w) => f.startsWith(w))));
  for (const file of files.sort()) {
    const outfile = join(folder, file.replace(/\.ts$/, '.mjs'));
    await build({
      entryPoints: [join(here, file)],
      outfile,
      bundle: true,
      platform: 'node',
      format: 'esm',
      target: 'node20',
      packages: 'external',
      logLevel: 'error',
    });
    console.log(`\n== ${file}`);
    const { default: run } = await import(pathToFileURL(outfile).href);
    await run();
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
