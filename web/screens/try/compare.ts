import type { RunResult } from '../../../contract/index.js';

type Answered = Extract<RunResult, { ok: true }>;

/** How a run differs from the one before it. */
export interface Comparison {
  readonly statements: readonly [number, number];
  readonly rows: readonly [number, number];
  readonly milliseconds: readonly [number, number];
  /** Root rows by key; null where the answers cannot be told apart by one. */
  readonly answer:
    | { readonly kind: 'same' }
    | { readonly kind: 'other entity' }
    | {
        readonly kind: 'differs';
        readonly came: number;
        readonly went: number;
        readonly changed: number;
        readonly moved: boolean;
      };
}

/** Compares two runs: what they cost, and whether their answers are the same. */
export function compare(before: Answered, now: Answered, keyOf: (entity: string) => readonly string[] | null): Comparison {
  const cost = (result: Answered) => result.log.reduce((sum, entry) => sum + entry.milliseconds, 0);
  const sent = (result: Answered) => result.log.reduce((sum, entry) => sum + entry.times, 0);
  const fetched = (result: Answered) => result.log.reduce((sum, entry) => sum + entry.rows, 0);
  return {
    statements: [sent(before), sent(now)],
    rows: [fetched(before), fetched(now)],
    milliseconds: [cost(before), cost(now)],
    answer: answers(before, now, now.flat ? null : keyOf(now.entity)),
  };
}

function answers(before: Answered, now: Answered, key: readonly string[] | null): Comparison['answer'] {
  const told = [before, now].some(({ cardinality }) => cardinality === 'count' || cardinality === 'exists');
  if (before.entity !== now.entity || before.flat !== now.flat || told)
    return before.text === now.text && before.cardinality === now.cardinality ? { kind: 'same' } : { kind: 'other entity' };
  if (before.text === now.text) return { kind: 'same' };
  const [old, fresh] = [before, now].map((result) => {
    const rows = JSON.parse(result.text) as Record<string, unknown>[];
    return new Map(
      rows.map((row, index) => [
        key === null ? String(index) : JSON.stringify(key.map((name) => row[name])),
        JSON.stringify(row),
      ]),
    );
  });
  if (old === undefined || fresh === undefined) return { kind: 'other entity' };
  const keys = Array.from(fresh.keys());
  const both = keys.filter((item) => old.has(item));
  const came = keys.length - both.length;
  const went = old.size - both.length;
  const changed = both.filter((item) => old.get(item) !== fresh.get(item)).length;
  const moved =
    both.join() !==
    Array.from(old.keys())
      .filter((item) => fresh.has(item))
      .join();
  return { kind: 'differs', came, went, changed, moved };
}
