import { eachSqlToken, type ReadingStatement } from '../../core/sql/index.js';
import type { BoundParameter } from '../../core/values/index.js';
import type { PlainLimits, PlainRows } from '../engine.js';

/** Rows as arrays; each value is the text that the server has for it. */
export type RawRows = readonly (readonly unknown[])[];

/** A connection to a database server, with the settings pinned that answers depend on. */
export interface Connection {
  /** Runs one statement; values stand for its placeholders, in order. */
  query(sql: string, values?: readonly BoundParameter[]): Promise<RawRows>;
  /** Runs one statement that reads, until so many rows have come or they hold so much. */
  readSome(statement: ReadingStatement, most: PlainLimits): Promise<Omit<PlainRows, 'milliseconds' | 'steps'>>;
}

/** A statement with the placeholders of a driver in place of its named parameters. */
export interface Positional {
  readonly sql: string;
  readonly values: readonly BoundParameter[];
}

/** SQL with its placeholders, and the name of the parameter that each stands for. */
interface PositionalSql {
  readonly sql: string;
  readonly names: readonly string[];
}

const MOST_PLACED = 200;

/**
 * A function from SQL with named parameters to SQL with the placeholders of a driver, and the values in their order. A text
 * is read once, as loads send the same few again and again.
 *
 * @param placeholder how the driver writes the placeholder of a number, from 1
 * @param again a placeholder may be used twice; else each use of a parameter is one of its own
 */
export function positionalBy(
  placeholder: (number: number) => string,
  again: boolean,
): (sql: string, parameters: Readonly<Record<string, BoundParameter>>) => Positional {
  const placed = new Map<string, PositionalSql>();
  return (sql, parameters) => {
    const key = `${Object.keys(parameters).join()} ${sql}`;
    const known = placed.get(key) ?? place(sql, parameters, placeholder, again);
    placed.delete(key);
    placed.set(key, known);
    for (const oldest of placed.keys()) {
      if (placed.size <= MOST_PLACED) break;
      placed.delete(oldest);
    }
    return { sql: known.sql, values: known.names.map((name) => parameters[name] ?? null) };
  };
}

function place(
  sql: string,
  parameters: Readonly<Record<string, BoundParameter>>,
  placeholder: (number: number) => string,
  again: boolean,
): PositionalSql {
  const names: string[] = [];
  let written = '';
  let at = 0;
  for (const token of eachSqlToken(sql)) {
    const name = token.text.slice(1);
    // The second colon of a cast begins no parameter.
    const isNamed = token.kind === 'parameter' && token.text.startsWith(':') && sql[token.start - 1] !== ':';
    if (!isNamed || !Object.hasOwn(parameters, name)) continue;
    const before = again ? names.indexOf(name) : -1;
    const number = before === -1 ? names.push(name) : before + 1;
    written += sql.slice(at, token.start) + placeholder(number);
    at = token.end;
  }
  return { sql: written + sql.slice(at), names };
}
