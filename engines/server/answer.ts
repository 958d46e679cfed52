import type { Dialect } from '../../core/dialects/index.js';
import type { Explained, PlanStep, Statement, StatementResult } from '../../core/load/index.js';
import { computationOfSent } from '../../core/runs/index.js';
import type { BoundParameter } from '../../core/values/index.js';
import { driveLater } from '../driver.js';
import type { Introspection, MakeReport, Problem, ScriptReport } from '../engine.js';
import type { Ask } from '../protocol.js';
import type { Telling } from '../telling.js';
import { type ApplyingKind, apply } from './apply.js';
import { carryOutCommands, putLinesIn, takeBackCommands } from './commands.js';
import type { Connection, Positional, RawRows } from './connection.js';
import { type ReadingKind, readPlain } from './plain.js';
import type { Running } from './running.js';
import type { WritingKind } from './writing.js';

/** The parts of an engine that differ from one kind of server to another. */
export interface ServerKind extends ReadingKind {
  readonly dialect: Dialect;
  positional(sql: string, parameters: Readonly<Record<string, BoundParameter>>): Positional;
  /** Begins a transaction that only reads, and sees one state. */
  readonly beginReading: readonly string[];
  /** Lets a connection write that has only read before. */
  readonly beginWriting: readonly string[];
  introspect(connection: Connection, schemas: readonly string[] | null): Promise<Introspection>;
  make(connection: Connection, request: Extract<Ask, { kind: 'make' }>['request'], running: Running): Promise<MakeReport>;
  /** How it writes within a transaction. */
  readonly writing: WritingKind;
  /** How a plan of changes is carried out on it. */
  readonly applying: ApplyingKind;
  runScript(connection: Connection, path: string, running: Running): Promise<ScriptReport>;
  /** A driver's error in words for a person. @throws the error itself where no person can cause it */
  problemOf(error: unknown, label: string): Problem;
}

/** Answers one call of an engine over a connection. */
export async function answer(
  kind: ServerKind,
  connection: Connection,
  ask: Ask,
  running: Running,
  telling: Telling,
): Promise<unknown> {
  const run = async (sql: string, parameters: Readonly<Record<string, BoundParameter>>): Promise<RawRows> => {
    running(sql);
    const statement = kind.positional(sql, parameters);
    return connection.query(statement.sql, statement.values);
  };
  const execute = async ({ sent, parameters, explained }: Statement): Promise<StatementResult> => {
    const started = performance.now();
    const rows = await run(sent, parameters);
    const milliseconds = performance.now() - started;
    const steps = explained === 'not' ? [] : await explainedBy(kind, connection, kind.positional(sent, parameters), explained);
    return { rows, milliseconds, steps, refused: null };
  };
  switch (ask.kind) {
    case 'run':
      return reading(kind, connection, () => driveLater(computationOfSent(kind.dialect, ask.sent), execute), ask.said);
    case 'statement':
      return reading(kind, connection, () => execute(ask.statement), ask.said);
    case 'answers':
      await run('select 1', {});
      return null;
    // A server has no mark for it: what is made there is a database of this program's own, which knows what it is.
    case 'made here':
      return false;
    case 'introspect':
      return reading(kind, connection, () => kind.introspect(connection, ask.schemas));
    case 'make':
      await writing(kind, connection);
      return kind.make(connection, ask.request, running);
    case 'commands':
      await writing(kind, connection);
      return carryOutCommands({ ...kind, connection, running, execute }, ask.request);
    case 'lines in':
      await writing(kind, connection);
      return putLinesIn({ ...kind, connection, running, execute }, ask.request, telling);
    case 'take back':
      await writing(kind, connection);
      return takeBackCommands({ ...kind, connection, running, execute }, ask.request);
    case 'apply':
      await writing(kind, connection);
      return apply(kind, connection, ask.request, running, telling);
    case 'script':
      await writing(kind, connection);
      return kind.runScript(connection, ask.path, running);
    case 'execute':
      await writing(kind, connection);
      for (const statement of ask.statements) await connection.query(statement);
      return null;
    case 'plain':
      return reading(kind, connection, () => readPlain(kind, connection, ask, running));
    case 'read':
      return reading(kind, connection, () => run(ask.sql, ask.parameters), ask.said);
  }
}

/** How a server answers a statement; nothing where it cannot say. */
async function explainedBy(
  kind: ServerKind,
  connection: Connection,
  statement: Positional,
  explained: Explained,
): Promise<PlanStep[]> {
  return kind.explain(connection, statement, explained === 'measured').catch(() => []);
}

async function writing(kind: ServerKind, connection: Connection): Promise<void> {
  for (const statement of kind.beginWriting) await connection.query(statement);
}

/** All statements of one answer see the same state of the database, and none can write. */
async function reading<T>(
  kind: ServerKind,
  connection: Connection,
  work: () => Promise<T>,
  said: readonly string[] = [],
): Promise<T> {
  for (const statement of kind.beginReading) await connection.query(statement);
  try {
    for (const statement of said) await connection.query(statement);
    const value = await work();
    await connection.query('commit');
    return value;
  } catch (error) {
    await connection.query('rollback').catch(() => null);
    throw error;
  }
}
