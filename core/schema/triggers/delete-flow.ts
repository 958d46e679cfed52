import type { TableBuilder } from '../tables.js';
import type { Link } from './links.js';

/** Which tables a delete goes on to: over foreign keys that cascade, and over keys whose cascades triggers carry out. */
export class DeleteFlow {
  private readonly below = new Map<TableBuilder, Set<TableBuilder>>();

  /** @param parts tables that hold a part of their rows: where something deletes that, the rest goes too */
  constructor(
    links: readonly Link[],
    tables: Iterable<TableBuilder>,
    parts: ReadonlyMap<TableBuilder, { readonly table: TableBuilder; readonly key: readonly string[] }>,
  ) {
    const all = Array.from(tables);
    const byName = new Map(all.map((table) => [table.name.name.toLowerCase(), table]));
    const goesOn = (parent: TableBuilder, table: TableBuilder, columns: readonly string[]) => {
      this.add(parent, table);
      const whole = parts.get(table);
      if (whole !== undefined && columns.join('\n') !== whole.key.join('\n')) this.add(parent, whole.table);
    };
    for (const table of all) {
      for (const key of table.cascadesTaken()) {
        const parent = byName.get(key.table.toLowerCase());
        if (parent !== undefined) goesOn(parent, table, key.columns);
      }
    }
    for (const { onDelete, keyed, places, table, columns } of links) {
      if (keyed || onDelete !== 'cascade') continue;
      for (const place of places) if (place.table !== null) goesOn(place.table, table, columns);
    }
  }

  /** Whether a delete in one table can go on to another; it always reaches the table that it is of. */
  reaches(from: TableBuilder, to: TableBuilder): boolean {
    const reached = new Set([from]);
    for (const table of reached) for (const next of this.below.get(table) ?? []) reached.add(next);
    return reached.has(to);
  }

  private add(from: TableBuilder, to: TableBuilder): void {
    const tables = this.below.get(from) ?? new Set();
    this.below.set(from, tables.add(to));
  }
}
