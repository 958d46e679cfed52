/** A run that was made, to be made again. */
export interface TriedRun {
  readonly text: string;
  readonly head: string;
  readonly values: Readonly<Record<string, string>>;
  readonly at: number;
  /** What came of it, in a few words. */
  readonly outcome: string;
}

const MOST = 40;

const keyOf = (tree: string) => `family-tree.tried.${tree}`;

/** What was tried on a tree in this browser, the latest first. */
export function triedOf(tree: string): readonly TriedRun[] {
  try {
    const parsed: unknown = JSON.parse(localStorage.getItem(keyOf(tree)) ?? '[]');
    return Array.isArray(parsed) ? (parsed as unknown[]).filter(isTried) : [];
  } catch {
    return [];
  }
}

/** Remembers a run; the same query with the same values stands once, where it was last. */
export function remember(tree: string, run: TriedRun): readonly TriedRun[] {
  const same = (other: TriedRun) =>
    other.text === run.text && other.head === run.head && JSON.stringify(other.values) === JSON.stringify(run.values);
  const next = [run, ...triedOf(tree).filter((other) => !same(other))].slice(0, MOST);
  try {
    localStorage.setItem(keyOf(tree), JSON.stringify(next));
  } catch {
    // A browser that keeps nothing forgets what was tried, and nothing else.
  }
  return next;
}

function isTried(value: unknown): value is TriedRun {
  return (
    typeof value === 'object' &&
    value !== null &&
    'text' in value &&
    typeof value.text === 'string' &&
    'head' in value &&
    typeof value.head === 'string' &&
    'values' in value &&
    typeof value.values === 'object' &&
    'outcome' in value &&
    typeof value.outcome === 'string'
  );
}
