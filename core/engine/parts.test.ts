import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { CellKeys } from './cellKey.ts';
import { Dirty } from './dirty.ts';
import type { Frame } from './frame.ts';
import { Lacks } from './lacks.ts';
import { Trace } from './trace.ts';
import { type Want, wantKey } from './wants.ts';

/* The parts an entry is composed of, each by itself. */

const frame = (no: number, cells: number): Frame => ({ no, reasons: Array(cells).fill(null), causes: Array(cells).fill(null) }) as unknown as Frame; // prettier-ignore
const OPEN = { kind: 'open' } as const;

describe('a cell in a frame as one number', () => {
  const cell = fc.nat(100_000);
  const no = fc.nat(2 ** 20);
  test('gives back both, and goes up with the cells', () => {
    const keys = new CellKeys(true);
    fc.assert(
      fc.property(cell, no, cell, no, (a, m, b, n) => {
        const [x, y] = [keys.of(a, { no: m }), keys.of(b, { no: n })];
        expect([keys.cellOf(x), keys.frameOf(x)]).toEqual([a, m]);
        if (a !== b) expect(x < y).toBe(a < b);
        expect(Number.isSafeInteger(x)).toBe(true);
      }),
    );
  });
  test('without lines it is the cell itself', () => {
    const keys = new CellKeys(false);
    expect([keys.of(7, { no: 0 }), keys.cellOf(7), keys.frameOf(7)]).toEqual([7, 7, 0]);
  });
});

test('dirty cells come out each once, in their order, frame by frame; what opened is computed as changed once something changes', () => {
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.nat(30), fc.nat(4), fc.boolean()), { maxLength: 60 }), fc.boolean(), (marks, hasLines) => {
      const keys = new CellKeys(hasLines);
      const frames = Array.from({ length: 5 }, (_, no) => frame(no, 31));
      const dirty = new Dirty({ local: Int32Array.from({ length: 31 }, (_, id) => id) }, keys, hasLines);
      const expected = new Map<number, boolean>();
      for (const [cell, no, changed] of marks) {
        const at = frames[hasLines ? no : 0]!;
        dirty.mark(at, cell, changed ? 'change' : 'open', OPEN);
        const key = keys.of(cell, at);
        expected.set(key, changed || (expected.get(key) ?? false));
      }
      expect(dirty.size).toBe(expected.size);
      const came: number[] = [];
      for (let key = dirty.pop(); key !== undefined; key = dirty.pop()) {
        came.push(key);
        const at = frames[keys.frameOf(key)]!;
        expect(at.reasons[keys.cellOf(key)]).toBe(expected.get(key) ? 'change' : 'open');
        at.reasons[keys.cellOf(key)] = null;
      }
      expect(came).toEqual([...expected.keys()].sort((a, b) => a - b));
    }),
  );
});

describe('what is lacking', () => {
  const row = (id: number): Want => ({ kind: 'row', table: 'species', id });
  const compute = (lacks: Lacks, who: number | string, ...wants: Want[]): void => {
    lacks.begin();
    for (const want of wants) lacks.want(want);
    lacks.end(who, 'open');
  };
  test('is that of the last time something was computed; each want once', () => {
    const lacks = new Lacks();
    expect(lacks.all).toEqual([]);
    compute(lacks, 1, row(1), row(2), row(1));
    compute(lacks, 2, row(2), row(3));
    compute(lacks, 'fillUp', row(4));
    expect(lacks.all).toEqual([row(1), row(2), row(3), row(4)]);
    compute(lacks, 1, row(3));
    compute(lacks, 'fillUp');
    expect(lacks.all).toEqual([row(3), row(2)]);
  });
  test('tells which cells an answer is for; an effect asks for itself', () => {
    const lacks = new Lacks();
    compute(lacks, 1, row(1));
    compute(lacks, 2, row(2), row(1));
    compute(lacks, 'spread', row(1));
    expect(lacks.lacking(new Set([wantKey(row(1))]))).toEqual([[1, 'open'], [2, 'open']]); // prettier-ignore
    lacks.forget((key) => key === 2);
    expect(lacks.lacking(new Set([wantKey(row(2))]))).toEqual([]);
  });
  test('numbers of series belong to the cell that read them, or to the one they are credited to', () => {
    const lacks = new Lacks();
    lacks.begin();
    lacks.number('lots', 7);
    lacks.end(3, 'open');
    lacks.begin();
    lacks.number('lots', 8);
    lacks.end('giving', 'change');
    expect([...lacks.numbersRead].map(([key, n]) => [key, [...n]])).toEqual([[3, [['lots', 7]]]]);
    lacks.credit(4);
    expect([...lacks.numbersRead].map(([key]) => key)).toEqual([3, 4]);
  });
});

describe('the trace', () => {
  const change = (trace: Trace, field: string): void => trace.note(field, null, 'value', OPEN, null, 1);
  test('keeps what was done, not answers that changed nothing, and forgets the oldest', () => {
    const trace = new Trace();
    trace.finish({ kind: 'supply' });
    expect(trace.history).toEqual([]);
    for (let i = 0; i < 300; i++) {
      trace.computed++;
      for (let j = 0; j < 10; j++) change(trace, `f${i}`);
      const done = trace.finish([]);
      expect([done.computed, done.changes.length]).toEqual([1, 10]);
    }
    expect(trace.history).toHaveLength(100);
    expect(trace.history.at(-1)?.changes[0]?.field).toBe('f299');
  });
  test('what is read is what was noted, whatever it was, of the form and of lines, however many calls stand in between', () => {
    const value = fc.oneof(fc.double({ noNaN: true }), fc.constantFrom(null, true, 'text', 0, 1.5, '2026-01-02'));
    const noted = fc.record({ line: fc.option(fc.integer({ min: -5, max: 5 })), from: value, to: value });
    fc.assert(
      fc.property(fc.array(fc.tuple(noted, fc.integer({ min: 1, max: 700 })), { maxLength: 8 }), (calls) => {
        const trace = new Trace();
        const expected: unknown[][] = [];
        for (const [one, times] of calls) {
          const call = Array.from(
            { length: times },
            (_, i) => ({ ...one, field: `f${i}`, cell: 'value', cause: OPEN, origin: null }) as const,
          );
          for (const c of call) trace.note(c.field, c.line, c.cell, c.cause, c.from, c.to, c.origin);
          trace.finish({ kind: 'open' });
          expected.push(call);
        }
        // the oldest are let go where there are too many
        const kept = trace.history.map((c) => c.changes);
        expect(kept).toEqual(expected.slice(expected.length - kept.length));
        expect(kept.length).toBeGreaterThan(calls.length ? 0 : -1);
      }),
      { numRuns: 40 },
    );
  });
  test('the last call is kept whole, however much it changed', () => {
    const trace = new Trace();
    change(trace, 'small');
    trace.finish({ kind: 'open' });
    for (let j = 0; j < 5000; j++) change(trace, 'large');
    trace.finish({ kind: 'open' });
    expect(trace.history.map((c) => c.changes.length)).toEqual([5000]);
  });
});
