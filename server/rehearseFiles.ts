import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { formFileSchema } from '../core/exchange/formFile.ts';
import { type RehearsalStep, stepWords } from '../core/form/rehearsal.ts';
import { openDatabase, openToRead } from './database/connection';
import { SMALL_DEMO } from './demo/enter';
import { loadDemo } from './demo/load';
import { performRehearsal } from './services/rehearsals';
import { SystemClock, Workspace } from './services/workspace';

/*
 * `npm run rehearse -- [--demo] FILE…`: runs the rehearsals that stand in form files on the forms that stand there, over the tables of a
 * workspace that is only read (BRISK_DATA, else ./data), or of the demo. For those who keep forms in version control.
 */

/** What it ends with: all as expected; some not; or it could not be run. */
const [GREEN, RED, BROKEN] = [0, 1, 2];

async function workspace(demo: boolean): Promise<{ ws: Workspace; end: () => void }> {
  if (!demo) {
    const folder = process.env.BRISK_DATA ?? 'data';
    return {
      ws: new Workspace(
        openToRead(process.env.DATABASE_URL ?? join(folder, 'brisk-acorn.sqlite')),
        new SystemClock(),
        join(folder, 'files'),
      ),
      end: () => undefined,
    };
  }
  const folder = mkdtempSync(join(tmpdir(), 'brisk-rehearse-'));
  const ws = new Workspace(await openDatabase(join(folder, 'demo.sqlite')), new SystemClock(), join(folder, 'files'));
  await loadDemo(ws, process.env.BRISK_DEMO ?? 'demo', (password) => Promise.resolve(`hash of ${password}`), SMALL_DEMO);
  return { ws, end: () => rmSync(folder, { recursive: true, force: true }) };
}

/** Runs the rehearsals of one file; says what came of each. Gives how it ended. */
async function rehearseFile(ws: Workspace, path: string): Promise<number> {
  let json: unknown;
  try {
    json = JSON.parse(readFileSync(path, 'utf8'));
  } catch (e) {
    console.error(`${path}: ${e instanceof SyntaxError ? 'it is no JSON' : (e as Error).message}`);
    return BROKEN;
  }
  const read = formFileSchema.safeParse(json);
  if (!read.success) {
    const [issue] = read.error.issues;
    console.error(`${path}: it is no form file: ${issue?.path.join('.') ?? ''} ${issue?.message ?? ''}`);
    return BROKEN;
  }
  const { form, rehearsals } = read.data;
  const plan = await ws.compiled(form);
  const errors = plan.problems.filter((p) => p.severity === 'error');
  for (const p of errors.slice(0, 20)) console.error(`${path}: ${p.field ?? form.label}: ${p.message}`);
  if (errors.length) return BROKEN;
  let red = 0;
  for (const rehearsal of rehearsals) {
    const { ok, problem, steps } = await performRehearsal(ws, plan, rehearsal);
    console.log(`${ok ? '✓' : '✗'} ${form.label}: ${rehearsal.label}`);
    if (!ok) red++;
    if (problem) console.log(`    ${problem}`);
    for (const s of steps.filter((one) => !one.ok)) {
      console.log(`    step ${s.step + 1}: ${stepWords(form, rehearsal.steps[s.step] as RehearsalStep)}`);
      console.log(`      ${s.problem ?? `found: ${s.found ? stepWords(form, s.found as RehearsalStep) : 'something else'}`}`);
    }
  }
  console.log(`${basename(path)}: ${rehearsals.length - red} as expected, ${red} not`);
  return red ? RED : GREEN;
}

async function main(args: readonly string[]): Promise<number> {
  const files = args.filter((a) => !a.startsWith('--'));
  if (!files.length) {
    console.error('Name at least one form file: npm run rehearse -- [--demo] FILE…');
    return BROKEN;
  }
  const { ws, end } = await workspace(args.includes('--demo'));
  try {
    let worst = GREEN;
    for (const file of files) worst = Math.max(worst, await rehearseFile(ws, file));
    return worst;
  } finally {
    await ws.close();
    end();
  }
}
main(process.argv.slice(2)).then(
  (code) => (process.exitCode = code),
  (e: unknown) => {
    console.error(e instanceof Error ? e.message : e);
    process.exitCode = BROKEN;
  },
);
