import { type Table, writtenTriggers } from '../schema/index.js';
import { checkName, columnsOfCheck, conditionOf } from './checks.js';
import { anyName, type ImportContext, indexSql, keptLine, namedTail } from './context.js';
import { createSql, type ImportEngine } from './engines.js';
import { fullName, isWritable, placeOf } from './existing.js';
import { Names, written } from './names.js';

/** How the lines of one table speak of its columns. */
export interface ColumnWords {
  /** In a list of a unique or an index: a field, or the role that a key column stands for. */
  member(column: string): string;
  /** In a condition: a field; null where the column is none. */
  field(column: string): string | null;
}

/** The uniques, indexes and checks of a table: as sentences where the notation has them, else as SQL. */
export function tellConstraints(
  table: Table,
  indent: string,
  { member, field }: ColumnWords,
  { engine, keptChecks, whole }: ImportContext,
): string[] {
  const lines: string[] = [];
  const list = (columns: readonly string[]) => `(${columns.map(member).join(', ')})`;
  for (const unique of table.uniques) {
    // A unique of one column stands with its field, or is what makes a relation one-to-one; of the key itself, by itself.
    const ofKey = table.primaryKey.columns.length === 1 && unique.columns.join() === table.primaryKey.columns.join();
    if (unique.name !== null || unique.columns.length > 1 || ofKey)
      lines.push(`${indent}unique ${list(unique.columns)}${namedTail(unique.name)}`);
  }
  // Uniques first: so they are made, and so they are read back.
  for (const index of [...table.indexes].sort((a, b) => Number(b.unique) - Number(a.unique))) {
    if (index.sql !== null || !isWritable(index.name)) continue;
    lines.push(
      index.unique
        ? `${indent}unique ${list(index.columns)}, as index ${anyName(index.name)}`
        : `${indent}index ${list(index.columns)}, named ${anyName(index.name)}`,
    );
  }
  if (whole.has(placeOf(fullName(table.name)))) return lines;
  // Sentences before what is kept: so they are made, and so they are read back.
  const keptLines: string[] = [];
  const names = new Names();
  const columns = table.columns.map((column) => column.name);
  for (const check of table.checks) {
    const place = placeOf(fullName(table.name), check.expression);
    const about = columnsOfCheck(check.expression, columns);
    const condition = keptChecks.has(place)
      ? null
      : conditionOf(engine.plainCheck(check.expression), (word) => {
          const column = columns.find((candidate) => candidate.toLowerCase() === word.toLowerCase());
          return column === undefined ? null : field(column);
        });
    if (condition === null) {
      const named = check.name === null ? '' : `constraint ${engine.dialect.quote(check.name)} `;
      keptLines.push(keptLine(`${named}check (${check.expression})`, indent));
    } else {
      const own = check.name !== null && isWritable(check.name) ? written(check.name) : null;
      lines.push(`${indent}check ${own ?? checkName(about, names)}: ${condition}${namedTail(check.name)}`);
    }
  }
  return [...lines, ...keptLines];
}

/** The `kept` lines of a table: constraints, options, indexes with more to them, triggers; or its whole statement. */
export function tellKept(table: Table, indent: string, { engine, whole, statements }: ImportContext): string[] {
  const isWhole = whole.has(placeOf(fullName(table.name)));
  const indexes = table.indexes.flatMap((index) =>
    index.sql === null && isWritable(index.name) ? [] : [indexSql(engine.dialect, table, index)],
  );
  return [
    ...(isWhole ? [statementOf(engine, table, statements)] : [...table.constraints, ...table.options]),
    ...indexes,
    ...writtenTriggers(table).map(({ sql }) => sql),
  ].map((sql) => keptLine(sql, indent));
}

/** The statement of a table: as the catalogue of SQLite keeps it, or as its parts make it. */
export function statementOf(engine: ImportEngine, table: Table, statements: ReadonlyMap<string, string>): string {
  const kept = engine.dialect.name === 'sqlite' ? statements.get(table.name.name) : undefined;
  return kept ?? createSql(engine.dialect, table);
}
