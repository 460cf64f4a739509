import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type JudgedFile, filesProblem } from './fit.ts';

const MB = 1_000_000;
const file = (name: string, kind: string, size = 1000): JudgedFile => ({ name, kind, size });
const field = (accept: string[], files: Partial<{ most: number; eachMb: number; allMb: number }> | null = null) => ({
  label: 'Permit',
  accept,
  files: files && { most: null, eachMb: null, allMb: null, ...files },
});

test('a file is judged by its content: one that says it is what it is not is told so', () => {
  expect(filesProblem(field(['pdf']), [file('scan.pdf', 'png')])).toBe('Permit takes only PDF; “scan.pdf” is a PNG picture named .pdf.');
  expect(filesProblem(field(['pdf', 'png']), [file('x.csv', 'csv')])).toBe('Permit takes only PDF or PNG; “x.csv” is a CSV file.');
  expect(filesProblem(field(['jpg']), [file('a.jpg', 'jpeg')])).toBeNull();
  expect(filesProblem(field(['pdf']), [file('x', 'bin')])).toBe('Permit takes only PDF; “x” is of another kind.');
  expect(filesProblem(field([]), [file('x', 'bin')])).toBeNull();
});
test('how many, how large each and all of them', () => {
  const two = [file('a.txt', 'txt', 2 * MB), file('b.txt', 'txt', 3 * MB)];
  expect(filesProblem(field([], { most: 1 }), two)).toBe('Permit takes at most 1 file; these are 2.');
  expect(filesProblem(field([], { eachMb: 2.5 }), two)).toBe('Permit takes files of at most 2.5 MB; “b.txt” has 3 MB.');
  expect(filesProblem(field([], { allMb: 4 }), two)).toBe('Permit takes at most 4 MB in all; these have 5 MB.');
  expect(filesProblem(field([], { most: 2, eachMb: 3, allMb: 5 }), two)).toBeNull();
});
test('fewer and smaller files are never worse', () => {
  const any = fc.array(
    fc.record({ name: fc.constant('a.txt'), kind: fc.constantFrom('txt', 'png'), size: fc.integer({ min: 0, max: 5 * MB }) }),
    { maxLength: 6 },
  );
  fc.assert(
    fc.property(
      any,
      fc.record({
        most: fc.integer({ min: 1, max: 5 }),
        eachMb: fc.double({ min: 0.1, max: 5, noNaN: true }),
        allMb: fc.double({ min: 0.1, max: 9, noNaN: true }),
      }),
      (files, limits) => {
        if (filesProblem(field(['txt'], limits), files) !== null) return;
        expect(filesProblem(field(['txt'], limits), files.slice(1))).toBeNull();
        expect(
          filesProblem(
            field(['txt'], limits),
            files.map((f) => ({ ...f, size: Math.floor(f.size / 2) })),
          ),
        ).toBeNull();
      },
    ),
  );
});
