/** Each way runs so long before it is measured, in milliseconds: code that an engine of JavaScript has just met is slower. */
const WARMED = 300;

/** Runs each way in turn, several rounds, and gives the median time of each in milliseconds. Turns even out a noisy machine. */
export function medians<K extends string>(ways: Readonly<Record<K, () => unknown>>, rounds: number): Record<K, number> {
  const names = Object.keys(ways) as K[];
  const times = Object.fromEntries(names.map((name) => [name, [] as number[]])) as Record<K, number[]>;
  for (const name of names) {
    const started = performance.now();
    do ways[name]();
    while (performance.now() - started < WARMED);
  }
  for (let round = 0; round < rounds; round++) {
    for (const name of round % 2 === 0 ? names : [...names].reverse()) {
      const started = performance.now();
      ways[name]();
      times[name].push(performance.now() - started);
    }
  }
  return Object.fromEntries(names.map((name) => [name, median(times[name])])) as Record<K, number>;
}

/** The same for ways that answer later. */
export async function mediansLater<K extends string>(
  ways: Readonly<Record<K, () => Promise<unknown>>>,
  rounds: number,
): Promise<Record<K, number>> {
  const names = Object.keys(ways) as K[];
  const times = Object.fromEntries(names.map((name) => [name, [] as number[]])) as Record<K, number[]>;
  for (const name of names) {
    const started = performance.now();
    do await ways[name]();
    while (performance.now() - started < WARMED);
  }
  for (let round = 0; round < rounds; round++) {
    for (const name of round % 2 === 0 ? names : [...names].reverse()) {
      const started = performance.now();
      await ways[name]();
      times[name].push(performance.now() - started);
    }
  }
  return Object.fromEntries(names.map((name) => [name, median(times[name])])) as Record<K, number>;
}

function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}
