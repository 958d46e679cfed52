import Database from 'better-sqlite3';
import type { OpenMode } from '../protocol.js';
import { addDecimals } from './decimals.js';

/** How many databases one connection can attach, as the driver is built (SQLITE_MAX_ATTACHED). */
const MOST_ATTACHED = 10;
/** What the engine itself may hold in memory (https://www.sqlite.org/pragma.html#pragma_hard_heap_limit). */
const MOST_MEMORY = 1024 ** 3;

/**
 * Opens a database with the settings that every answer depends on, and by which no statement reaches another file. A file,
 * or the bytes of one.
 *
 * @param mostBytes how large the file may grow; as large as the engine can where it is 0
 * @throws what the driver throws, where it is no database or cannot be read
 */
export function openDatabase(file: string | Buffer, mode: OpenMode, mostBytes = 0): Database.Database {
  const looks = mode === 'look';
  const opened = new Database(file, { readonly: looks, fileMustExist: mode !== 'make' });
  try {
    opened.pragma('trusted_schema = off');
    opened.pragma('temp_store = memory');
    opened.pragma(`hard_heap_limit = ${MOST_MEMORY}`);
    opened.pragma('foreign_keys = on');
    opened.pragma('recursive_triggers = on');
    opened.pragma('case_sensitive_like = on');
    if (looks) opened.pragma('query_only = on');
    // A file of somebody's own keeps the journal that it has.
    else if (mode !== 'write') opened.pragma(`journal_mode = ${mode === 'make' ? 'wal' : 'delete'}`);
    addDecimals(opened);
    readCatalogue(opened, looks);
    fillPlaces(opened);
    if (mostBytes > 0) opened.pragma(`max_page_count = ${Math.ceil(mostBytes / pageSize(opened))}`);
    return opened;
  } catch (error) {
    opened.close();
    throw error;
  }
}

/**
 * Takes every place that another database could be attached at, since the driver has no way to set their number to none.
 * VACUUM INTO, which writes a file, needs one too (https://www.sqlite.org/limits.html, “Maximum Number Of Attached Databases”).
 */
function fillPlaces(opened: Database.Database): void {
  for (let place = 1; place <= MOST_ATTACHED; place++) opened.prepare(`attach ':memory:' as taken_${place}`).run();
}

function pageSize(opened: Database.Database): number {
  return Number(opened.pragma('page_size', { simple: true }));
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
