import type { Wire } from '../values/index.js';

/** Remembers the values that stand in a table under each of its uniques. */
export class UniqueKeeper {
  private readonly seen = new Map<string, Set<string>>();

  constructor(private readonly groups: readonly { readonly columns: readonly string[] }[]) {}

  /** The first unique that these values would break; null where none. A null never equals another. */
  broken(values: ReadonlyMap<string, Wire>): { readonly columns: readonly string[] } | null {
    return (
      this.groups.find((group) => {
        const key = keyOf(group.columns, values);
        return key !== null && this.seen.get(group.columns.join())?.has(key) === true;
      }) ?? null
    );
  }

  add(values: ReadonlyMap<string, Wire>): void {
    for (const { columns } of this.groups) {
      const key = keyOf(columns, values);
      if (key === null) continue;
      const name = columns.join();
      const known = this.seen.get(name) ?? new Set<string>();
      known.add(key);
      this.seen.set(name, known);
    }
  }

  /** Takes values out that were added. */
  remove(values: ReadonlyMap<string, Wire>): void {
    for (const { columns } of this.groups) {
      const key = keyOf(columns, values);
      if (key !== null) this.seen.get(columns.join())?.delete(key);
    }
  }
}

function keyOf(columns: readonly string[], values: ReadonlyMap<string, Wire>): string | null {
  const parts = columns.map((column) => values.get(column) ?? null);
  return parts.includes(null) ? null : JSON.stringify(parts);
}
