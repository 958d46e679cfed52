import { type Table, triggerName } from '../core/schema/index.js';

/**
 * What of tables every engine reads back as it was made: all but how it writes types, defaults and conditions.
 *
 * @param likeMariadb as MariaDB has it: “restrict” is “no action” there, a check may be a trigger, and JSON has one of its own
 */
export function shapeOf(tables: readonly Table[], likeMariadb = false): unknown {
  return tables
    .map((table) => ({
      name: table.name.name,
      columns: table.columns.map((column) => [
        column.name,
        plainType(column.type),
        column.notNull || table.primaryKey.columns.includes(column.name),
      ]),
      key: table.primaryKey.columns,
      uniques: table.uniques.map(({ columns }) => columns.join()).sort(),
      keys: table.foreignKeys
        .map(({ columns, table: target, references, onDelete }) =>
          [columns, target, references, likeMariadb && onDelete === 'restrict' ? 'no action' : onDelete].join(' '),
        )
        .sort(),
      indexes: table.indexes.map(({ name, columns }) => [name, columns].join(' ')).sort(),
      checks: likeMariadb ? null : table.checks.length,
      // What they do is tried by rows.
      triggers: table.triggers.map(triggerName).sort(),
    }))
    .sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** MariaDB shows widths that mean nothing, and JSON as the text that it is there. */
function plainType(type: string): string {
  return type.replace(/\b(int|bigint)\(\d+\)/, '$1').replace(/^longtext character set utf8mb4$/, 'json');
}
