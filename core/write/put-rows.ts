import { entityOf, lineage } from '../model/index.js';
import { type Insert, insertOf } from '../sql/index.js';
import { type BoundValue, joinKey, type ValueType, type Wire } from '../values/index.js';
import { SYSTEM } from '../walls/index.js';
import type { Cell } from './cell.js';
import type { Doing } from './doing.js';
import { Filling } from './fill.js';
import { fillPins } from './pins.js';
import { putRow } from './put-row.js';
import { keepInReach } from './reach.js';
import { guarded } from './savepoint.js';
import type { BrokenConstraint, CommandWork } from './steps.js';
import { countOn, decoded } from './stored-row.js';
import type { RefusedFor, WrittenRow } from './told.js';

/** A row that was put in, by its key where that was asked for; or what stood against it. */
export type PutOutcome = { readonly key: Wire } | { readonly refused: RefusedFor };

/** A column that each of many rows has a value for. */
export type FilledColumn = Omit<Cell, 'value'> & { readonly name: string };

const NO_KEY: PutOutcome = { key: null };
const TEXT: ValueType = { kind: 'text', length: null };

/**
 * Puts many rows of one entity in, all with values for the same columns. Where they stand in one table they go by one statement,
 * which is printed once, so many of them together as the engine is best given; a row that is refused leaves nothing behind, and the
 * others go in.
 */
export class RowsIn {
  private readonly columns: readonly { readonly column: string; readonly type: ValueType }[];
  private readonly mark: readonly Wire[];
  private readonly returning: readonly string[];
  private readonly printed = new Map<number, { readonly insert: Insert; readonly sql: string }>();
  private readonly together: number;

  constructor(
    private readonly doing: Doing,
    private readonly entity: string,
    private readonly filled: readonly FilledColumn[],
    /** Whether the keys of the rows are to be told. */
    private readonly wantsKeys: boolean,
  ) {
    const { kinds, key } = entityOf(doing.model, entity);
    const marked = kinds?.storage.kind === 'single table' ? kinds : null;
    const { storage } = marked ?? {};
    this.mark = marked === null ? [] : [marked.mark];
    this.columns = [...filled, ...(storage?.kind === 'single table' ? [{ column: storage.mark, type: TEXT }] : [])];
    const missing = key.columns.filter((name) => !filled.some(({ column }) => column === name));
    this.returning = wantsKeys || doing.journal !== null ? missing : [];
    // The journal keeps one row at a time.
    this.together = doing.journal === null ? doing.dialect.rowsInOneInsert(this.columns.length) : 1;
  }

  /** Puts rows in, whose values stand in the order of the columns; tells of each, in their order. */
  *put(rows: readonly (readonly Wire[])[]): CommandWork<readonly PutOutcome[]> {
    const { storage } = entityOf(this.doing.model, this.entity).kinds ?? {};
    const outcomes: PutOutcome[] = [];
    if (storage?.kind === 'joined tables' || storage?.kind === 'json') {
      for (const row of rows) outcomes.push(yield* this.putOne(row));
      return outcomes;
    }
    // What walls ask of a row is asked of each, which may be refused by itself.
    if (this.doing.actor !== SYSTEM) {
      for (const row of rows) outcomes.push(yield* this.putOne(row));
      return outcomes;
    }
    if (this.together === 1 && this.doing.journal === null) {
      yield* this.putEach(rows, outcomes);
      return outcomes;
    }
    for (let from = 0; from < rows.length; from += this.together)
      yield* this.putTogether(rows, from, Math.min(rows.length, from + this.together), outcomes);
    return outcomes;
  }

  /** Lets the engine's own numbers go on after keys that were given. */
  *finish(): CommandWork<void> {
    const { key, table } = entityOf(this.doing.model, rootOf(this.doing, this.entity));
    if (key.columns.every((name) => this.filled.some(({ column }) => column === name)))
      yield* countOn(this.doing, table.value, key);
  }

  /** Puts one row after the other in. */
  private *putEach(rows: readonly (readonly Wire[])[], outcomes: PutOutcome[]): CommandWork<void> {
    const { insert, sql } = this.insertOf(1);
    const values = rows.map((_, at) => this.bound(rows, at, at + 1));
    const { refusals, rows: given } = yield* this.doing.attemptEach(insert, values, sql);
    for (let at = 0; at < rows.length; at++) {
      const refusal = refusals.get(at);
      const row = rows[at] ?? [];
      outcomes.push(refusal === undefined ? this.outcomeOf(row, given.get(at)) : this.refusedBy(refusal, row));
    }
  }

