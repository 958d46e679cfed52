import { column, type Select, type SqlExpression, selectOf, type TableName, tableSource } from './statement.js';

/** Puts rows into a table; keys that the engine would number may be among them. */
export interface Insert {
  readonly kind: 'insert';
  readonly into: TableName;
  readonly columns: readonly string[];
  /** Each in the order of the columns. */
  readonly rows: readonly (readonly SqlExpression[])[];
  /** The columns of the rows that are put in which the statement gives back; left out: none. */
  readonly returning?: readonly string[];
}

/** Gives columns other values, in all rows or those of a condition. */
export interface Update {
  readonly kind: 'update';
  readonly table: TableName;
  readonly set: readonly { readonly column: string; readonly value: SqlExpression }[];
  readonly where: SqlExpression | null;
}

/** Removes rows: all, or those of a condition. */
export interface Delete {
  readonly kind: 'delete';
  readonly from: TableName;
  readonly where: SqlExpression | null;
}

/** A statement that changes rows, as data. */
export type Change = Insert | Update | Delete;

/** A statement of a trigger's body. */
export type TriggerAction =
  /** Ends the statement with an error where a condition holds. */
  | { readonly kind: 'refuse'; readonly when: SqlExpression; readonly message: string }
  | { readonly kind: 'run'; readonly change: Update | Delete };

/** A trigger for each row, with the row before as the source `old` and the row after as `new`. */
export interface Trigger {
  readonly name: string;
  readonly table: TableName;
  readonly timing: 'before' | 'after';
  readonly event: 'insert' | 'update' | 'delete';
  /** Of an update: the columns of which one has to change. */
  readonly columns: readonly string[];
  /** The rows that it is for; null for all. */
  readonly when: SqlExpression | null;
  readonly actions: readonly TriggerAction[];
}

/** An insert of so many rows, whose values are given with the statement, row by row. */
export function insertOf(into: TableName, columns: readonly string[], rows: number): Insert {
  return {
    kind: 'insert',
    into,
    columns,
    rows: Array.from({ length: rows }, (_, row) =>
      columns.map((_, at): SqlExpression => ({ kind: 'placeholder', number: row * columns.length + at + 1 })),
    ),
  };
}

/** Whether a table has a row of a condition. */
export function existsIn(
  table: TableName,
  where: SqlExpression | null,
  { alias = table.name, ...more }: { readonly alias?: string } & Partial<Pick<Select, 'lock'>> = {},
): SqlExpression {
  const columns = [{ expression: { kind: 'number', text: '1' } as const, as: null }];
  return { kind: 'exists', negated: false, select: selectOf(tableSource(table, alias), { columns, where, ...more }) };
}

/** The other way round. */
export function not(operand: SqlExpression): SqlExpression {
  return operand.kind === 'exists' ? { ...operand, negated: !operand.negated } : { kind: 'not', operand };
}

/** A column is filled. */
export function isFilled(source: string | null, name: string): SqlExpression {
  return { kind: 'is null', operand: column(source, name), negated: true };
}
