// npm run bench [name …]: bundles and runs the benchmarks, prints ratios against the named baselines, and at the end one table of what
// was measured beside what is to be reached. What takes long can be narrowed by the environment: BENCH_ONLY (mixed: the beginning of one
// kind of work, or `all` for everything at once alone; saves: bench, seed, lot or long; pages: cold, lines or saved), BENCH_SECONDS and
// BENCH_WIDTHS (mixed, saves), BENCH_RECORDS (backfill, impact), BENCH_ROWS (choices), BENCH_LINES (pages), BENCH_ENTRIES (entry).
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { setTimeout as after } from 'node:timers/promises';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { build } from 'esbuild';

const here = fileURLToPath(new URL('.', import.meta.url));
const wanted = process.argv.slice(2);
/** How long one file may take, in minutes; the longest takes some ten on a slow machine. */
const MOST_MINUTES = 25;
// what is measured beside the product is installed here, by a package file of its own
const others = join(here, 'others');
process.env.BRISK_BENCH_OTHERS = others;
const needsOthers = !wanted.length || wanted.some((w) => 'beside'.startsWith(w));
if (needsOthers && !existsSync(join(others, 'node_modules')))
  execFileSync('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund'], { cwd: others, stdio: 'inherit' });
// inside the project, so that the bundles find its packages
const folder = mkdtempSync(join(here, '../../node_modules/.brisk-bench-'));
const before = processors();
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
    try {
      await inTime(run());
    } catch (e) {
      // one that cannot run, or never ends, does not take the others' figures with it
      console.error(e);
      process.exitCode = 1;
    }
  }
  table(globalThis.briskGoals ?? []);
} finally {
  rmSync(folder, { recursive: true, force: true });
}
// what has not ended is not waited for
process.exit();

/** Fails what has not ended after a long time. */
function inTime(running) {
  const late = after(MOST_MINUTES * 60_000, undefined, { ref: false });
  return Promise.race([
    running,
    late.then(() => {
      throw new Error(`It has not ended in ${MOST_MINUTES} minutes.`);
    }),
  ]);
}

/** What was measured, what stands beside it, and what is to be reached. */
function table(goals) {
  if (!goals.length) return;
  const figure = (n) => (n >= 100 ? Math.round(n).toLocaleString('en') : n >= 10 ? n.toFixed(1) : n.toFixed(2));
  const rows = goals.map(({ what, measured, unit, most, least, beside, slower = 1 }) => {
    const missed = most === undefined ? least / measured : measured / most;
    // what is beside it may be slower here than where the goal was set: then so may this be
    const there = slower > 1 ? ` (at the speed it was set at: ${missed <= slower ? 'reached' : `${figure(missed / slower)} ×`})` : '';
    return [
      what,
      `${figure(measured)} ${unit}`,
      most === undefined ? `${figure(least)} or more` : `${figure(most)} or less`,
      missed <= 1 ? 'reached' : `missed, ${figure(missed)} ×${there}`,
      `${beside ?? ''}${slower > 1 ? `, ${figure(slower)} × as long as where the goal was set` : ''}`,
    ];
  });
  const head = ['what', 'measured', 'to reach', '', 'beside it, in the same run'];
  const widths = head.map((_, i) => Math.max(...[head, ...rows].map((r) => r[i].length)));
  console.log(`\n== What is to be reached (${cpus().length} processors, Node.js ${process.versions.node})\n`);
  for (const row of [head, widths.map((w) => '-'.repeat(w)), ...rows])
    console.log(`| ${row.map((cell, i) => cell.padEnd(widths[i])).join(' | ')} |`);
  console.log(`\n${rows.filter((r) => r[3] === 'reached').length} of ${rows.length} reached`);
  const now = processors();
  if (!before || !now) return;
  const [kept, asked] = [now.kept - before.kept, now.asked - before.asked];
  console.log(
    `Of the processor time that was asked for meanwhile, ${((100 * kept) / Math.max(1, asked)).toFixed(1)} % went to others on the same host.`,
  );
}

/**
 * The processor time that this machine has asked for, and how much of it its host gave to others, in ticks; null where nobody says so
 * (“steal”, https://man7.org/linux/man-pages/man5/proc_stat.5.html).
 */
function processors() {
  if (process.platform !== 'linux') return null;
  const [user, nice, system, , , irq, soft, steal] = readFileSync('/proc/stat', 'utf8').split('\n')[0].split(/\s+/).slice(1).map(Number);
  return { kept: steal, asked: user + nice + system + irq + soft + steal };
}
