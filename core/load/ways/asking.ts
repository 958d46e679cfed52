import type { Dialect } from '../../dialects/index.js';
import type { BoundParameter, EngineValues, Wire } from '../../values/index.js';
import type { Cut, LoadRequest } from '../answer.js';
import type { CompiledStatement } from '../compile/index.js';
import { fetch } from '../fetch.js';
import type { Computation, Explained, LogEntry } from '../statement.js';
import { rowsOf, type Split } from './join.js';

/** What a statement is for. */
export interface AskedFor {
  /** The keys of a batch, for the log; null where there are none. */
  readonly keys: readonly Wire[] | null;
  readonly path: string;
  readonly span: LogEntry['span'];
}

/** The statements of one load while it runs: what they cost is noted, and where they were cut. */
export class Asking {
  readonly log: LogEntry[] = [];
  readonly cuts: Cut[] = [];
  /** Where the log has the statement that was sent for a part of the plan. */
  private readonly noted = new Map<CompiledStatement, number>();

  constructor(
    readonly dialect: Dialect,
    readonly request: LoadRequest,
  ) {}

  get values(): EngineValues {
    return this.dialect.values;
  }

  /** Sends a statement, and gives its rows. One that is sent again and again stands in the log once, with how often. */
  *ask(
    read: CompiledStatement,
    bound: Readonly<Record<string, BoundParameter>>,
    { keys, path, span }: AskedFor,
  ): Computation<Split> {
    const { prepared, rowLimit } = this.request;
    const { parameters: given, madeHere } = prepared;
    const parameters = { ...given, ...bound };
    const explained: Explained = this.noted.has(read) ? 'not' : (this.request.explained ?? 'not');
    const purpose = { keys, path, span, explained, mayFail: false };
    const request = { query: read.select, outputs: read.columns, parameters, options: { madeHere, rowLimit } };
    const fetched = yield* fetch(this.dialect, request, purpose);
    if (fetched.cut && !this.cuts.some((cut) => cut.path === path)) this.cuts.push({ path, limit: rowLimit, size: null });
    this.note(read, fetched.entry);
    const columns = new Map(read.columns.map((output, index) => [output.as, fetched.cells[index] ?? []]));
    return rowsOf(read, columns, fetched.rows);
  }

  private note(read: CompiledStatement, entry: LogEntry): void {
    const at = this.noted.get(read);
    const before = at === undefined ? undefined : this.log[at];
    if (at === undefined || before === undefined) {
      this.noted.set(read, this.log.length);
      this.log.push(entry);
      return;
    }
    this.log[at] = {
      ...before,
      times: before.times + 1,
      rows: before.rows + entry.rows,
      cells: before.cells + entry.cells,
      bytes: before.bytes + entry.bytes,
      milliseconds: before.milliseconds + entry.milliseconds,
    };
  }
}
