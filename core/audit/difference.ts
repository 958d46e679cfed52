/** Where an answer is other than it may be: the first such place, and what stands there on both sides. */
export interface Difference {
  /** As `2.players.0.name`: the row by its place from 0, then names; empty for the answer itself. */
  readonly path: string;
  readonly told: unknown;
  readonly expected: unknown;
}

/** Doubles are summed up in the order in which an engine finds their rows. */
const CLOSE = 1e-9;

/**
 * The first place at which an answer differs from what may be told. What is said to be hidden tells no more than what is not there,
 * so that it is never a difference; neither is a name without a value one that is left out.
 */
export function differenceOf(told: unknown, expected: unknown, path: readonly string[] = []): Difference | null {
  if (isHidden(told)) return null;
  const here = { path: path.join('.'), told, expected };
  if (typeof told === 'number' && typeof expected === 'number')
    return Math.abs(told - expected) <= CLOSE * Math.max(1, Math.abs(told), Math.abs(expected)) ? null : here;
  if (Array.isArray(told) && Array.isArray(expected)) {
    for (let at = 0; at < Math.min(told.length, expected.length); at++) {
      const inner = differenceOf(told[at], expected[at], [...path, String(at)]);
      if (inner !== null) return inner;
    }
    return told.length === expected.length ? null : here;
  }
  if (isObject(told) && isObject(expected)) {
    for (const name of new Set([...Object.keys(told), ...Object.keys(expected)])) {
      const inner = differenceOf(told[name] ?? null, expected[name] ?? null, [...path, name]);
      if (inner !== null) return inner;
    }
    return null;
  }
  return (told ?? null) === (expected ?? null) ? null : here;
}

function isObject(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function isHidden(value: unknown): boolean {
  return isObject(value) && value.hidden === true && Object.keys(value).length === 1;
}
