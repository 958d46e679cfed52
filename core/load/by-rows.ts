import type { Dialect } from '../dialects/index.js';
import type { Query } from '../sql/index.js';
import { fromJsonText, type Wire } from '../values/index.js';
import type { Output } from './compile/index.js';
import { limited } from './limited.js';
import type { FetchOptions } from './statement.js';

/** A select as it stands, with the limit that keeps an answer from being without end. */
export function byRows(dialect: Dialect, query: Query, outputs: readonly Output[], options: FetchOptions): string {
  return dialect.printQuery(limited(query, outputs, options.rowLimit + 1));
}

/** The columns of fetched rows, decoded: as many arrays as outputs. */
export function readRows(dialect: Dialect, outputs: readonly Output[], rows: readonly (readonly unknown[])[]): Wire[][] {
  return outputs.map(({ type, inJson, nested }, column) => {
    const decode = nested === true ? readLists : inJson === true ? fromJsonText(type) : dialect.values.decode(type);
    const cells = new Array<Wire>(rows.length);
    let before: unknown = null;
    let read: Wire = decode(null);
    for (let line = 0; line < rows.length; line++) {
      const value = rows[line]?.[column] ?? null;
      // Of joined rows a value comes again line by line: it is read once.
      if (value !== before) read = decode(value);
      before = value;
      cells[line] = read;
    }
    return cells;
  });
}

/** Lists of JSON as the engine made them. */
function readLists(value: unknown): Wire {
  return value === null ? null : (JSON.parse(String(value)) as Wire);
}
