/** What a page of the grid is held by: what it is read with, and what lets it go. */
export interface HeldPage<Select> {
  readonly select: Select;
  letGo(): void;
}

/**
 * The pages that a grid holds: those it saw last, and never more than so many. All that is held is asked for again when the rows
 * change, so that the number is small.
 */
export class KeptPages<Select> {
  readonly #most: number;
  readonly #held = new Map<number, HeldPage<Select>>();

  constructor(most: number) {
    this.#most = most;
  }

  /** Holds a page, as the one that was seen last; the one that was seen longest ago goes, where they are too many. */
  hold(page: number, take: () => HeldPage<Select>): void {
    const held = this.#held.get(page) ?? take();
    this.#held.delete(page);
    this.#held.set(page, held);
    const [oldest] = this.#held;
    if (this.#held.size > this.#most && oldest !== undefined) {
      this.#held.delete(oldest[0]);
      oldest[1].letGo();
    }
  }

  /** What a page is read with; null where it is not held. */
  select(page: number): Select | null {
    return this.#held.get(page)?.select ?? null;
  }

  letGoOfAll(): void {
    for (const { letGo } of this.#held.values()) letGo();
    this.#held.clear();
  }
}
