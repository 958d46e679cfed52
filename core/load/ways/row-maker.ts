import type { Wire } from '../../values/index.js';
import type { AnswerRow } from '../answer.js';
import type { Output } from '../compile/index.js';

/** Makes so many rows out of their columns. */
export type RowMaker = (columns: ReadonlyMap<string, readonly Wire[]>, count: number) => AnswerRow[];

/** The makers of outputs that have been answered before; whoever lets go of a plan lets go of its makers. */
const makers = new WeakMap<readonly Output[], RowMaker | null>();

/**
 * The function that makes rows of these outputs, where each row has them all; null for rows that differ by kind, hold back a value
 * or have the fields of a pivot apart. Its rows are written as one object literal, which is generated: an engine of JavaScript
 * lays such objects out at once, and rows that grow a field at a time took a sixth more of a whole load.
 */
export function rowMaker(outputs: readonly Output[]): RowMaker | null {
  const known = makers.get(outputs);
  if (known !== undefined) return known;
  const made = madeFor(outputs);
  makers.set(outputs, made);
  return made;
}

function madeFor(outputs: readonly Output[]): RowMaker | null {
  const named = outputs.flatMap(({ as, name, ...rest }) => (name === null ? [] : [{ as, name, ...rest }]));
  const alike = named.every(
    ({ name, pivot, kinds, hidden, hiddenBy }) =>
      name !== '__proto__' && pivot === null && kinds === null && hidden !== true && hiddenBy === undefined,
  );
  if (!alike) return null;
  // A text of JSON is a string literal of JavaScript (ECMA-262, 2019, section 12.9.4), so a name stays a name, whatever it says.
  const fields = named.map(({ name }, at) => `${JSON.stringify(name)}: cells[${at}][row]`);
  const literal = new Function('cells', 'row', `return { ${fields.join(', ')} };`) as (
    cells: readonly (readonly Wire[])[],
    row: number,
  ) => AnswerRow;
  return (columns, count) => {
    const cells = named.map(({ as }) => columns.get(as) ?? []);
    const rows: AnswerRow[] = [];
    for (let row = 0; row < count; row++) rows.push(literal(cells, row));
    return rows;
  };
}
