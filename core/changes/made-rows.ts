import type { Table } from '../schema/index.js';
import {
  allOf,
  column,
  derived,
  isNumbered,
  isRowNumber,
  type Select,
  type SqlExpression,
  selectOf,
  tableSource,
} from '../sql/index.js';
import { writtenPlace } from './answers.js';
import { columnKey } from './pairs.js';
import { rowsOf } from './rows-of.js';
import { isThere, matchOf, pairOf, referenced } from './shape.js';
import type { MadeRows, Shaping, TableShape } from './shaping.js';

const ROWS = 'rows_to_be';

/** The rows that answers let be made, before any others change. */
export function madeRowsOf(shaping: Shaping, shapes: readonly TableShape[]): readonly MadeRows[] {
  return shapes.flatMap((shape) =>
    shape.columns.flatMap(({ column: one }) => {
      const key = columnKey(shape.pair.after.name, one.name);
      const matching = shaping.answers.matching.get(key);
      if (matching?.unmatched === 'make') return matchedRows(shaping, shape, one.name) ?? [];
      return shaping.answers.made.has(key) ? (parentsOf(shaping, shape, one.name) ?? []) : [];
    }),
  );
}

/** Rows for texts that name none. */
function matchedRows(shaping: Shaping, shape: TableShape, name: string): MadeRows | null {
  const { before, after } = shape.pair;
  const matching = shaping.answers.matching.get(columnKey(after.name, name));
  const own = after.columns.find((one) => one.name === name);
  const found = matching === undefined || own === undefined ? null : matchOf(shaping, shape.pair, own, matching);
  if (found === null) return null;
  if (found.equals.kind !== 'column') {
    shaping.fault(`match ${writtenPlace(after.name, name)}: rows can be made where the text is held against a column itself.`);
    return null;
  }
  const matched: SqlExpression = {
    kind: 'exists',
    negated: true,
    select: selectOf(tableSource(shaping.placed(found.parent.name), found.alias), {
      columns: [{ expression: { kind: 'number', text: '1' }, as: null }],
      where: found.same,
    }),
  };
  const select = selectOf(tableSource(shaping.placed(before.name), before.name.name), {
    distinct: true,
    columns: [{ expression: found.by, as: 'made' }],
    where: allOf([{ kind: 'is null', operand: found.by, negated: true }, matched]),
  });
  return madeIn(shaping, found.parent, found.equals.column, select);
}

/** Rows for keys that point at nothing. */
function parentsOf(shaping: Shaping, shape: TableShape, name: string): MadeRows | null {
  const { after } = shape.pair;
  const foreign = after.foreignKeys.find(({ columns }) => columns.length === 1 && columns[0] === name);
  const target = foreign === undefined ? undefined : pairOf(shaping, { schema: foreign.schema, name: foreign.table });
  if (foreign === undefined || target?.before == null || target.after == null) {
    shaping.fault(`make ${writtenPlace(after.name, name)}: no foreign key of this one column leads to a table of the text.`);
    return null;
  }
  const [wanted] = referenced(foreign, target.after);
  const former = target.columns.find((pair) => pair.after?.name === wanted)?.before;
  const there = isThere(shaping, foreign, [column(ROWS, name)]);
  if (former == null || there === null) return null;
  const select = selectOf(derived(rowsOf(shaping, shape, [name]), ROWS), {
    distinct: true,
    columns: [{ expression: column(ROWS, name), as: 'made' }],
    where: allOf([
      { kind: 'is null', operand: column(ROWS, name), negated: true },
      { kind: 'not', operand: there },
    ]),
  });
  return madeIn(shaping, target.before, shaping.named(target.before.name, former.name), select);
}

function madeIn(shaping: Shaping, table: Table, name: string, select: Select): MadeRows | null {
  const own = (one: Table['columns'][number]) => shaping.named(table.name, one.name) === name;
  const needed = table.columns.filter(
    (one) =>
      one.notNull &&
      one.default === null &&
      one.generated === null &&
      !isNumbered(one.type) &&
      !own(one) &&
      !isRowKey(table, one),
  );
  if (needed.length > 0) {
    const names = needed.map((one) => one.name).join(', ');
    shaping.fault(
      `A row of ${writtenPlace(table.name)} needs a value for ${names} too, so none can be made of one value. Put them in first, or make these optional.`,
    );
    return null;
  }
  const pair = shaping.paired.tables.find(({ before }) => before === table);
  const after = pair?.columns.find(({ before }) => before !== null && own(before))?.after?.name ?? name;
  return { of: table, column: name, columnAfter: after, tableAfter: pair?.after?.name ?? table.name, select };
}

/** A key that is the row's own number. */
function isRowKey({ primaryKey }: Table, { name, type }: Table['columns'][number]): boolean {
  return primaryKey.columns.length === 1 && primaryKey.columns[0] === name && isRowNumber(type);
}
