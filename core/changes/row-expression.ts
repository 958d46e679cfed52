import { type ExpressionOver, entityOf, type RowPart, resolve } from '../model/index.js';
import { parse } from '../notation/index.js';
import { rowLeaves, type Table, toSql } from '../schema/index.js';
import { renamed, type SqlExpression } from '../sql/index.js';
import { typeName } from '../values/index.js';
import { typeOfColumn } from './conversion.js';
import type { Shaping } from './shaping.js';

/** An expression of a person's over a row of a table, as SQL; or why it does not stand. */
export type RowExpression = { readonly ok: true; readonly sql: SqlExpression } | { readonly ok: false; readonly message: string };

const NAME = 'answer';

/**
 * Reads an expression of the notation over the columns of a table as it is: each is a field under its own name. It walks no
 * relation, as it has to stand within one row.
 *
 * @param source what the table is called where the SQL stands
 */
export function rowExpression(
  { dialect, now, named }: Pick<Shaping, 'dialect' | 'now' | 'named'>,
  table: Table,
  expression: string,
  source: string,
): RowExpression {
  const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;
  const known = table.columns.filter(({ name }) => !/[\r\n]/.test(name) && name.toLowerCase() !== NAME);
  const lines = known.map((column) => {
    const type = typeOfColumn(dialect, column);
    // What has no type of the notation is read as the text that it is written as.
    const told = type.kind === 'sql' || type.kind === 'choice' ? 'text' : typeName(type);
    return `  ${quoted(column.name)} ${told} optional column ${quoted(named(table.name, column.name))}`;
  });
  // Without a key of its own the entity would be given one, whose name a column may bear.
  const text = `entity Row\n  ${quoted('\u00a7key')} bigint key\n${lines.join('\n')}\n  ${NAME} = ${expression.replaceAll('\n', ' ')}\n`;
  const { model, findings } = resolve(parse(text));
  const error = findings.find(({ weight }) => weight === 'error');
  if (error !== undefined)
    return { ok: false, message: error.message.replaceAll(`Row.${NAME}: `, '').replaceAll('Row.', `${table.name.name}.`) };
  const derived = entityOf(model, 'Row').derived.find(({ name }) => name === NAME);
  if (derived === undefined) return { ok: false, message: `“${expression}” is no expression.` };
  try {
    const leaves = rowLeaves(dialect.values, entityOf(model, 'Row').fields);
    const sql = toSql(derived.expression as ExpressionOver<RowPart>, {
      ...leaves,
      bound: (part) => {
        if (part.kind !== 'clock') return leaves.bound(part);
        return part.which === 'today'
          ? dialect.values.literal({ kind: 'date' }, now.slice(0, 10))
          : dialect.values.literal({ kind: 'timestamp' }, now);
      },
    });
    // Beside other tables a column has to say whose it is.
    return { ok: true, sql: renamed(sql, null, source) };
  } catch {
    return { ok: false, message: `“${expression}” speaks of more than the row’s own columns.` };
  }
}
