import Database from 'better-sqlite3';
import type { Problem } from '../engine.js';
import { beyondNumbers } from '../numbers.js';
import { NotRead } from '../plain-rows.js';

/**
 * A driver's error in words for a person: what is wrong with which file, and a way out
 * (result codes: https://www.sqlite.org/rescode.html). What no person can cause is thrown on.
 */
export function problemOf(error: unknown, file: string): Problem {
  if (error instanceof NotRead) return { code: 'refused', message: error.message };
  if (error instanceof Database.SqliteError) {
    const code = error.code;
    if (code.startsWith('SQLITE_NOTADB')) {
      return {
        code: 'not-a-database',
        message: `${file} is no SQLite database, or it is encrypted. Open it with the program that wrote it, and save it as an ordinary SQLite file.`,
      };
    }
    if (code.startsWith('SQLITE_CORRUPT')) {
      return {
        code: 'damaged',
        message: `${file} is damaged: SQLite cannot read all of its pages. Try “sqlite3 ${file} .recover” to save what is there into a new file.`,
      };
    }
    if (code.startsWith('SQLITE_CANTOPEN'))
      return { code: 'missing', message: `${file} cannot be opened. Is it there, and may this program read it?` };
    if (code.startsWith('SQLITE_BUSY') || code.startsWith('SQLITE_LOCKED'))
      return { code: 'busy', message: `${file} is in use by another program. Try again when that is done.` };
    if (code.startsWith('SQLITE_FULL') || code.startsWith('SQLITE_IOERR'))
      return { code: 'full', message: `${file} could not be read or written: the disk is full or failing.` };
    if (code === 'SQLITE_READONLY_ROLLBACK')
      return {
        code: 'refused',
        message: `A program that wrote to ${file} was ended halfway. What it left half done is taken back once somebody opens it who may write: sqlite3 ${file} "select count(*) from sqlite_schema".`,
      };
    if (code.startsWith('SQLITE_READONLY')) return { code: 'refused', message: `${file} is only looked at, never written.` };
    if (code.startsWith('SQLITE_CONSTRAINT')) return { code: 'constraint', message: `${file}: ${error.message}.` };
    if (/integer overflow/.test(error.message)) return { code: 'statement', message: beyondNumbers(file) };
    if (code === 'SQLITE_TOOBIG' || /string or blob too big/.test(error.message))
      return {
        code: 'statement',
        message: `${file}: the statement makes a text of more than 1,000,000,000 bytes, which SQLite cannot hold. Join or replace less.`,
      };
    const absent = /no such (table|column): (.+)$/.exec(error.message);
    if (absent !== null)
      return {
        code: 'statement',
        message: `${file} has no ${absent[1]} ${absent[2]}: the text has it, and this database has not.`,
      };
    return { code: 'statement', message: `SQLite could not run the statement on ${file}: ${error.message}.` };
  }
  if (error instanceof TypeError && /directory does not exist/.test(error.message)) {
    return { code: 'missing', message: `The folder of ${file} is not there. Make it first.` };
  }
  if (error instanceof RangeError && error.message === 'integer overflow')
    return { code: 'statement', message: beyondNumbers(file) };
  if (error instanceof RangeError && /string longer|Invalid string length/i.test(error.message)) {
    return { code: 'statement', message: 'The answer is larger than a text can be. Ask for fewer rows or fields.' };
  }
  throw error;
}
