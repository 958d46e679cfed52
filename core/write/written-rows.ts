import type { Walled } from '../walls/index.js';
import type { RowAt } from './row-at.js';

/** A row that was written on behalf of somebody. */
export interface WrittenFor extends RowAt {
  /** Whoever it was written for, as they were when they were looked up. */
  readonly actor: Walled;
  /** The last command that wrote it, counted from 0. */
  readonly line: number;
}

/** The rows that commands put in or changed on behalf of somebody, each once; those that went again are none of them. */
export class WrittenRows {
  private readonly rows = new Map<string, WrittenFor>();

  note(row: WrittenFor): void {
    this.rows.set(nameOf(row), row);
  }

  forget(row: RowAt): void {
    this.rows.delete(nameOf(row));
  }

  /** All of them, which are then looked after. */
  take(): readonly WrittenFor[] {
    const rows = Array.from(this.rows.values());
    this.rows.clear();
    return rows;
  }
}

function nameOf({ entity, key }: RowAt): string {
  return `${entity} ${String(key)}`;
}
