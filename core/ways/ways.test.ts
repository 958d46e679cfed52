import { isDeepStrictEqual } from 'node:util';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { adviceOn, firstDifference, type WayCost } from './index.js';

const cost = (way: WayCost['way'], statements: number, milliseconds: number, rows = 100): WayCost => ({
  way,
  statements,
  rows,
  bytes: rows * 40,
  milliseconds,
  problem: null,
});

test('near the database the quickest way is taken, far from it that with the fewest statements', () => {
  const costs = [cost('batch', 3, 4), cost('join', 1, 9, 900), cost('json', 1, 6, 20), cost('row', 201, 30)];
  expect(adviceOn(costs, 0)?.way).toBe('batch');
  expect(adviceOn(costs, 5)?.way).toBe('json');
  expect(adviceOn(costs, 0)?.text).toBe(
    'Load by batch: 3 statements, 100 lines, 4.0 ms. By json takes 1.5 times as long; by join brings 900 lines and takes 2.3 times as long; by row asks 201 times and takes 7.5 times as long.',
  );
});

test('by batch is taken where another way is hardly quicker, and never a way whose answer differs', () => {
  expect(adviceOn([cost('batch', 2, 4.3), cost('json', 1, 4)], 0)?.way).toBe('batch');
  expect(adviceOn([cost('batch', 2, 4), { ...cost('json', 1, 1), problem: 'differs' }], 0)?.way).toBe('batch');
  expect(adviceOn([], 0)).toBeNull();
});

test('answers that differ have a first difference, and equal ones none', () => {
  expect(firstDifference([{ id: 1, loans: [{ due_on: '2031-01-02' }] }], [{ id: 1, loans: [{ due_on: '2031-01-03' }] }])).toBe(
    '[0].loans[0].due_on: "2031-01-02", and "2031-01-03"',
  );
  expect(firstDifference([{ a: [] }], [{ a: [1] }])).toBe('[0].a[0]: nothing, and 1');
  fc.assert(
    fc.property(fc.jsonValue(), fc.jsonValue(), (one, other) => {
      const [a, b] = [JSON.parse(JSON.stringify(one)), JSON.parse(JSON.stringify(other))] as [unknown, unknown];
      expect(firstDifference(a, b) === null).toBe(isDeepStrictEqual(a, b));
      expect(firstDifference(a, structuredClone(a))).toBeNull();
    }),
  );
});
