import type { BrokenConstraint, EachResult, EachStep, WriteRefusal } from '../../core/write/index.js';
import type { WriteResult, WriteStep } from '../writing.js';
import type { Connection } from './connection.js';
import type { Running } from './running.js';
import { shortened } from './script.js';

/** How a kind of server writes within a transaction. */
export interface WritingKind {
  readonly begin: readonly string[];
  /** Whether a statement that makes a table commits what was done before it, and itself. */
  readonly definesCommit: boolean;
  /** Whether a statement that is refused ends the transaction, but for what stands behind a savepoint. */
  readonly refusalEnds: boolean;
  /** Runs a statement that changes rows, and gives how many. */
  changed(connection: Connection, step: WriteStep): Promise<number>;
  /** A table that is written at once, whatever is taken back afterwards; null where there is none. */
  tableWithoutTransactions(connection: Connection): Promise<string | null>;
  /** What refused a row; null for an error that is none of a row. */
  refusedBy(error: unknown): BrokenConstraint | null;
}

const SAVEPOINT = 'before_attempt';

/** A transaction on a server that writes. */
export class WriteTransaction {
  readonly #kind: WritingKind;
  readonly #connection: Connection;
  readonly #running: Running;
  #open = false;

  constructor(kind: WritingKind, connection: Connection, running: Running) {
    this.#kind = kind;
    this.#connection = connection;
    this.#running = running;
  }

  /** Begins it, where it is not begun. */
  async begin(): Promise<void> {
    if (this.#open) return;
    for (const statement of this.#kind.begin) await this.#connection.query(statement);
    this.#open = true;
  }

  async commit(): Promise<void> {
    if (this.#open) await this.#connection.query('commit');
    this.#open = false;
  }

  /** Takes back what was done, as far as the server can. */
  async rollback(): Promise<void> {
    if (this.#open) await this.#connection.query('rollback').catch(() => null);
    this.#open = false;
  }

  async run(step: WriteStep): Promise<WriteResult> {
    // Of many rows only the beginning is told: their placeholders say nothing.
    this.#running(step.kind === 'attempt' ? shortened(step.sql) : step.sql);
    if (step.kind === 'define' && this.#kind.definesCommit) await this.commit();
    else await this.begin();
    switch (step.kind) {
      case 'mark':
      case 'define':
        await this.#connection.query(step.sql, step.values);
        return NOTHING;
      case 'read':
        return { ...NOTHING, rows: await this.#connection.query(step.sql, step.values) };
      case 'write':
        return { ...NOTHING, changed: await this.#kind.changed(this.#connection, step) };
      case 'attempt':
        return this.#attempt(step);
    }
  }

  /** Carries out one change with other values many times over. */
  async runEach({ sql, values, gives }: EachStep): Promise<EachResult> {
    const refusals = new Map<number, WriteRefusal>();
    const rows = new Map<number, readonly unknown[]>();
    for (const [at, own] of values.entries()) {
      const { refusal, rows: given } = await this.run({ kind: 'attempt', sql, values: own, gives });
      const [first] = given;
      if (refusal !== null) refusals.set(at, refusal);
      else if (first !== undefined) rows.set(at, first);
    }
    return { refusals, rows };
  }

  async #attempt(step: WriteStep): Promise<WriteResult> {
    const { sql, values, gives } = step;
    const { refusalEnds, refusedBy } = this.#kind;
    if (refusalEnds) await this.#connection.query(`savepoint ${SAVEPOINT}`);
    try {
      const changed = gives === 'count' ? await this.#kind.changed(this.#connection, step) : 0;
      const rows = gives === 'count' ? [] : await this.#connection.query(sql, values);
      if (refusalEnds) await this.#connection.query(`release savepoint ${SAVEPOINT}`);
      return { ...NOTHING, rows: gives === 'rows' ? rows : [], changed };
    } catch (error) {
      const broken = refusedBy(error);
      if (broken === null) throw error;
      if (refusalEnds) await this.#connection.query(`rollback to savepoint ${SAVEPOINT}`);
      return { ...NOTHING, refusal: { ...broken, whateverRow: false } };
    }
  }
}

const NOTHING: WriteResult = { rows: [], changed: 0, refusal: null };
