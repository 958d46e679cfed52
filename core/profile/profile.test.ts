import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { bucketsOf } from './index.js';

describe('a histogram', () => {
  test('shows those with none apart, and steps as wide as each other', () => {
    expect(
      bucketsOf(10, [
        { children: 1, parents: 3 },
        { children: 2, parents: 4 },
      ]),
    ).toEqual({
      least: 0,
      mean: 1.1,
      most: 2,
      none: 3,
      parents: 10,
      buckets: [
        { least: 0, most: 0, parents: 3 },
        { least: 1, most: 1, parents: 3 },
        { least: 2, most: 2, parents: 4 },
      ],
    });
  });

  test('of no rows is empty', () => {
    expect(bucketsOf(0, [])).toEqual({ least: 0, mean: 0, most: 0, none: 0, parents: 0, buckets: [] });
  });

  test('counts every parent once, whatever the rows are', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(40), { minLength: 1, maxLength: 60 }), (perParent) => {
        const groups = new Map<number, number>();
        for (const children of perParent) if (children > 0) groups.set(children, (groups.get(children) ?? 0) + 1);
        const histogram = bucketsOf(
          perParent.length,
          Array.from(groups, ([children, parents]) => ({ children, parents })),
        );
        expect(histogram.buckets.reduce((sum, bucket) => sum + bucket.parents, 0)).toBe(perParent.length);
        expect(histogram.least).toBe(Math.min(...perParent));
        expect(histogram.most).toBe(Math.max(...perParent));
        expect(histogram.buckets.length).toBeLessThanOrEqual(10);
      }),
    );
  });
});
