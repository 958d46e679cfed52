import type { DialectName } from '../notation/index.js';
import { type Column, type Schema, type Table, writtenTriggers } from '../schema/index.js';
import { expressionFault, readStated, typeFault } from '../sql/index.js';
import { type Existing, fullName } from './existing.js';

/** A database without the SQL of its catalogue that a text may not state, and what that was. */
export interface Admitted {
  readonly existing: Existing;
  readonly refused: readonly string[];
}

/**
 * Leaves out of a database what its catalogue gives as one thing and is more than one: whoever made the file may have
 * planted it, and a text that kept it would carry it to wherever its tables are made.
 */
export function admitted(existing: Existing): Admitted {
  const { dialect, schema } = existing;
  const refused: string[] = [];
  const fits = (where: string, what: string, sql: string, fault: string | null): boolean => {
    if (fault !== null) refused.push(`${where}: ${what} is not carried, since ${fault}: ${shortened(sql)}`);
    return fault === null;
  };
  const statement = (where: string, what: string) => (sql: string) => fits(where, what, sql, statementFault(sql, dialect));
  const tables = schema.tables.map((table) => tableAdmitted(table, dialect, fits, statement));
  const made = new Map(
    Array.from(existing.statements).filter(([name, sql]) => statement(name, 'its CREATE TABLE as it stands')(sql)),
  );
  const admittedSchema: Schema = {
    prelude: schema.prelude.filter(statement('The database', 'a statement')),
    tables,
    others: schema.others.filter(statement('The database', 'a statement')),
  };
  return refused.length === 0
    ? { existing, refused }
    : { existing: { ...existing, schema: admittedSchema, statements: made }, refused };
}

type Fits = (where: string, what: string, sql: string, fault: string | null) => boolean;
type StatementFits = (where: string, what: string) => (sql: string) => boolean;

function tableAdmitted(table: Table, dialect: DialectName, fits: Fits, statement: StatementFits): Table {
  const where = fullName(table.name);
  const isExpression = (what: string, sql: string, inBrackets: boolean) =>
    fits(where, what, sql, expressionFault(sql, dialect, inBrackets));
  const column = (own: Column): Column => {
    const { name, type, generated } = own;
    const isType = fits(where, `the type of ${name}`, type, typeFault(type, dialect));
    const value = own.default !== null && isExpression(`the default of ${name}`, own.default, false) ? own.default : null;
    const isGenerated = generated !== null && isExpression(`what ${name} is computed from`, generated.sql, true);
    return { ...own, type: isType ? type : '', default: value, generated: isGenerated ? generated : null };
  };
  return {
    ...table,
    columns: table.columns.map(column),
    checks: table.checks.filter(({ expression }) => isExpression('a check', expression, true)),
    foreignKeys: table.foreignKeys.map((key) =>
      key.sql === null || statement(where, 'a foreign key as it stands')(key.sql) ? key : { ...key, sql: null },
    ),
    indexes: table.indexes.filter(({ sql, name }) => sql === null || statement(where, `the index ${name}`)(sql)),
    constraints: table.constraints.filter(statement(where, 'a constraint')),
    options: table.options.filter(statement(where, 'an option')),
    triggers: writtenTriggers(table).filter(({ sql }) => statement(where, 'a trigger')(sql)),
  };
}

function statementFault(sql: string, dialect: DialectName): string | null {
  const read = readStated(sql, dialect);
  return read.ok ? null : read.why;
}

function shortened(sql: string): string {
  const line = sql.replace(/[\s\x00-\x1f\x7f]+/g, ' ').trim();
  return line.length > 80 ? `${line.slice(0, 79)}…` : line;
}
