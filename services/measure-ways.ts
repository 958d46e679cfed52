import type { Design } from '../core/design/index.js';
import type { Finding, LoadWay } from '../core/notation/index.js';
import { firstDifference, type WayCost } from '../core/ways/index.js';
import type { Engine } from '../engines/index.js';
import { type RunAnswer, type RunRequest, runQuery } from './run-query.js';

/** The ways, in the order in which they are told. */
export const WAYS: readonly LoadWay[] = ['batch', 'join', 'json', 'row'];

/** What a query's loads cost in each way, over so many of its rows. */
export interface WaysMeasured {
  /** The root rows that there were. */
  readonly parents: number;
  /** The root rows and all that are loaded below them, each once. */
  readonly wanted: number;
  readonly costs: readonly MeasuredWay[];
}

export interface MeasuredWay extends WayCost {
  readonly cells: number;
  /** The SQL of its statements, each once. */
  readonly sql: readonly string[];
}

export type WaysOutcome =
  | { readonly ok: true; readonly measured: WaysMeasured }
  | { readonly ok: false; readonly findings: readonly Finding[]; readonly problems: readonly string[] };

/** How often each way is run: so often that the middle of it says something. */
const ROUNDS = 5;
/** A way that took so many milliseconds once is not run again. */
const LONG = 1_500;
/** The most lines of one statement: joined, roles to many multiply. */
const MOST_LINES = 200_000;

/**
 * Runs a query's loads in each way, in turns, compares the answers, and says what each cost.
 *
 * @param most how many root rows are asked for at most
 */
export async function measureWays(
  design: Design,
  engine: Engine,
  request: Omit<RunRequest, 'way' | 'rowLimit'>,
  most: number,
): Promise<WaysOutcome> {
  const asked = { ...request, most, rowLimit: MOST_LINES, explained: 'not' as const };
  const first = await runQuery(design, engine, { ...asked, way: 'batch' });
  if (!first.ok) return first;
  const expected: unknown = JSON.parse(first.answer.text);
  const tried = new Map<LoadWay, Tried>();
  for (let round = 0; round < ROUNDS; round++)
    for (const way of round % 2 === 0 ? WAYS : [...WAYS].reverse()) {
      const before = tried.get(way);
      if (before !== undefined && (before.problem !== null || before.times.some((time) => time > LONG))) continue;
      const outcome = await runQuery(design, engine, { ...asked, way });
      tried.set(way, triedAgain(before, outcome, expected));
      if (request.signal?.aborted === true) return { ok: false, findings: [], problems: ['Stopped.'] };
    }
  return {
    ok: true,
    measured: {
      parents: first.answer.rows,
      wanted: first.answer.log.reduce((sum, { rows }) => sum + rows, 0),
      costs: WAYS.map((way) => costOf(way, tried.get(way))),
    },
  };
}

interface Tried {
  readonly answer: RunAnswer | null;
  readonly times: readonly number[];
  readonly problem: string | null;
}

function triedAgain(before: Tried | undefined, outcome: Awaited<ReturnType<typeof runQuery>>, expected: unknown): Tried {
  const times = before?.times ?? [];
  if (!outcome.ok) return { answer: null, times, problem: outcome.problems.join(' ') || 'The query is refused.' };
  const { answer } = outcome;
  const [cut] = answer.cuts;
  const difference = cut === undefined && before === undefined ? firstDifference(expected, JSON.parse(answer.text)) : null;
  const problem =
    cut !== undefined
      ? `It would bring more than ${cut.limit.toLocaleString('en')} lines${cut.path === '' ? '' : ` of ${cut.path}`}.`
      : difference !== null
        ? `Its answer differs: ${difference}`
        : null;
  return { answer, times: [...times, answer.log.reduce((sum, entry) => sum + entry.milliseconds, 0)], problem };
}

function costOf(way: LoadWay, tried: Tried | undefined): MeasuredWay {
  const log = tried?.answer?.log ?? [];
  const sum = (of: (entry: (typeof log)[number]) => number) => log.reduce((all, entry) => all + of(entry), 0);
  return {
    way,
    statements: sum(({ times }) => times),
    rows: sum(({ rows }) => rows),
    cells: sum(({ cells }) => cells),
    bytes: sum(({ bytes }) => bytes),
    milliseconds: middle(tried?.times ?? []),
    problem: tried === undefined ? 'It was not run.' : tried.problem,
    sql: log.map(({ plain }) => plain),
  };
}

function middle(times: readonly number[]): number {
  const sorted = [...times].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
}
