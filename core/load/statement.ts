import type { BoundParameter } from '../values/index.js';

/** How far values are trusted to fit their types, and how many rows may come. */
export interface FetchOptions {
  /** The database was made here, so its checks keep every value in its type; else each is looked at. */
  readonly madeHere: boolean;
  readonly rowLimit: number;
}

/**
 * Whether it is to be said how the engine answers a statement: *expected* asks for its plan; *measured* carries the statement
 * out once more, and counts what each step found, where the engine can.
 */
export type Explained = 'not' | 'expected' | 'measured';

/** A statement that reads rows, and what a person is shown of it. */
export interface Statement {
  /** As it is sent to the engine. */
  readonly sent: string;
  /** As a careful person would write it, without the wrapping that brings rows over by columns. */
  readonly plain: string;
  readonly parameters: Readonly<Record<string, BoundParameter>>;
  /** The load that it serves, as a path from the root; empty for the root rows. */
  readonly path: string;
  /** Where in the query's text it comes from; null for the query itself. */
  readonly span: { readonly start: number; readonly end: number } | null;
  readonly explained: Explained;
  /** Whether the computation goes on where the engine refuses this statement. */
  readonly mayFail: boolean;
}

/** A step of how the engine answers a statement, in words. */
export interface PlanStep {
  readonly depth: number;
  readonly text: string;
  /** Why the step may be dear: it reads every row of a table, sorts, or writes down what it found to read it again. */
  readonly mark: 'full scan' | 'sort' | 'temporary table' | null;
  /** The rows that the engine expects of the step, each time that it runs; null where it does not say. */
  readonly expected: number | null;
  /** The rows that the step gave, each time that it ran in the mean; null where that was not measured. */
  readonly found: number | null;
}

/** A step of which nothing is known but what it does. */
export function planStep(depth: number, text: string, rest: Partial<PlanStep> = {}): PlanStep {
  return { depth, text, mark: null, expected: null, found: null, ...rest };
}

/** Why an engine gave nothing for a statement, in words. */
export interface Refusal {
  readonly code: string;
  readonly message: string;
}

/** The result of a statement: rows as arrays of values, and the milliseconds that it took. */
export interface StatementResult {
  readonly rows: readonly (readonly unknown[])[];
  readonly milliseconds: number;
  /** How the engine answers it, where that was to be said. */
  readonly steps: readonly PlanStep[];
  /** Why there are no rows, for a statement that may fail. */
  readonly refused: Refusal | null;
}

/** A computation that needs rows: it yields statements and is resumed with what they gave. */
export type Computation<Result> = Generator<Statement, Result, StatementResult>;

/** One line of the log. */
export interface LogEntry {
  readonly path: string;
  readonly plain: string;
  readonly sent: string;
  /** The engine hands its rows over as one list for each column. */
  readonly byColumns: boolean;
  readonly parameters: readonly { readonly name: string; readonly shown: string; readonly count: number | null }[];
  /** How often it was sent: once for each owner where rows are loaded by row. What follows is the sum of all. */
  readonly times: number;
  readonly rows: number;
  /** Values that the engine handed over. */
  readonly cells: number;
  /** The size of what it handed over, without what the protocol adds. */
  readonly bytes: number;
  readonly milliseconds: number;
  readonly steps: readonly PlanStep[];
  readonly span: { readonly start: number; readonly end: number } | null;
}

/** What stands in the log for the count of the rows beside a page: no role is called so. */
export const TOTAL_PATH = '(total)';

const MOST_SHOWN = 12;

/** A parameter as the log shows it: a value, or how many keys and the first of them. */
export function shownParameters(
  parameters: Readonly<Record<string, BoundParameter>>,
  keys: readonly unknown[] | null,
): LogEntry['parameters'] {
  return Object.entries(parameters).map(([name, value]) => {
    if (name === 'keys' && keys !== null) {
      const first = keys.slice(0, MOST_SHOWN).map(String).join(', ');
      return { name, shown: keys.length > MOST_SHOWN ? `${first}, …` : first, count: keys.length };
    }
    const shown =
      value === null
        ? 'null'
        : typeof value === 'string'
          ? `'${value}'`
          : value instanceof Uint8Array
            ? `${value.length} bytes`
            : String(value);
    return { name, shown, count: null };
  });
}
