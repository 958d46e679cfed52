import type { ForeignKey, Table } from '../schema/index.js';
import { column, isNumbered, type Select, type SqlExpression, selectOf, tableSource } from '../sql/index.js';
import { converted } from './conversion.js';
import { type FormerColumn, tableKey } from './pairs.js';
import { declared } from './rows-of.js';
import { pairOf, referenced } from './shape.js';
import type { Shaping } from './shaping.js';

/**
 * The rows that a new table begins with: where columns of it stood in another table, a row for each row there which has one of
 * their values; its key to that table, if it has one, says whose they are. Null where it begins empty.
 */
export function firstRowsOf(
  shaping: Shaping,
  table: Table,
): { readonly columns: readonly string[]; readonly select: Select } | null {
  const pair = pairOf(shaping, table.name);
  const moved =
    pair?.columns.flatMap(({ after, movedFrom }) => (after === null || movedFrom === null ? [] : [{ after, movedFrom }])) ?? [];
  const [first] = moved;
  if (pair === undefined || first === undefined) return null;
  const source = shaping.before.tables.find(({ name }) => tableKey(name) === tableKey(first.movedFrom.table));
  if (source === undefined) return null;
  if (moved.some(({ movedFrom }) => tableKey(movedFrom.table) !== tableKey(source.name))) {
    shaping.fault(
      `${table.name.name} takes its columns from several tables. Let it take them from one, and the others in a second plan.`,
    );
    return null;
  }
  const of = ({ column: name }: FormerColumn) => column(source.name.name, shaping.named(source.name, standing(source, name)));
  const back = table.foreignKeys.find((key) => leadsTo(shaping, key, source));
  const owner = back === undefined ? [] : back.columns.map((name, at) => [name, keyPart(shaping, source, back, at)] as const);
  const values = moved.map(({ after, movedFrom }) => {
    const stood = source.columns.find(({ name }) => name.toLowerCase() === movedFrom.column.toLowerCase());
    const value = of(movedFrom);
    return [after.name, stood === undefined ? value : declared(shaping, after, converted(shaping, stood, after, value))] as const;
  });
  const given = new Map<string, SqlExpression>([...owner, ...values]);
  // Where nothing leads back, each different set of values is a row, which the others point at by a matching.
  const isDistinct = back === undefined;
  for (const one of table.columns) {
    if (given.has(one.name) || one.generated !== null || isNumbered(one.type) || isRowKey(table, one.name)) continue;
    if (one.default !== null) given.set(one.name, { kind: 'written', sql: one.default });
  }
  const filled = moved.map(({ movedFrom }): SqlExpression => ({ kind: 'is null', operand: of(movedFrom), negated: true }));
  return {
    columns: Array.from(given.keys()),
    select: selectOf(tableSource(shaping.placed(source.name), source.name.name), {
      columns: Array.from(given, ([as, expression]) => ({ expression, as })),
      where: filled.reduce((left, right) => ({ kind: 'binary', operator: 'or', left, right })),
      distinct: isDistinct,
    }),
  };
}

/** A column as its table writes it. */
function standing({ columns }: Table, wanted: string): string {
  return columns.find(({ name }) => name.toLowerCase() === wanted.toLowerCase())?.name ?? wanted;
}

/** A key of one column that the engine numbers of itself. */
function isRowKey({ primaryKey, columns }: Table, name: string): boolean {
  const own = columns.find((one) => one.name === name);
  return primaryKey.columns.length === 1 && primaryKey.columns[0] === name && /^integer\b/i.test(own?.type ?? '');
}

function leadsTo(shaping: Shaping, key: ForeignKey, source: Table): boolean {
  const pair = pairOf(shaping, { schema: key.schema, name: key.table });
  return pair?.before === source;
}

/** What a key of the new table holds: the column of the row that it points at. */
function keyPart(shaping: Shaping, source: Table, key: ForeignKey, at: number): SqlExpression {
  const target = pairOf(shaping, { schema: key.schema, name: key.table })?.after;
  const wanted = target == null ? undefined : referenced(key, target)[at];
  const pair = pairOf(shaping, { schema: key.schema, name: key.table })?.columns.find(({ after }) => after?.name === wanted);
  return column(source.name.name, shaping.named(source.name, pair?.before?.name ?? wanted ?? ''));
}
