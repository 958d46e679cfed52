import { chmodSync, closeSync, existsSync, openSync, renameSync } from 'node:fs';
import Database from 'better-sqlite3';
import { Store } from './store.js';

export interface OpenedStore {
  readonly store: Store;
  /** Where a store that is damaged was moved to; null where it was sound, or there was none. */
  readonly aside: string | null;
}

/** Opens the store, or begins one. One that is damaged is kept under another name, and nothing of it is touched. */
export function openStore(path: string): OpenedStore {
  if (existsSync(path) && isDamaged(path)) {
    const aside = `${path}.damaged-${new Date().toISOString().replace(/[-:]/g, '').replace(/\..*$/, '')}`;
    for (const suffix of ['', '-wal', '-shm'])
      if (existsSync(`${path}${suffix}`)) renameSync(`${path}${suffix}`, `${aside}${suffix}`);
    return { store: ownStore(path), aside };
  }
  return { store: ownStore(path), aside: null };
}

/** A store whose file its owner alone may read; what SQLite puts beside it has the same rights. */
function ownStore(path: string): Store {
  closeSync(openSync(path, 'a', 0o600));
  chmodSync(path, 0o600);
  return new Store(path);
}

/** Whether a file is no database, or one whose pages contradict each other (https://www.sqlite.org/pragma.html#pragma_quick_check). */
function isDamaged(path: string): boolean {
  try {
    const database = new Database(path);
    try {
      return database.pragma('quick_check(1)', { simple: true }) !== 'ok';
    } finally {
      database.close();
    }
  } catch (error) {
    if (error instanceof Database.SqliteError && /^SQLITE_(CORRUPT|NOTADB)/.test(error.code)) return true;
    throw error;
  }
}
