import { closeSync, openSync, readFileSync, rmSync, writeSync } from 'node:fs';

/** The locks that this process holds. */
const held = new Set<string>();

/**
 * Takes a folder for this process alone, by a file in it or beside it: two programs over one folder would destroy it. A
 * lock whose process is gone is taken over.
 *
 * @returns what gives the folder free again; or the number of the process that has it
 */
export function lockFolder(file: string): (() => void) | number {
  for (let attempt = 0; attempt < 2; attempt++) {
    try {
      const opened = openSync(file, 'wx', 0o600);
      writeSync(opened, `${process.pid} ${startOf(process.pid)}`);
      closeSync(opened);
      held.add(file);
      return () => {
        held.delete(file);
        rmSync(file, { force: true });
      };
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      const holder = holderOf(file);
      if (holder !== null) return holder;
      rmSync(file, { force: true });
    }
  }
  return holderOf(file) ?? 0;
}

/** The running process that a lock names; null where that is gone. */
function holderOf(file: string): number | null {
  const [number, start = ''] = readFileSync(file, 'utf8').split(' ');
  const id = Number(number);
  if (!Number.isInteger(id) || id <= 0) return null;
  if (id === process.pid) return held.has(file) ? id : null;
  try {
    process.kill(id, 0);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EPERM') return null;
  }
  // Another program may have been given the number since.
  return start === '' || start === startOf(id) ? id : null;
}

/** When a process began, as Linux counts it; nothing where that is not known. */
function startOf(id: number): string {
  try {
    const stat = readFileSync(`/proc/${id}/stat`, 'utf8');
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
  } catch {
    return '';
  }
}
