import { basename } from 'node:path';
import { sqliteDialect } from '../../core/dialects/index.js';
import { askingEngine, type Call } from '../asking.js';
import { openChild } from '../child.js';
import type { Engine, Problem } from '../engine.js';
import { programFile } from '../program-file.js';
import type { Ask, OpenMode } from '../protocol.js';

export interface SqliteOptions {
  readonly path: string;
  readonly mode: OpenMode;
  /** What a person calls this database, in messages; the file's name where none is given. */
  readonly label?: string;
  /** How long one call may take. */
  readonly milliseconds: number;
  /** How large the file may grow, in bytes. */
  readonly mostBytes?: number;
}

const CHILD_FILE = programFile('engines/sqlite/child');
const MOST_MEMORY_MB = 2048;

/** What is asked while somebody waits at a page. */
const SHORT = new Set<Ask['kind']>(['run', 'statement', 'read', 'answers']);

/** How a call ends whose process was ended with it. */
const LOST = new Set<Problem['code']>(['ended', 'timeout']);

/** What a file may grow to where nothing is said. */
const MOST_BYTES = 2 * 1024 ** 3;

/**
 * A SQLite database in a child process: better-sqlite3 cannot be interrupted. The file stays sound when it is ended. One
 * that is only looked at has a second process for short questions, so that a long one does not hold them up.
 */
export function openSqlite(options: SqliteOptions): Engine {
  const { path, mode, label = basename(path), milliseconds, mostBytes = MOST_BYTES } = options;
  const open = () =>
    openChild({
      file: CHILD_FILE,
      args: [path, mode, label, String(mostBytes)],
      milliseconds,
      memoryMegabytes: MOST_MEMORY_MB,
    });
  const long = open();
  const short = mode === 'look' ? open() : long;
  const call: Call = async (ask, options = {}) => {
    const outcome = await (SHORT.has(ask.kind) && options.patient !== true ? short : long).call<never>(ask, null, options);
    // What a process that was ended left half done is taken back by the next that may write: those that only look cannot.
    if (mode === 'write' && !outcome.ok && LOST.has(outcome.problem.code)) await long.call({ kind: 'answers' }, null);
    return outcome;
  };
  return askingEngine(sqliteDialect, call, async () => {
    await Promise.all(Array.from(new Set([long, short]), (child) => child.close()));
  });
}
