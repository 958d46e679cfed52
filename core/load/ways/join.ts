import type { Wire } from '../../values/index.js';
import type { CompiledJoin, CompiledRows } from '../compile/index.js';
import type { Level } from './level.js';
import { makeRows } from './rows.js';

type Columns = ReadonlyMap<string, readonly Wire[]>;

/** Rows that were told apart in those of a statement, and what was told apart below them. */
export interface Split extends Level {
  /** Below which of the owners each row stands. */
  readonly ownerOf: readonly number[];
  readonly below: readonly { readonly join: CompiledJoin; readonly split: Split }[];
}

/** The rows of a statement: where nothing is joined to them each line is one, and whoever asked knows whose it is. */
export function rowsOf(level: CompiledRows, columns: Columns, lines: number): Split {
  if (level.joined.length === 0) return { ...levelOf(level, columns, lines), ownerOf: [], below: [] };
  return splitLines(level, columns, new Array<number>(lines).fill(0), true);
}

/**
 * Rows, and those that are joined to them, out of the lines of a statement: a row stands in as many lines as rows are joined to
 * it, and is one by its identity.
 *
 * @param ownerOf for each line the owner that it is of; -1 for a line that has none
 * @param apart the lines of an owner stand one behind the other: nothing beside its rows multiplies them
 */
export function splitLines(level: CompiledRows, columns: Columns, ownerOf: readonly number[], apart: boolean): Split {
  if (level.joined.length === 0 && level.identity.length === 0)
    return { ...levelOf(level, columns, ownerOf.length), ownerOf, below: [] };
  // In no order, the lines of a row may stand between those of others.
  const together = apart && (level.ordered || level.joined.length === 0);
  const { firsts, owners, instanceOf } = (together ? toldByNext : toldByName)(level, columns, ownerOf);
  const own = new Map(level.outputs.map(({ as }) => [as, picked(columns.get(as), firsts)]));
  const rows = levelOf(level, own, firsts.length);
  const one = together && level.joined.filter(({ many }) => many).length <= 1;
  const below = level.joined.map((join) => ({ join, split: splitLines(join, columns, instanceOf, one) }));
  return { ...rows, ownerOf: owners, below };
}

interface Told {
  /** The first line of each row. */
  readonly firsts: readonly number[];
  readonly owners: readonly number[];
  /** The row that each line has; -1 where it has none. */
  readonly instanceOf: readonly number[];
}

/** Rows whose lines stand one behind the other: one begins where the owner, or what it is told apart by, is another. */
function toldByNext({ identity }: CompiledRows, columns: Columns, ownerOf: readonly number[]): Told {
  const parts = identity.map((as) => columns.get(as) ?? []);
  const [first = []] = parts;
  const firsts: number[] = [];
  const owners: number[] = [];
  const instanceOf: number[] = [];
  let before = -1;
  for (let line = 0; line < ownerOf.length; line++) {
    const owner = ownerOf[line] ?? -1;
    if (owner < 0 || first[line] === null) {
      instanceOf.push(-1);
      continue;
    }
    const goesOn = before >= 0 && ownerOf[before] === owner && parts.every((cells) => isSame(cells[line], cells[before]));
    if (!goesOn) {
      firsts.push(line);
      owners.push(owner);
    }
    instanceOf.push(firsts.length - 1);
    before = line;
  }
  return { firsts, owners, instanceOf };
}

/** Are two parts of what tells rows apart the same? A part that is no plain value is compared as it is written. */
function isSame(one: Wire | undefined, other: Wire | undefined): boolean {
  return one === other || (typeof one === 'object' && one !== null && JSON.stringify(one) === JSON.stringify(other));
}

/** Rows that come again after others: each is looked for by its name among those of its owner. */
function toldByName({ identity }: CompiledRows, columns: Columns, ownerOf: readonly number[]): Told {
  const parts = identity.map((as) => columns.get(as) ?? []);
  const [first = []] = parts;
  const firsts: number[] = [];
  const owners: number[] = [];
  const instanceOf: number[] = [];
  const known = new Map<string, number>();
  for (const [line, owner] of ownerOf.entries()) {
    const there = owner >= 0 && first[line] !== null;
    const name = there ? `${owner} ${nameOf(parts, line)}` : '';
    const instance = there ? (known.get(name) ?? firsts.length) : -1;
    instanceOf.push(instance);
    if (instance !== firsts.length) continue;
    known.set(name, instance);
    firsts.push(line);
    owners.push(owner);
  }
  return { firsts, owners, instanceOf };
}

/** What tells a row from the others of its owner, as a text. */
function nameOf(parts: readonly (readonly Wire[])[], line: number): string {
  const [only, ...others] = parts.map((cells) => cells[line] ?? null);
  const isPlain = others.length === 0 && (typeof only === 'number' || typeof only === 'string');
  return isPlain ? String(only) : JSON.stringify([only, ...others]);
}

function picked(cells: readonly Wire[] = [], lines: readonly number[]): readonly Wire[] {
  return lines.map((line) => cells[line] ?? null);
}

function levelOf({ outputs, kind }: CompiledRows, columns: Columns, count: number): Level {
  return { rows: makeRows(outputs, columns, kind, count), columns };
}

export const NOTHING: Split = { rows: [], columns: new Map(), ownerOf: [], below: [] };

/** Rows that several statements brought, as if one had: each with the owners that stand before it. */
export function together(level: CompiledRows, splits: readonly Split[]): Split {
  const rows = splits.flatMap((split) => split.rows);
  const names = new Set(splits.flatMap(({ columns }) => Array.from(columns.keys())));
  const columns = new Map(Array.from(names, (as) => [as, splits.flatMap((split) => split.columns.get(as) ?? [])] as const));
  const below = level.joined.map((join, at) => {
    let before = 0;
    const shifted = splits.map((split): Split => {
      const inner = split.below[at]?.split ?? NOTHING;
      const from = before;
      before += split.rows.length;
      return { ...inner, ownerOf: inner.ownerOf.map((owner) => owner + from) };
    });
    return { join, split: together(join, shifted) };
  });
  return { rows, columns, ownerOf: splits.flatMap((split) => split.ownerOf), below };
}
