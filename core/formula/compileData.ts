import { canonical, plainNumber } from '../values/decimal.ts';
import { foldText } from '../values/text.ts';
import type { Datum } from '../values/types.ts';
import type { Run } from './compile.ts';
import { FormulaError, type Result, TooMuch, Waiting, isDatum } from './errors.ts';
import type { EachPart, Extra, FeedParams } from './extras.ts';
import type { Env } from './env.ts';
import type { Syntax } from './syntax.ts';
import { writeTemplate } from './template.ts';
import { type Type, TEXT } from '../values/typing.ts';
import { writeOut } from './write.ts';

type Call = Extract<Syntax, { kind: 'call' }>;
interface Compiling {
  compile(node: Syntax): Run;
  typeOf(node: Syntax): Type;
}

const notHere = (node: Syntax): FormulaError =>
  new FormulaError('notAvailable', 'This cannot be looked up here.', { from: node.from, to: node.to });

/** How a value is written as the key of a value map. */
export const mapKey = (value: Datum): string =>
  foldText(typeof value === 'number' ? plainNumber(canonical(value)) : writeOut(value, TEXT)).trim();

/** The first result that is no plain value, else null: an error before waiting, so that it is told at once. */
function stopOf(results: Iterable<Result>): FormulaError | Waiting | null {
  let waiting: Waiting | null = null;
  for (const r of results) {
    if (r instanceof FormulaError) return r;
    if (r instanceof Waiting) waiting = r;
  }
  return waiting;
}

/** Compiles a call that reads more than its arguments. */
export function compileData(node: Call, extra: Extra | undefined, compiling: Compiling): Run {
  const missing = notHere(node);
  switch (extra?.kind) {
    case 'pick':
      return (env) => (env.data ? env.data.pick(extra, env) : missing);
    case 'each':
      return eachOf(node, extra, compiling);
    case 'series': {
      const series = compiling.compile((node.args[0] as Call['args'][number]).value);
      return (env) => {
        const name = series(env);
        if (typeof name !== 'string') return name;
        return env.data ? env.data.series(name) : missing;
      };
    }
    case 'map': {
      const key = compiling.compile((node.args[1] as Call['args'][number]).value);
      const { values } = extra.map;
      return (env) => {
        const k = key(env);
        return isDatum(k) ? (k === null ? null : (values.get(mapKey(k)) ?? null)) : k;
      };
    }
    case 'feed': {
      const item = feedItem(node, compiling);
      return (env) => {
        const row = item(env);
        return row instanceof Waiting || row instanceof FormulaError ? row : (row?.value ?? null);
      };
    }
    case 'last': {
      const by = compiling.compile((node.args[0] as Call['args'][number]).value);
      const { column } = extra;
      return (env) => {
        const value = by(env);
        if (!isDatum(value) || value === null) return value;
        return env.data ? env.data.last(column, value) : missing;
      };
    }
    case 'attribute':
      return attribute(node, extra, compiling);
    case 'template': {
      const { template, leavesOut } = extra;
      const holes = template.holes.map(({ path, uses }) => {
        const syntax = extra.holes.get(path);
        const mayBeEmpty = leavesOut || uses.has('select') || uses.has('plural');
        return { run: syntax ? compiling.compile(syntax) : () => null, type: syntax ? compiling.typeOf(syntax) : TEXT, mayBeEmpty };
      });
      const plain = (hole: number, value: Datum): string => writeOut(value, holes[hole]?.type ?? TEXT);
      // one for all times it is written: nothing keeps it, and a text never stands in itself
      const results = new Array<Result>(holes.length).fill(null);
      return (env) => {
        for (let i = 0; i < holes.length; i++) results[i] = (holes[i] as (typeof holes)[number]).run(env);
        const stop = stopOf(results);
        if (stop) return stop;
        for (let i = 0; i < holes.length; i++) if (results[i] === null && holes[i]?.mayBeEmpty === false) return null;
        try {
          return writeTemplate(template, results as Datum[], plain);
        } catch (e) {
          if (e instanceof TooMuch) throw e;
          const said = `The text cannot be written: ${e instanceof Error ? e.message : 'a format does not fit'}`;
          return new FormulaError('badArgument', said, { from: node.from, to: node.to });
        }
      };
    }
  }
  return () => null;
}

