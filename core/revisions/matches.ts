import { diffArrays } from 'diff';

/** Two places, one in each of two lists, that hold the same. */
export type Match = readonly [number, number];

/** How many lines a stretch without lines of its own may have to be compared at all. */
const MOST_LINES = 20_000;
/** How many edits a stretch without lines of its own may need to be compared line by line. */
const MOST_EDITS = 300;

/**
 * Which lines of two lists are the same ones, in order. What both begin and end with is set aside; lines that stand once in
 * each tell where the stretches between belong; those are compared line by line as long as they differ little. So it takes
 * about as long as the lists are, also where most lines are alike, as blank ones are.
 */
export function matchesOf(a: readonly string[], b: readonly string[]): Match[] {
  const matches: Match[] = [];
  const stretches: Stretch[] = [{ fromA: 0, toA: a.length, fromB: 0, toB: b.length }];
  for (let stretch = stretches.pop(); stretch !== undefined; stretch = stretches.pop()) {
    const inner = withoutEnds(a, b, stretch, matches);
    if (inner.fromA === inner.toA || inner.fromB === inner.toB) continue;
    const anchors = anchorsIn(a, b, inner);
    if (anchors.length === 0) {
      compare(a, b, inner, matches);
      continue;
    }
    let { fromA, fromB } = inner;
    for (const [atA, atB] of anchors) {
      matches.push([atA, atB]);
      stretches.push({ fromA, toA: atA, fromB, toB: atB });
      [fromA, fromB] = [atA + 1, atB + 1];
    }
    stretches.push({ fromA, toA: inner.toA, fromB, toB: inner.toB });
  }
  return matches.sort(([x], [y]) => x - y);
}

interface Stretch {
  readonly fromA: number;
  readonly toA: number;
  readonly fromB: number;
  readonly toB: number;
}

function withoutEnds(a: readonly string[], b: readonly string[], stretch: Stretch, matches: Match[]): Stretch {
  let { fromA, toA, fromB, toB } = stretch;
  while (fromA < toA && fromB < toB && a[fromA] === b[fromB]) {
    matches.push([fromA, fromB]);
    fromA += 1;
    fromB += 1;
  }
  while (fromA < toA && fromB < toB && a[toA - 1] === b[toB - 1]) {
    toA -= 1;
    toB -= 1;
    matches.push([toA, toB]);
  }
  return { fromA, toA, fromB, toB };
}

/** The lines that stand once on each side, as many of them as keep their order. */
function anchorsIn(a: readonly string[], b: readonly string[], { fromA, toA, fromB, toB }: Stretch): Match[] {
  const once = (list: readonly string[], from: number, to: number) => {
    const places = new Map<string, number>();
    for (let at = from; at < to; at++) {
      const line = list[at] ?? '';
      places.set(line, places.has(line) ? -1 : at);
    }
    return places;
  };
  const inB = once(b, fromB, toB);
  const pairs: Match[] = [];
  for (const [line, atA] of once(a, fromA, toA)) {
    const atB = inB.get(line) ?? -1;
    if (atA >= 0 && atB >= 0) pairs.push([atA, atB]);
  }
  return longestRise(pairs);
}

/** The most pairs whose second numbers rise with the first (patience sorting: n log n). */
function longestRise(pairs: readonly Match[]): Match[] {
  const ends: number[] = [];
  const before: number[] = [];
  for (const [index, [, value]] of pairs.entries()) {
    let [low, high] = [0, ends.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((pairs[ends[middle] ?? 0]?.[1] ?? 0) < value) low = middle + 1;
      else high = middle;
    }
    before[index] = ends[low - 1] ?? -1;
    ends[low] = index;
  }
  const rise: Match[] = [];
  for (let at = ends.at(-1) ?? -1; at >= 0; at = before[at] ?? -1) {
    const pair = pairs[at];
    if (pair !== undefined) rise.push(pair);
  }
  return rise.reverse();
}

function compare(a: readonly string[], b: readonly string[], { fromA, toA, fromB, toB }: Stretch, matches: Match[]): void {
  if (toA - fromA + toB - fromB > MOST_LINES) return;
  const parts = diffArrays(a.slice(fromA, toA), b.slice(fromB, toB), { maxEditLength: MOST_EDITS });
  let [atA, atB] = [fromA, fromB];
  for (const part of parts ?? []) {
    const { length } = part.value;
    if (part.removed) atA += length;
    else if (part.added) atB += length;
    else for (let line = 0; line < length; line++) matches.push([atA++, atB++]);
  }
}
