import type { PlainLimits, PlainRows, PlainValue } from './engine.js';

/** A statement that is not let through: its message is for the person who typed it. */
export class NotRead extends Error {}

/** Rows of a statement of a person's own, taken one by one until they are enough. */
export class PlainTable {
  readonly #rows: PlainValue[][] = [];
  #size = 0;
  #cut = false;

  constructor(
    private readonly columns: readonly string[],
    private readonly most: PlainLimits,
  ) {}

  /** Takes a row in; false where it is not let in any more, and no other has to come. */
  take(values: readonly unknown[]): boolean {
    const row = values.map(plainValue);
    for (const value of row) this.#size += typeof value === 'string' ? value.length : 8;
    this.#cut = this.#rows.length >= this.most.rows || this.#size > this.most.size;
    if (!this.#cut) this.#rows.push(row);
    return !this.#cut;
  }

  get table(): Omit<PlainRows, 'milliseconds' | 'steps'> {
    return { columns: this.columns, rows: this.#rows, cut: this.#cut };
  }
}

/** A driver's value as JSON has it, with nothing lost: bytes are written as SQL does. */
function plainValue(value: unknown): PlainValue {
  if (value === null || value === undefined) return null;
  if (typeof value === 'bigint') {
    const number = Number(value);
    return Number.isSafeInteger(number) ? number : String(value);
  }
  if (value instanceof Uint8Array) return `x'${Buffer.from(value).toString('hex')}'`;
  if (typeof value === 'number') return Number.isFinite(value) ? value : String(value);
  return typeof value === 'string' || typeof value === 'boolean' ? value : JSON.stringify(value);
}
