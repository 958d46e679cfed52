import type { Dialect } from '../../core/dialects/index.js';
import { fetch, loadByBatch, type Statement, type StatementResult } from '../../core/load/index.js';
import type { BoundParameter } from '../../core/values/index.js';
import { driveLater } from '../driver.js';
import type { Introspection, LoadedText, MakeReport, PlanStep, Problem, ScriptReport } from '../engine.js';
import type { Ask } from '../protocol.js';
import { answerCells, answerText } from '../sized.js';
import type { Connection, Positional, RawRows } from './connection.js';

/** What differs from one kind of server to another. */
export interface ServerKind {
  readonly dialect: Dialect;
  positional(sql: string, parameters: Readonly<Record<string, BoundParameter>>): Positional;
  /** Begins a transaction that only reads, and sees one state. */
  readonly beginReading: readonly string[];
  /** Lets a connection write that has only read before. */
  readonly beginWriting: readonly string[];
  explain(connection: Connection, statement: Positional): Promise<PlanStep[]>;
  introspect(connection: Connection, schemas: readonly string[] | null): Promise<Introspection>;
  make(connection: Connection, request: Extract<Ask, { kind: 'make' }>['request'], running: Running): Promise<MakeReport>;
  runScript(connection: Connection, path: string, running: Running): Promise<ScriptReport>;
  /** A driver's error in words for a person. @throws the error itself where no person can cause it */
  problemOf(error: unknown, label: string): Problem;
}

/** Is told which statement is at work, in case it never comes back. */
export type Running = (sql: string) => void;

/** Answers one call of an engine over a connection. */
export async function answer(kind: ServerKind, connection: Connection, ask: Ask, running: Running): Promise<unknown> {
  const run = async (sql: string, parameters: Readonly<Record<string, BoundParameter>>): Promise<RawRows> => {
    running(sql);
    const statement = kind.positional(sql, parameters);
    return connection.query(statement.sql, statement.values);
  };
  const execute = async ({ sent, parameters }: Statement): Promise<StatementResult> => {
    const started = performance.now();
    const rows = await run(sent, parameters);
    return { rows, milliseconds: performance.now() - started };
  };
  switch (ask.kind) {
    case 'load':
      return reading(kind, connection, async () => {
        const sent: Statement[] = [];
        const loaded = await driveLater(loadByBatch(kind.dialect, ask.request), async (statement) => {
          sent.push(statement);
          return execute(statement);
        });
        const log: LoadedText['log'][number][] = [];
        for (const [index, entry] of loaded.log.entries()) {
          const statement = sent[index];
          const steps =
            statement === undefined
              ? []
              : await kind.explain(connection, kind.positional(statement.sent, statement.parameters)).catch(() => []);
          log.push({ ...entry, steps });
        }
        const { text, rows, cut } = answerText(loaded.rows);
        const value: LoadedText = { text, rows, log, cuts: cut === null ? loaded.cuts : [...loaded.cuts, cut] };
        return value;
      });
    case 'fetch': {
      const { cells, cut } = await reading(kind, connection, () => driveLater(fetch(kind.dialect, ask.request), execute));
      return answerCells({ cells, cut });
    }
    case 'introspect':
      return reading(kind, connection, () => kind.introspect(connection, ask.schemas));
    case 'make':
      await writing(kind, connection);
      return kind.make(connection, ask.request, running);
    case 'script':
      await writing(kind, connection);
      return kind.runScript(connection, ask.path, running);
    case 'execute':
      await writing(kind, connection);
      for (const statement of ask.statements) await connection.query(statement);
      return null;
    case 'read':
      return reading(kind, connection, () => run(ask.sql, ask.parameters));
  }
}

async function writing(kind: ServerKind, connection: Connection): Promise<void> {
  for (const statement of kind.beginWriting) await connection.query(statement);
}

/** All statements of one answer see the same state of the database, and none can write. */
async function reading<T>(kind: ServerKind, connection: Connection, work: () => Promise<T>): Promise<T> {
  for (const statement of kind.beginReading) await connection.query(statement);
  try {
    const value = await work();
    await connection.query('commit');
    return value;
  } catch (error) {
    await connection.query('rollback').catch(() => null);
    throw error;
  }
}
