import type { TreeEvent } from '../../contract/index.js';

/** Tells whoever has a tree open what happens to it. */
export class TreeEvents {
  private readonly listeners = new Map<string, Set<(event: TreeEvent) => void>>();

  /** Listens until the function that is given back is called. */
  listen(tree: string, listener: (event: TreeEvent) => void): () => void {
    const listeners = this.listeners.get(tree) ?? new Set();
    this.listeners.set(tree, listeners.add(listener));
    return () => {
      listeners.delete(listener);
      if (listeners.size === 0) this.listeners.delete(tree);
    };
  }

  send(tree: string, event: TreeEvent): void {
    for (const listener of this.listeners.get(tree) ?? []) listener(event);
  }
}
