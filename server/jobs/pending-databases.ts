import { randomUUID } from 'node:crypto';

const MOST = 20;

/** A database of a tree that was brought in again, until what changed in it is taken into the text. */
export interface PendingDatabase {
  readonly tree: string;
  /** Its file: a name in the data folder, or a path elsewhere. */
  readonly database: string;
}

/** Databases that were brought in again and wait for a person’s word. */
export class PendingDatabases<Pending extends PendingDatabase> {
  private readonly waiting = new Map<string, Pending>();

  /** Keeps one under an identifier of its own; gives with it those that are dropped for being the oldest of too many. */
  add(pending: Pending): { readonly id: string; readonly dropped: readonly Pending[] } {
    const id = randomUUID();
    this.waiting.set(id, pending);
    const oldest = Array.from(this.waiting).slice(0, Math.max(0, this.waiting.size - MOST));
    for (const [old] of oldest) this.waiting.delete(old);
    return { id, dropped: oldest.map(([, dropped]) => dropped) };
  }

  /** The one of a tree that has this identifier; null where it waits no more. */
  of(tree: string, id: string): Pending | null {
    const pending = this.waiting.get(id);
    return pending?.tree === tree ? pending : null;
  }

  /** It has been taken in. */
  remove(id: string): void {
    this.waiting.delete(id);
  }
}
