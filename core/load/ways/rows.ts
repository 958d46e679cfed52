import { KIND_NAME } from '../../model/index.js';
import type { Wire } from '../../values/index.js';
import type { AnswerRow } from '../answer.js';
import type { KindOutput, Output } from '../compile/index.js';
import { rowMaker } from './row-maker.js';

/** Rows of an answer out of their columns. */
export function makeRows(
  outputs: readonly Output[],
  columns: ReadonlyMap<string, readonly Wire[]>,
  kind: KindOutput | null,
  count: number,
): AnswerRow[] {
  const make = kind === null ? rowMaker(outputs) : null;
  if (make !== null) return make(columns, count);
  // A field of this name would set an ordinary object's prototype.
  const bare = outputs.some(({ name, pivot }) => name === '__proto__' || pivot === '__proto__');
  const empty = (): AnswerRow[] => {
    const made: AnswerRow[] = [];
    for (let index = 0; index < count; index++) made.push(bare ? (Object.create(null) as AnswerRow) : {});
    return made;
  };
  const rows = empty();
  const pivots = new Map<string, AnswerRow[]>();
  const kinds = kind === null ? null : kindsOf(columns, kind, count);
  if (kinds !== null) fill(rows, KIND_NAME, kinds);
  for (const { as, name, pivot, kinds: only, hidden, hiddenBy } of outputs) {
    if (name === null) continue;
    const cells = hiddenBy === undefined ? (columns.get(as) ?? []) : seen(columns.get(as) ?? [], columns.get(hiddenBy) ?? []);
    if (hidden === true) {
      fillHidden(rows, name, kinds, only);
      continue;
    }
    if (only !== null && kinds !== null) {
      fillKinds(rows, name, cells, kinds, only);
      continue;
    }
    if (pivot === null) {
      fill(rows, name, cells);
      continue;
    }
    const parts = pivots.get(pivot) ?? empty();
    pivots.set(pivot, parts);
    fill(parts, name, cells);
  }
  for (const [pivot, parts] of pivots) fill(rows, pivot, parts);
  return rows;
}

/** What stands in an answer in place of a value that may not be seen. */
export const HIDDEN = Object.freeze({ hidden: true });

/** The values of a column, but for those of rows that a flag holds back. */
function seen(cells: readonly Wire[], hidden: readonly Wire[]): readonly unknown[] {
  return cells.map((cell, row) => (hidden[row] === true ? HIDDEN : cell));
}

/** Says of rows, all or those of some kinds, that they have a value which may not be seen. */
function fillHidden(
  rows: readonly AnswerRow[],
  name: string,
  kinds: readonly string[] | null,
  only: readonly string[] | null,
): void {
  const told = rows.map(() => HIDDEN);
  if (only !== null && kinds !== null) fillKinds(rows, name, told, kinds, only);
  else fill(rows, name, told);
}

/** What kind each row is. */
function kindsOf(columns: ReadonlyMap<string, readonly Wire[]>, { as, marks, otherwise }: KindOutput, count: number): string[] {
  const held = as === null ? [] : (columns.get(as) ?? []);
  return Array.from({ length: count }, (_, row) => {
    const mark = String(held[row] ?? '');
    return as !== null && Object.hasOwn(marks, mark) ? (marks[mark] ?? otherwise) : otherwise;
  });
}

/** What rows of some kinds only have. */
function fillKinds(
  rows: readonly AnswerRow[],
  name: string,
  cells: readonly unknown[],
  kinds: readonly string[],
  only: readonly string[],
): void {
  for (let index = 0; index < rows.length; index++) {
    const row = rows[index];
    if (row !== undefined && only.includes(kinds[index] ?? '')) row[name] = cells[index];
  }
}

/** Column by column, so that each turn of the loop writes the same property of objects of the same shape. */
function fill(rows: readonly AnswerRow[], name: string, cells: readonly unknown[]): void {
  for (let index = 0; index < rows.length; index++) {
    const row = rows[index];
    if (row !== undefined) row[name] = cells[index];
  }
}