/** ANYOF and its kin: the list is gone through until it is known; an error in one is told before one that waits. */
function eachOf(node: Call, { of, condition, lines, reads }: EachPart, compiling: Compiling): Run {
  const list = compiling.compile((node.args[0] as Call['args'][number]).value);
  const holds = compiling.compile(condition);
  const columns = lines ? reads.map((key) => ({ key, at: lines.columns.get(key) ?? -1 })) : [];
  const decides = of === 'all' ? false : true;
  return (env) => {
    const values = list(env);
    if (!isDatum(values)) return values;
    if (!Array.isArray(values)) return of === 'count' ? 0 : of !== 'any';
    const read = columns.map(({ key, at }) => ({ key, values: env.lines((lines as NonNullable<typeof lines>).group, at) }));
    const stop = stopOf(read.map((r) => r.values));
    if (stop) return stop;
    const before = env.each;
    const results: Result[] = [];
    let count = 0;
    // one for all: what is read of it is read at once, and thousands of lines would make thousands
    const line: Record<string, Datum> | null = lines ? {} : null;
    const each: { value: Datum; line: typeof line } = { value: null, line };
    env.each = each;
    const all = values as readonly Datum[];
    try {
      for (let i = 0; i < all.length; i++) {
        each.value = all[i] ?? null;
        if (line) for (const r of read) line[r.key] = (r.values as readonly Datum[])[i] ?? null;
        const result = holds(env);
        if (!isDatum(result)) results.push(result);
        else if ((result === true) === decides) {
          count++;
          if (of !== 'count') return of === 'any';
        }
      }
    } finally {
      env.each = before ?? null;
    }
    return stopOf(results) ?? (of === 'count' ? count : of !== 'any');
  };
}

/** The item that FEED(…) stands for. All required parameters must be known; an empty one gives nothing. */
export function feedItem(node: Call, compiling: Pick<Compiling, 'compile'>): (env: Env) => ReturnType<NonNullable<Env['data']>['feed']> {
  const missing = notHere(node);
  const [feed, ...given] = node.args;
  const key = feed?.value.kind === 'name' ? feed.value.name : feed?.value.kind === 'text' ? feed.value.value : '';
  const params = given.map((a) => ({ name: (a.label ?? '').toLowerCase(), run: compiling.compile(a.value) }));
  return (env) => {
    const values: Record<string, Datum> = {};
    const results = params.map((x) => x.run(env));
    const stop = stopOf(results);
    if (stop) return stop;
    for (const [i, { name }] of params.entries()) {
      const value = results[i] as Datum;
      if (value === null) return null;
      values[name] = value;
    }
    return env.data ? env.data.feed(key, values as FeedParams) : missing;
  };
}

function attribute(node: Call, { table, columns }: Extract<Extra, { kind: 'attribute' }>, compiling: Compiling): Run {
  const [of, name] = node.args.map((a) => compiling.compile(a.value)) as [Run, Run];
  const byName = new Map([...columns.values()].flatMap((c) => [[foldText(c.key), c] as const, [foldText(c.label), c] as const]));
  return (env) => {
    const [owner, key] = [of(env), name(env)];
    const stop = stopOf([owner, key]);
    if (stop) return stop;
    if (owner === null || typeof key !== 'string') return null;
    if (table === null) return fromJson(owner as Datum, key);
    const column = byName.get(foldText(key));
    const row = typeof owner === 'number' ? env.row(table, owner) : null;
    if (row instanceof Waiting) return row;
    const value = column && row ? (row[column.key] ?? null) : null;
    return value === null ? null : writeOut(value, column?.type ?? TEXT);
  };
}

function fromJson(json: Datum, key: string): Datum {
  try {
    const parsed: unknown = typeof json === 'string' ? JSON.parse(json) : null;
    const value =
      parsed !== null && typeof parsed === 'object' && Object.hasOwn(parsed, key) ? (parsed as Record<string, unknown>)[key] : null;
    if (value === null || value === undefined) return null;
    return typeof value === 'object' ? JSON.stringify(value) : typeof value === 'string' ? value : String(value as number | boolean);
  } catch {
    return null;
  }
}
