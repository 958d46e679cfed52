import Database from 'better-sqlite3';
import type { OpenMode } from '../protocol.js';

/**
 * Opens a database with the settings that every answer depends on. A file, or the bytes of one.
 * @throws what the driver throws, where it is no database or cannot be read
 */
export function openDatabase(file: string | Buffer, mode: OpenMode): Database.Database {
  const looks = mode === 'look';
  const opened = new Database(file, { readonly: looks, fileMustExist: mode !== 'make' });
  try {
    opened.pragma('trusted_schema = off');
    opened.pragma('foreign_keys = on');
    opened.pragma('recursive_triggers = on');
    opened.pragma('case_sensitive_like = on');
    if (looks) opened.pragma('query_only = on');
    else opened.pragma(`journal_mode = ${mode === 'make' ? 'wal' : 'delete'}`);
    readCatalogue(opened, looks);
    return opened;
  } catch (error) {
    opened.close();
    throw error;
  }
}

/**
 * A file that is no database is found out at the first read only. One whose catalogue holds an entry that makes no sense
 * is read without that entry (https://www.sqlite.org/pragma.html#pragma_writable_schema); what is left out is told.
 */
function readCatalogue(opened: Database.Database, looks: boolean): void {
  const read = () => opened.prepare('select count(*) from sqlite_schema').get();
  try {
    read();
  } catch (error) {
    const malformed = error instanceof Database.SqliteError && /malformed database schema/.test(error.message);
    if (!malformed || !looks) throw error;
    opened.unsafeMode(true);
    opened.pragma('writable_schema = on');
    read();
  }
}
