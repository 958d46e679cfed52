import { randomUUID } from 'node:crypto';

const MOST = 20;

/** Things of trees that wait for a person’s word, each under an identifier of its own; of too many the oldest go. */
export class Waiting<Thing extends { readonly tree: string }> {
  private readonly things = new Map<string, Thing>();

  /** Keeps one under an identifier of its own; gives with it those that are dropped for being the oldest of too many. */
  add(thing: Thing): { readonly id: string; readonly dropped: readonly Thing[] } {
    const id = randomUUID();
    this.things.set(id, thing);
    const oldest = Array.from(this.things).slice(0, Math.max(0, this.things.size - MOST));
    for (const [old] of oldest) this.things.delete(old);
    return { id, dropped: oldest.map(([, dropped]) => dropped) };
  }

  /** The one of a tree that has this identifier; null where it waits no more. */
  of(tree: string, id: string): Thing | null {
    const thing = this.things.get(id);
    return thing?.tree === tree ? thing : null;
  }

  /** It waits no more. */
  remove(id: string): void {
    this.things.delete(id);
  }
}
