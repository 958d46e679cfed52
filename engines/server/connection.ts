import { eachSqlToken } from '../../core/sql/index.js';
import type { BoundParameter } from '../../core/values/index.js';

/** Rows as arrays; each value is the text that the server has for it. */
export type RawRows = readonly (readonly unknown[])[];

/** A connection to a database server, with the settings pinned that answers depend on. */
export interface Connection {
  /** Runs one statement; values stand for its placeholders, in order. */
  query(sql: string, values?: readonly BoundParameter[]): Promise<RawRows>;
}

/** A statement with the placeholders of a driver in place of its named parameters. */
export interface Positional {
  readonly sql: string;
  readonly values: readonly BoundParameter[];
}

/**
 * Puts a driver's placeholders where a statement names its parameters.
 *
 * @param again whether a placeholder can stand for the same value twice, as `$1` can and `?` cannot
 */
export function positional(
  sql: string,
  parameters: Readonly<Record<string, BoundParameter>>,
  placeholder: (number: number) => string,
  again: boolean,
): Positional {
  const values: BoundParameter[] = [];
  const numbers = new Map<string, number>();
  let written = '';
  let at = 0;
  for (const token of eachSqlToken(sql)) {
    const name = token.text.slice(1);
    // The second colon of a cast begins no parameter.
    const isNamed = token.kind === 'parameter' && token.text.startsWith(':') && sql[token.start - 1] !== ':';
    if (!isNamed || !Object.hasOwn(parameters, name)) continue;
    let number = numbers.get(name);
    if (number === undefined || !again) {
      values.push(parameters[name] ?? null);
      number = values.length;
      numbers.set(name, number);
    }
    written += sql.slice(at, token.start) + placeholder(number);
    at = token.end;
  }
  return { sql: written + sql.slice(at), values };
}
