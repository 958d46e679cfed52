import { uniformInt } from 'pure-rand/distribution/uniformInt';
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus';
import { hash } from '../model/index.js';

/** Chance that is the same on each run. */
export interface Chance {
  /** A whole number from least to most, both included. */
  between(least: number, most: number): number;
  pick<T>(items: readonly T[]): T | undefined;
  /** True so many times in a hundred. */
  percent(share: number): boolean;
}

/**
 * Chance for one value: it hangs on what the value is for (entity, field, row, attempt) and on nothing else, so
 * adding an entity or a field moves no other value.
 */
export function chanceFor(...place: readonly (string | number)[]): Chance {
  const generator = xoroshiro128plus(hash(place.join('\u0001')));
  // The first numbers of neighbouring seeds are alike.
  uniformInt(generator, 0, 1);
  const between = (low: number, high: number) => {
    const least = inside(low);
    // Neither a bound nor the distance between two is counted exactly beyond this.
    const most = Math.min(inside(high), least + Number.MAX_SAFE_INTEGER);
    return most <= least ? least : uniformInt(generator, least, inside(most));
  };
  return {
    between,
    pick: (items) => items[between(0, items.length - 1)],
    percent: (share) => between(0, 9999) < share * 100,
  };
}

/** A whole number that a double holds exactly. */
function inside(value: number): number {
  if (Number.isNaN(value)) return 0;
  return Math.trunc(Math.min(Number.MAX_SAFE_INTEGER, Math.max(Number.MIN_SAFE_INTEGER, value)));
}
