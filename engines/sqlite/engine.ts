import { basename } from 'node:path';
import { fileURLToPath } from 'node:url';
import { askingEngine } from '../asking.js';
import { openChild } from '../child.js';
import type { Engine } from '../engine.js';
import type { OpenMode } from '../protocol.js';

export interface SqliteOptions {
  readonly path: string;
  readonly mode: OpenMode;
  /** What a person calls this database, in messages; the file's name where none is given. */
  readonly label?: string;
  /** How long one call may take. */
  readonly milliseconds: number;
}

const OWN_FILE = fileURLToPath(import.meta.url);
const CHILD_FILE = fileURLToPath(new URL(OWN_FILE.endsWith('.ts') ? './child.ts' : './child.js', import.meta.url));
const MOST_MEMORY_MB = 2048;

/** A SQLite database in a child process: better-sqlite3 cannot be interrupted. The file stays sound when it is ended. */
export function openSqlite(options: SqliteOptions): Engine {
  const { path, mode, label = basename(path), milliseconds } = options;
  const child = openChild({ file: CHILD_FILE, args: [path, mode, label], milliseconds, memoryMegabytes: MOST_MEMORY_MB });
  return { ...askingEngine('sqlite', (ask) => child.call(ask, null)), stop: child.stop, close: child.close };
}
