import type { Dialect } from '../dialects/index.js';
import { call, column, derived, type Query, type SqlExpression, selectOf, string } from '../sql/index.js';
import { fromJsonText, type JsonValues, type ValueType, type Wire } from '../values/index.js';
import type { Output } from './compile/index.js';
import { limited } from './limited.js';
import type { FetchOptions } from './statement.js';

/**
 * A select wrapped so that the engine returns one row with a JSON array for each column: handing rows over one by
 * one costs more than finding them. One row more than the limit is asked for, to know whether it cut.
 */
export function byColumns(
  dialect: Dialect,
  json: JsonValues,
  query: Query,
  outputs: readonly Output[],
  options: FetchOptions,
): string {
  const columns = outputs.map(({ as, type, inJson, nested }) => {
    const stored = column('fetched', as);
    if (nested === true) return textsOfJson(stored);
    if (inJson === true) return stored;
    return options.madeHere ? json.toJson(type, stored) : json.guardedJson(type, stored);
  });
  return columnArrays(dialect, query, outputs, columns, options);
}

/** Texts of JSON put together to one list of JSON as they are: whoever takes them for values has to read and to write each. */
function textsOfJson(stored: SqlExpression): SqlExpression {
  const texts = call('group_concat', call('coalesce', stored, string('null')), string(','));
  return joined(joined(string('['), call('coalesce', texts, string(''))), string(']'));
}

function joined(left: SqlExpression, right: SqlExpression): SqlExpression {
  return { kind: 'binary', operator: '||', left, right };
}

/** The select that gives each of these expressions over a query's rows, which it calls `fetched`, as one JSON array. */
export function columnArrays(
  dialect: Dialect,
  query: Query,
  outputs: readonly Output[],
  columns: readonly SqlExpression[],
  options: FetchOptions,
): string {
  const fetched = derived(limited(query, outputs, options.rowLimit + 1), 'fetched');
  const arrays = columns.map((expression, index) => ({
    expression: outputs[index]?.nested === true ? expression : call('json_group_array', expression),
    as: null,
  }));
  return dialect.printQuery(selectOf(fetched, { columns: arrays }));
}

/** The columns of a fetched statement, decoded: as many arrays as outputs. */
export function readColumns(
  dialect: Dialect,
  outputs: readonly Output[],
  row: readonly unknown[],
  options: FetchOptions,
): Wire[][] {
  return outputs.map(({ type, inJson, nested }, index) => {
    const parsed: unknown = JSON.parse(String(row[index] ?? '[]'));
    const cells = parsed as Wire[];
    if (nested === true) return cells;
    if (inJson !== true && options.madeHere && !needsDecoding(type)) return cells;
    const decode = inJson === true ? fromJsonText(type) : dialect.values.decode(type);
    for (let cell = 0; cell < cells.length; cell++) cells[cell] = decode(cells[cell]);
    return cells;
  });
}

// In a database made here JSON carries all other types in their wire form already; what is computed may be beyond all numbers.
function needsDecoding(type: ValueType): boolean {
  return type.kind === 'boolean' || type.kind === 'json' || type.kind === 'sql' || type.kind === 'real';
}
