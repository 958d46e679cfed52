import { rename, stat } from 'node:fs/promises';

/**
 * Moves a file or a folder that is broken out of the way, under a name that says so, with what an engine keeps beside it.
 *
 * @returns where it is now; null where it is not there, or cannot be moved
 */
export async function setAside(path: string): Promise<string | null> {
  const there = await stat(path).catch(() => null);
  if (there === null) return null;
  const moment = new Date().toISOString().replace(/[-:]/g, '').replace(/\..*$/, '');
  const aside = `${path}.broken-${moment}`;
  try {
    await rename(path, aside);
    for (const suffix of ['-wal', '-shm', '-journal'])
      await rename(`${path}${suffix}`, `${aside}${suffix}`).catch(() => undefined);
    return aside;
  } catch {
    return null;
  }
}
