import { readCreateTable, type TableConstraint } from './create-table.js';
import { sqlName, sqlTokens } from './lexer.js';

/**
 * What a CREATE TABLE makes, as one line for each thing that it says: two statements with the same lines make the
 * same table. Space, comments, quotes around names, the case of words, and whether a constraint stands behind its
 * column or on its own make no difference; names, types and texts do.
 */
export function tableShape(sql: string): readonly string[] {
  const created = readCreateTable(sql);
  // The key of a strict table, and of one without row numbers, is not null, whether it says so or not.
  const keyFilled = created.options.some((option) => /^(without\s+rowid|strict)$/i.test(option));
  const implied = new Set(
    created.constraints.flatMap(({ kind, columns }) => (keyFilled && kind === 'primary key' ? columns : [])),
  );
  const columns = created.columns.map((column) =>
    [
      `column ${column.name}`,
      typeShape(column.type),
      column.notNull === null && !implied.has(column.name) ? '' : words(column.notNull ?? 'not null'),
      column.default === null ? '' : `default ${words(unwrapped(column.default))}`,
      `collate ${(created.collations.get(column.name) ?? 'binary').toLowerCase()}`,
      generated(created.generated.get(column.name)),
    ].join(' | '),
  );
  // What is said twice holds once.
  const constraints = Array.from(new Set(created.constraints.map(constraintShape))).sort();
  const options = created.options.map((option) => `option ${option.toLowerCase()}`).sort();
  return [...columns, ...constraints, ...(created.autoincrement ? ['autoincrement'] : []), ...options];
}

/** Types that SQLite keeps in capitals, however they are written (its source, sqlite3StdType). */
const STANDARD_TYPES = /^(any|blob|int|integer|real|text)$/i;

function typeShape(type: string): string {
  const spaced = type.replace(/\s+/g, ' ').replace(/ ?([(),]) ?/g, '$1');
  return STANDARD_TYPES.test(spaced) ? spaced.toUpperCase() : spaced;
}

function generated(value: { readonly sql: string; readonly stored: boolean } | undefined): string {
  return value === undefined ? '' : `as ${words(value.sql)} ${value.stored ? 'stored' : 'virtual'}`;
}

function constraintShape(constraint: TableConstraint): string {
  const { kind, name, columns, expression, text } = constraint;
  const what = `${kind} ${name ?? ''} (${columns.join(', ')}) ${words(expression)}`;
  if (kind === 'foreign key') return `${what} ${words(text.slice(text.toLowerCase().indexOf('references')))}`;
  return constraint.plain ? what : `${what} ${words(text.slice(text.toLowerCase().indexOf(kind)))}`;
}

/** SQL word by word, in lower case where case makes no difference, names without their quotes. */
function words(sql: string): string {
  return sqlTokens(sql)
    .map((token) =>
      token.kind === 'string' ? token.text : token.kind === 'quoted' ? sqlName(token).toLowerCase() : token.text.toLowerCase(),
    )
    .join(' ');
}

/** A literal means the same with and without brackets around it. */
function unwrapped(sql: string): string {
  const inner = /^\(\s*([+-]?[\w.]+|'(?:[^']|'')*')\s*\)$/.exec(sql)?.[1];
  return inner ?? sql;
}
