import { compileDraft } from '../../core/engine/mistakes.ts';
import { openEntry } from '../../core/engine/entry.ts';
import { DataCache } from '../../core/engine/cache.ts';
import { unreachedIn } from '../../core/engine/unreached.ts';
import { type Form } from '../../core/form/definition.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { formula } from '../../core/formula/formula.ts';
import { type Table } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';

/*
 * Problems as one types, in a form of 300 fields: each letter of a formula checks that formula; when it is applied the whole form is
 * compiled anew with all its problems, and what was tried is played again. Another field is edited each time, with figures of many digits.
 */
const FIELDS = 300;
const ROWS = 400;
const at = (ms: number[], share: number): number => [...ms].sort((a, b) => a - b)[Math.floor(ms.length * share)] ?? 0;
const said = (what: string, ms: number[], limit = ''): void =>
  console.log(
    `  ${what.padEnd(58)} median ${at(ms, 0.5).toFixed(2).padStart(8)} ms   95 % ${at(ms, 0.95).toFixed(2).padStart(8)} ms   ${limit}`,
  );

/** Cascades of three levels, prefills, calculations over what stands before, conditions and checks, in turn. */
function largeForm(): { form: Form; tables: Map<string, Table> } {
  const column = (key: string, type: 'text' | 'number' | 'link', target: string | null = null) => columnSchema.parse({ key, label: key, type, target });
  const table = (key: string, above: string | null): Table => ({
    key, label: key, shown: 'name', rows: ROWS, large: false,
    columns: [column('name', 'text'), column('weight', 'number'), ...(above ? [column('above', 'link', above)] : [])],
  }); // prettier-ignore
  const tables = new Map([table('regions', null), table('sites', 'regions'), table('plots', 'sites')].map((t) => [t.key, t]));
  const rows = (key: string, where: string | null): object => ({ kind: 'rows', table: key, show: 'name', sort: ['name'], where, waiting: 'none' });
  const fields: Record<string, object> = {};
  const columns = [column('key', 'text')];
  for (let i = 0; i < FIELDS; i++) {
    const of = (n: number): string => `f${i - n}`;
    const kind = i % 10;
    const link = (target: string, where: string | null): object => ({ type: 'link', source: rows(target, where) });
    const own: object =
      kind === 0 ? link('regions', null)
      : kind === 1 ? link('sites', `choice.above = ${of(1)} AND choice.weight > ${i}.25`)
      : kind === 2 ? link('plots', `choice.above = ${of(1)}`)
      : kind === 3 ? { type: 'number', value: { kind: 'prefill', formula: `${of(1)}.weight` } }
      : kind === 4 ? { type: 'number', value: { kind: 'calculation', formula: `ROUND(${of(1)} * 0.${1234 + i} + ${i}.0625, 3)` } }
      : kind === 5 ? { type: 'number', required: `NOT(ISBLANK(${of(1)}))`, checks: [{ when: `f${i} > ${of(1)} * 12.875`, message: `More than {${of(1)}}`, severity: 'error' }] }
      : kind === 6 ? { type: 'text', shown: `${of(2)} > 10 AND ${of(1)} < 20.125`, value: { kind: 'default', formula: `"No. " & TEXT(${of(1)}, "0.00")` } }
      : kind === 7 ? { type: 'number', value: { kind: 'calculation', formula: `IF(${of(3)} > 5.5, SUM(${of(3)}, ${of(2)}), COALESCE(${of(4)}, 1.75))` } }
      : kind === 8 ? { type: 'date', value: { kind: 'default', formula: 'TODAY() + 7' }, checks: [{ when: `f${i} < TODAY()`, message: 'In the past', severity: 'warning' }] }
      : { type: 'text', locked: `${of(2)} > 100.5`, hint: `Region {${of(9)}.name}` }; // prettier-ignore
    const type = (own as { type: 'text' | 'number' | 'link' | 'date' }).type;
    columns.push(columnSchema.parse({ key: `f${i}`, label: `F${i}`, type, target: kind === 0 ? 'regions' : kind === 1 ? 'sites' : kind === 2 ? 'plots' : null }));
    fields[`f${i}`] = { label: `Field ${i}`, column: `f${i}`, ...own };
  }
  tables.set('things', { key: 'things', label: 'Things', shown: 'key', rows: 0, large: false, columns });
  const sections = Array.from({ length: FIELDS / 10 }, (_, s) => ({ id: `s${s}`, label: `Part ${s}`, fields: Object.keys(fields).slice(s * 10, s * 10 + 10) }));
  return { form: parseForm({ key: 'large', label: 'Large', table: 'things', pages: [{ id: 'p', label: '', sections }], fields }), tables };
} // prettier-ignore

export default async function run(): Promise<void> {
  const { form, tables } = largeForm();
  const plan = compileDraft(form, tables);
  console.log(`\nA form of ${FIELDS} fields, ${plan.cells.length} cells, ${plan.problems.filter((p) => p.severity === 'error').length} errors, ${plan.problems.length} problems`);
  const { scope } = plan;
  const typing: number[] = [];
  const compiling: number[] = [];
  const replaying: number[] = [];
  const walking: number[] = [];
  const cache = new DataCache();
  const names = (n: number) => Array.from({ length: ROWS }, (_, i) => ({ id: i + 1, name: `Row ${n} ${(i * 7919) % ROWS}`, weight: (i * 12.3456789) % 97, above: ((i * 31) % ROWS) + 1 }));
  cache.supply(['regions', 'sites', 'plots'].map((table, n) => ({ want: { kind: 'table' as const, table }, answer: { kind: 'table' as const, rows: names(n) } })), () => null);
  const ROUNDS = 150;
  for (let round = -20; round < ROUNDS; round++) {
    const i = (round + 20) % 30;
    const key = `f${i * 10 + 7}`;
    const text = `IF(f${i * 10 + 4} > ${round + 30}.${((round + 40) * 7919) % 1000}, SUM(f${i * 10 + 4}, f${i * 10 + 5}), 1.75)`;
    for (let n = 1; n <= text.length; n++) {
      const began = performance.now();
      formula(text.slice(0, n), scope);
      if (round >= 0) typing.push(performance.now() - began);
    }
    const edited = { ...form, fields: { ...form.fields, [key]: { ...form.fields[key]!, value: { ...form.fields[key]!.value!, formula: text } } } } as Form;
    let began = performance.now();
    const fresh = compileDraft(edited, tables);
    const compiled = performance.now();
    const entry = openEntry(fresh, { mode: 'new', today: '2026-03-10', now: '2026-03-10T09:00:00', me: 1 }, cache);
    entry.apply([{ kind: 'set', field: 'f0', value: (round % ROWS) + 41 }]);
    const replayed = performance.now();
    if (round >= 0) { compiling.push(compiled - began); replaying.push(replayed - compiled); }
    began = performance.now();
    unreachedIn(entry);
    if (round >= 0) walking.push(performance.now() - began);
    // as in the browser: others have their turn
    await new Promise((resolve) => setImmediate(resolve));
  }
  said('a letter: the formula checked in its scope', typing, '(goal: within a frame, 16 ms)');
  said('applied: the whole form compiled, with all problems', compiling, '(goal: 100 ms, as a press)');
  said('what was tried played again', replaying);
  said('choices nobody can reach, half a second later', walking);
} // prettier-ignore
