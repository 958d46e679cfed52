/** The child process that holds one SQLite database, so that a runaway statement can be ended by ending it. */
import type Database from 'better-sqlite3';
import { sqliteDialect } from '../../core/dialects/index.js';
import type { Statement, StatementResult } from '../../core/load/index.js';
import { computationOfSent } from '../../core/runs/index.js';
import { drive } from '../driver.js';
import type { Outcome } from '../engine.js';
import { fileProblemOf } from '../lines-in.js';
import type { Ask, AskMessage, ChildMessage, OpenMode, ToChild } from '../protocol.js';
import { askSent } from '../sent-plans.js';
import { apply } from './apply.js';
import { carryOutCommands, putLinesIn, takeBackCommands } from './commands.js';
import { explain } from './explain.js';
import { introspect } from './introspect.js';
import { make } from './make.js';
import { MADE_HERE } from './mark.js';
import { openDatabase } from './open.js';
import { readPlain } from './plain.js';
import { problemOf } from './problems.js';
import { runScript } from './run-script.js';
import { statementOf } from './statements.js';

const [path = '', mode = 'look', label = '', mostBytes = '0'] = process.argv.slice(2);
let database: Database.Database | null = null;

function open(): Database.Database {
  database ??= openDatabase(path, mode as OpenMode, Number(mostBytes));
  return database;
}

const send = (message: ChildMessage) => process.send?.(message);

function executor(db: Database.Database, id: number): (statement: Statement) => StatementResult {
  return ({ sent, plain, parameters, explained }) => {
    send({ kind: 'running', id, sql: plain });
    const started = performance.now();
    const rows = statementOf(db, sent).raw().all(parameters) as unknown[][];
    const milliseconds = performance.now() - started;
    return { rows, milliseconds, steps: explained === 'not' ? [] : explain(db, plain, explained), refused: null };
  };
}

/** Reads in a session that has said something, which goes with the transaction: what it makes is temporary, and beside the file. */
function inSession<T>(db: Database.Database, said: readonly string[], read: () => T): T {
  if (said.length === 0) return read();
  const only = db.pragma('query_only', { simple: true });
  // A file that is only looked at is opened so, too: this keeps from temporary tables alone.
  db.pragma('query_only = off');
  db.exec('begin');
  try {
    for (const statement of said) db.prepare(statement).run();
    return read();
  } finally {
    db.exec('rollback');
    db.pragma(`query_only = ${only}`);
  }
}

/** The call that is to come to an end, where one is. */
let stopped: number | null = null;

function answer(id: number, ask: Ask): unknown {
  const db = open();
  switch (ask.kind) {
    case 'run':
      // One read transaction: all statements of a run see the same state.
      return inSession(db, ask.said, () =>
        db.transaction(() => drive(computationOfSent(sqliteDialect, ask.sent), executor(db, id)))(),
      );
    case 'statement':
      return inSession(db, ask.said, () => executor(db, id)(ask.statement));
    case 'answers':
      db.prepare('select count(*) from sqlite_schema').get();
      return null;
    case 'made here':
      return db.pragma('application_id', { simple: true }) === MADE_HERE;
    case 'introspect':
      return introspect(db);
    case 'make':
      return make(db, ask.request, (sql) => send({ kind: 'running', id, sql }));
    case 'commands':
    case 'take back': {
      const writing = { db, running: (sql: string) => send({ kind: 'running', id, sql }), execute: executor(db, id) };
      return ask.kind === 'commands' ? carryOutCommands(writing, ask.request) : takeBackCommands(writing, ask.request);
    }
    case 'lines in':
      return putLinesIn({ db, running: (sql) => send({ kind: 'running', id, sql }), execute: executor(db, id) }, ask.request, {
        progress: (done) => send({ kind: 'progress', id, done }),
        isStopped: () => stopped === id,
      });
    case 'apply':
      return apply(db, ask.request, (sql) => send({ kind: 'running', id, sql }), {
        progress: (done) => send({ kind: 'progress', id, done }),
        isStopped: () => stopped === id,
      });
    case 'script': {
      const report = runScript(db, ask.path, (sql) => send({ kind: 'running', id, sql }));
      // One file, with nothing beside it, is easier to keep.
      db.pragma('journal_mode = delete');
      return report;
    }
    case 'execute':
      for (const statement of ask.statements) db.prepare(statement).run();
      return null;
    case 'plain':
      send({ kind: 'running', id, sql: ask.statement.sql });
      return readPlain(db, mode as OpenMode, ask.statement, ask.most);
    case 'read':
      send({ kind: 'running', id, sql: ask.sql });
      return inSession(db, ask.said, () => db.prepare(ask.sql).raw().all(ask.parameters));
  }
}

async function handle(message: AskMessage): Promise<void> {
  const { id } = message;
  const ask = askSent(message);
  let outcome: Outcome<unknown>;
  try {
    outcome = { ok: true, value: await answer(id, ask) };
  } catch (error) {
    outcome = { ok: false, problem: fileProblemOf(error) ?? problemOf(error, label) };
  }
  send({ kind: 'done', id, outcome });
}

// Whoever asks waits for each answer before the next question.
process.on('message', (message: ToChild) => {
  if (message.kind === 'stop') stopped = message.id;
  else void handle(message);
});

process.on('disconnect', () => {
  // One file, with no log beside it, can be sent about and read where nothing may be written.
  if (mode === 'make') database?.pragma('journal_mode = delete');
  database?.close();
  process.exit(0);
});
