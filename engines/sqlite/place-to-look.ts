import { constants } from 'node:fs';
import { copyFile, open, stat } from 'node:fs/promises';
import type { Outcome } from '../engine.js';
import { openSqlite } from './engine.js';

/** Where a database is looked at. */
export interface PlaceToLook {
  readonly path: string;
  /** Why it is a copy; null where it is the file itself. */
  readonly copied: string | null;
}

const LONGEST_COPY = 600_000;
/** The bytes of the header that say how a file is written: 2 is a write-ahead log (https://www.sqlite.org/fileformat.html#file_format_version_numbers). */
const FORMAT_VERSIONS = 18;

/**
 * Where a file can be looked at without anything being written to it or beside it: itself, or a copy where reading it
 * in place would leave files there, or where another program left a transaction half done.
 *
 * @param copy where the copy would go
 */
export async function placeToLook(path: string, copy: string): Promise<Outcome<PlaceToLook>> {
  const journal = await sizeOf(`${path}-journal`);
  const log = await sizeOf(`${path}-wal`);
  const reason =
    journal > 0
      ? 'a program left a transaction half done beside it, which is taken back in the copy'
      : (await isLogged(path))
        ? 'it is kept with a write-ahead log, and to read it in place would write beside it'
        : null;
  if (reason === null) return { ok: true, value: { path, copied: null } };
  try {
    for (const [suffix, size] of [
      ['', 1],
      ['-journal', journal],
      ['-wal', log],
    ] as const)
      if (size > 0) await copyFile(`${path}${suffix}`, `${copy}${suffix}`, constants.COPYFILE_FICLONE);
  } catch (error) {
    const full = (error as NodeJS.ErrnoException).code === 'ENOSPC';
    return {
      ok: false,
      problem: {
        code: full ? 'full' : 'missing',
        message: `${path} could not be copied: ${full ? 'the disk is full' : 'it cannot be read'}.`,
      },
    };
  }
  const engine = openSqlite({ path: copy, mode: 'settle', milliseconds: LONGEST_COPY, label: path });
  try {
    const settled = await engine.introspect();
    return settled.ok ? { ok: true, value: { path: copy, copied: reason } } : settled;
  } finally {
    await engine.close();
  }
}

async function sizeOf(path: string): Promise<number> {
  return stat(path).then(
    ({ size }) => size,
    () => 0,
  );
}

async function isLogged(path: string): Promise<boolean> {
  const file = await open(path).catch(() => null);
  if (file === null) return false;
  try {
    const { buffer } = await file.read(Buffer.alloc(2), 0, 2, FORMAT_VERSIONS);
    return buffer[0] === 2 || buffer[1] === 2;
  } finally {
    await file.close();
  }
}
