import { rename, rm } from 'node:fs/promises';
import Database from 'better-sqlite3';
import type { Outcome } from '../engine.js';
import { problemOf } from './problems.js';

/** How far a copy is, in pages of the file. */
export interface CopyProgress {
  readonly done: number;
  readonly of: number;
}

/** So many pages are copied before others are let in (https://www.sqlite.org/backup.html, “Online Backup Of A Running Database”). */
const PAGES_AT_ONCE = 2000;

/**
 * Copies a database, as it is at one moment, into a file of its own, while others go on with it. The file is there whole or not at all;
 * one that is there already is replaced.
 */
export async function copySqlite(
  path: string,
  to: string,
  {
    label,
    signal,
    progress,
  }: { readonly label: string; readonly signal?: AbortSignal; readonly progress?: (done: CopyProgress) => void },
): Promise<Outcome<null>> {
  const partial = `${to}.part`;
  try {
    await rm(partial, { force: true });
    const db = new Database(path, { readonly: true, fileMustExist: true });
    try {
      await db.backup(partial, {
        progress: ({ totalPages, remainingPages }) => {
          progress?.({ done: totalPages - remainingPages, of: totalPages });
          if (signal?.aborted === true) throw new Error(STOPPED);
          return PAGES_AT_ONCE;
        },
      });
    } finally {
      db.close();
    }
    await rename(partial, to);
    return { ok: true, value: null };
  } catch (error) {
    await rm(partial, { force: true });
    if (error instanceof Error && error.message === STOPPED) return { ok: false, problem: { code: 'ended', message: STOPPED } };
    return { ok: false, problem: problemOf(error, label) };
  }
}

const STOPPED = 'Stopped.';
