import { describe, expect, test } from 'vitest';
import { EXAMPLES, examplePlan, openExamples, settleExamples } from './examples.ts';

const plan = examplePlan();
const TODAY = '2026-12-14';
const results = (entry = openExamples(plan, TODAY)) => EXAMPLES.map((e) => entry.value(e.key));

describe('the worked examples of the guide', () => {
  test('are all without mistakes, and there are a dozen', () => {
    expect(plan.problems).toEqual([]);
    expect(EXAMPLES.length).toBeGreaterThanOrEqual(12);
  });
  test('come to what they say', () => {
    expect(results()).toEqual([
      // ten working days on from a Monday, Christmas left out
      '2026-12-29',
      'MF-2026-0401',
      14,
      'Quercus robur collected at Adder Carr on 14 September 2025',
      '3 bags',
      'MF-2025-0011',
      3,
      'post',
      4.5,
      9.5,
      82,
      15,
    ]);
  });
  test('follow what one changes', () => {
    const entry = openExamples(plan, TODAY);
    entry.apply([
      { kind: 'set', field: 'species', value: 2 },
      { kind: 'set', field: 'partner', value: 1 },
      { kind: 'set', field: 'bags', value: 1 },
      { kind: 'clear', field: 'germinated' },
      { kind: 'set', field: 'method', value: 'post' },
    ]);
    settleExamples(entry);
    const now = results(entry);
    expect([now[2], now[4], now[5], now[6], now[7], now[8], now[10]]).toEqual([3.5, '1 bag', 'MF-2025-0023', 1, 'collected', 9, null]);
  });
});
