import { quoteText } from '../notation/index.js';
import { parseWire, type ValueType, type Wire } from '../values/index.js';
import type { ImportEngine } from './engines.js';

/**
 * A default as the notation writes it: as a value of the field's type where that makes the same SQL again, else as
 * SQL. Null where it is of several lines, which no text of the notation holds.
 */
export function defaultOf({ dialect, plainDefault }: ImportEngine, sql: string, type: ValueType): string | null {
  const plain = plainDefault(sql);
  const value = literalOf(plain, type);
  if (value !== null && dialect.values.defaultOf(type, { kind: 'value', value: value.wire }) === plain) return value.written;
  if (sql === 'NULL') return 'null';
  return /[\r\n]/.test(sql) ? null : `sql(${quoteText(sql)})`;
}

function literalOf(sql: string, type: ValueType): { written: string; wire: Wire } | null {
  const upper = sql.toUpperCase();
  const text = /^'((?:[^']|'')*)'$/s.exec(sql)?.[1]?.replaceAll("''", "'");
  const number = /^-?\d+(\.\d+)?$/.exec(sql)?.[0];
  const value =
    type.kind === 'boolean'
      ? ({ '0': 'false', '1': 'true', FALSE: 'false', TRUE: 'true' }[text ?? upper] ?? '')
      : (text ?? number);
  if (value === undefined || value.includes('\n') || type.kind === 'bytes' || type.kind === 'json' || type.kind === 'sql')
    return null;
  const parsed = parseWire(type, value);
  if (!parsed.ok) return null;
  const plain = ['integer', 'bigint', 'real', 'decimal', 'boolean'].includes(type.kind);
  return { written: plain ? String(parsed.value) : quoteText(value), wire: parsed.value };
}
