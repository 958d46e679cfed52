import { closeSync, openSync, readFileSync, rmSync, writeSync } from 'node:fs';

/**
 * Takes a folder for this process alone: two engines over one folder would destroy it. A lock whose process is gone is
 * taken over.
 *
 * @returns what gives the folder free again; null where a running process has it
 */
export function lockFolder(file: string): (() => void) | null {
  for (let attempt = 0; attempt < 2; attempt++) {
    try {
      const opened = openSync(file, 'wx');
      writeSync(opened, String(process.pid));
      closeSync(opened);
      return () => rmSync(file, { force: true });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      if (isRunning(readFileSync(file, 'utf8'))) return null;
      rmSync(file, { force: true });
    }
  }
  return null;
}

function isRunning(written: string): boolean {
  const id = Number(written);
  if (!Number.isInteger(id) || id <= 0 || id === process.pid) return false;
  try {
    process.kill(id, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}