  /** Puts the rows of a stretch in by one statement; where that is refused, each half of them. */
  private *putTogether(rows: readonly (readonly Wire[])[], from: number, to: number, outcomes: PutOutcome[]): CommandWork<void> {
    const { insert, sql } = this.insertOf(to - from);
    const { refusal, rows: given } = yield* this.doing.attempt(insert, this.bound(rows, from, to), sql);
    if (refusal === null) {
      // An insert gives its rows back in the order in which it puts them in.
      for (let at = from; at < to; at++) outcomes.push(this.outcomeOf(rows[at] ?? [], given[at - from]));
    } else if (to - from === 1 || refusal.whateverRow)
      for (const row of rows.slice(from, to)) outcomes.push(this.refusedBy(refusal, row));
    else {
      const half = Math.ceil((from + to) / 2);
      yield* this.putTogether(rows, from, half, outcomes);
      yield* this.putTogether(rows, half, to, outcomes);
    }
  }

  /** The values of rows as they are sent. */
  private bound(rows: readonly (readonly Wire[])[], from: number, to: number): readonly BoundValue[] {
    const { values } = this.doing.dialect;
    const bound: BoundValue[] = [];
    for (let at = from; at < to; at++) {
      const row = rows[at] ?? [];
      for (let place = 0; place < this.columns.length; place++) {
        const column = this.columns[place];
        const value = (place < row.length ? row[place] : this.mark[0]) ?? null;
        bound.push(column === undefined || value === null ? null : values.bind(column.type, value));
      }
    }
    return bound;
  }

  /** A row that stands in several tables, or in a column of JSON: by itself, as a command puts it in. */
  private *putOne(row: readonly Wire[]): CommandWork<PutOutcome> {
    const filling = new Filling(this.entity);
    for (const [at, { name, ...cell }] of this.filled.entries()) {
      const value = row[at] ?? null;
      filling.fill(name, 'given', value, [{ ...cell, value }]);
    }
    return yield* guarded(this.putFilled(filling), ({ key }) => ({ key }));
  }

  private *putFilled(filling: Filling): CommandWork<WrittenRow> {
    if (this.doing.actor !== SYSTEM) fillPins(this.doing, filling);
    const made = yield* putRow(this.doing, filling);
    yield* keepInReach(this.doing);
    return made;
  }

  private insertOf(rows: number): { readonly insert: Insert; readonly sql: string } {
    const known = this.printed.get(rows);
    if (known !== undefined) return known;
    const { table } = entityOf(this.doing.model, rootOf(this.doing, this.entity));
    const columns = this.columns.map(({ column }) => column);
    const insert: Insert = { ...insertOf(table.value, columns, rows), returning: this.returning };
    const printed = { insert, sql: this.doing.dialect.printChange(insert) };
    this.printed.set(rows, printed);
    return printed;
  }

  private outcomeOf(row: readonly Wire[], given: readonly unknown[] | undefined): PutOutcome {
    return this.wantsKeys ? { key: this.keyOf(row, given ?? []) } : NO_KEY;
  }

  private keyOf(row: readonly Wire[], given: readonly unknown[]): Wire {
    const { key } = entityOf(this.doing.model, this.entity);
    const parts = key.fields.map((field): Wire => {
      const at = this.filled.findIndex(({ column }) => column === field.column.value);
      if (at >= 0) return row[at] ?? null;
      const returned = this.returning.indexOf(field.column.value);
      return returned < 0 ? null : decoded(this.doing, field.type, given[returned]);
    });
    return joinKey(key.type, parts);
  }

  private refusedBy(broken: BrokenConstraint, row: readonly Wire[]): PutOutcome {
    const cells = this.filled.map(({ name }, at) => ({ name, by: 'given' as const, value: row[at] ?? null }));
    return { refused: { kind: 'constraint', broken, table: this.insertOf(1).insert.into.name, cells } };
  }
}

/** The entity in whose table the rows of a kind stand, with those of others or alone. */
function rootOf({ model }: Doing, entity: string): string {
  const { kinds } = entityOf(model, entity);
  return kinds?.storage.kind === 'separate tables' ? entity : (lineage(model, entity)[0]?.name ?? entity);
}
