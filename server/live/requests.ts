import type { LiveRequestTold } from '../../contract/index.js';

/** As many requests of a tree are kept to be looked at. */
const MOST = 100;
/** As many characters of statements are kept of one. */
const LONGEST = 20_000;

/** The last requests that came to each tree’s endpoint: they are told, and never stored. */
export class LiveRequests {
  readonly #byTree = new Map<string, LiveRequestTold[]>();
  #number = 0;

  note(tree: string, request: Omit<LiveRequestTold, 'number'>): void {
    let left = LONGEST;
    const log = request.log.filter(({ plain }) => {
      left -= plain.length;
      return left > 0;
    });
    this.#number += 1;
    const before = this.#byTree.get(tree) ?? [];
    this.#byTree.set(tree, [{ ...request, log, number: this.#number }, ...before].slice(0, MOST));
  }

  of(tree: string): LiveRequestTold[] {
    return this.#byTree.get(tree) ?? [];
  }
}
