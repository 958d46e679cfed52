import { readdirSync, readFileSync } from 'node:fs';

export interface FoundProcess {
  readonly id: number;
  /** Its program with its arguments. */
  readonly program: string;
}

/** The processes below one, at any depth, as Linux tells them (proc(5)). */
export function processesBelow(parent: number): FoundProcess[] {
  const children = new Map<number, FoundProcess[]>();
  for (const name of readdirSync('/proc')) {
    const id = Number(name);
    if (!Number.isInteger(id)) continue;
    try {
      const stat = readFileSync(`/proc/${id}/stat`, 'utf8');
      const above = Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ')[1]);
      const program = readFileSync(`/proc/${id}/cmdline`, 'utf8').replaceAll('\0', ' ');
      children.set(above, [...(children.get(above) ?? []), { id, program }]);
    } catch {
      // It ended meanwhile.
    }
  }
  const below = (id: number): FoundProcess[] => (children.get(id) ?? []).flatMap((child) => [child, ...below(child.id)]);
  return below(parent);
}
