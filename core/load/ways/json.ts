import type { Dialect } from '../../dialects/index.js';
import type { Wire } from '../../values/index.js';
import { fromJsonText } from '../../values/index.js';
import type { CompiledNest, Output } from '../compile/index.js';
import { withComposites } from '../fetch.js';
import { type Split, splitLines } from './join.js';
import { type Level, putBelow } from './level.js';

/** The lists of JSON in a column of owners, as the engine made them: of each row its values, or several lists of them. */
type Lists = readonly (readonly unknown[])[];

/** By JSON: reads the rows that stand in a column of their owners, and puts them below those. */
export function loadByJson(dialect: Dialect, owners: Level, nest: CompiledNest): Split {
  const stored = nest.columns.filter(({ parts }) => parts === null);
  const cells: Wire[][] = stored.map(() => []);
  const ownerOf: number[] = [];
  const lists = owners.columns.get(nest.as) ?? [];
  const width = cells.length;
  for (let index = 0; index < lists.length; index++) {
    for (const element of listsIn(lists[index])) {
      const values = nest.inLists ? (element as Lists).flat() : element;
      // Iterators over both would take as long as the engine took.
      for (let at = 0; at < width; at++) cells[at]?.push((values[at] ?? null) as Wire);
      ownerOf.push(index);
    }
  }
  stored.forEach((output, at) => {
    decode(dialect, output, cells[at] ?? []);
  });
  const whole = withComposites(nest.columns, stored, cells);
  const columns = new Map(nest.columns.map(({ as }, at) => [as, whole[at] ?? []]));
  const split = splitLines(nest, columns, ownerOf, true);
  putBelow(owners, nest, split.rows, split.ownerOf);
  return split;
}

function listsIn(cell: Wire | undefined): Lists {
  return Array.isArray(cell) ? (cell as Lists) : [];
}

function decode({ values }: Dialect, { type, inJson, nested }: Output, cells: Wire[]): void {
  if (nested === true) return;
  const read = inJson === true ? fromJsonText(type) : values.decode(type);
  for (let at = 0; at < cells.length; at++) cells[at] = read(cells[at]);
}
