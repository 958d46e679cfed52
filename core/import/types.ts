import { quoteText } from '../notation/index.js';
import type { Column } from '../schema/index.js';
import { parseWire, type ValueType } from '../values/index.js';

/**
 * The type that a declared type of SQLite stands for. An INTEGER holds 64 bits there, so it is a bigint; what the
 * notation has no word for keeps its declaration.
 */
export function typeOfDeclared(declared: string): ValueType {
  const type = declared.trim().toUpperCase();
  const [, word = '', first, second] = /^([A-Z_ ]*?)\s*(?:\(\s*(\d+)\s*(?:,\s*(\d+)\s*)?\))?$/.exec(type) ?? [];
  switch (word) {
    case 'INTEGER':
    case 'INT':
    case 'BIGINT':
    case 'SMALLINT':
    case 'TINYINT':
    case 'MEDIUMINT':
    case 'UNSIGNED BIG INT':
    case 'INT UNSIGNED':
    case 'INT8':
    case 'INT2':
      return { kind: 'bigint' };
    case 'VARCHAR':
    case 'CHARACTER VARYING':
    case 'CHAR':
    case 'CHARACTER':
    case 'NVARCHAR':
    case 'NCHAR':
    case 'VARYING CHARACTER':
      return { kind: 'text', length: first === undefined ? null : Number(first) };
    case 'TEXT':
    case 'CLOB':
    case 'LONGTEXT':
    case 'MEDIUMTEXT':
    case 'TINYTEXT':
      return { kind: 'text', length: null };
    case 'BOOLEAN':
    case 'BOOL':
      return { kind: 'boolean' };
    case 'REAL':
    case 'DOUBLE':
    case 'FLOAT':
    case 'DOUBLE PRECISION':
      return { kind: 'real' };
    case 'DECIMAL':
    case 'NUMERIC':
      if (first === undefined || Number(second ?? 0) > Number(first)) break;
      return { kind: 'decimal', precision: Number(first), scale: Number(second ?? 0) };
    case 'DATE':
      return { kind: 'date' };
    case 'TIME':
      return { kind: 'time' };
    case 'TIMESTAMP':
    case 'DATETIME':
      return { kind: 'timestamp' };
    case 'UUID':
      return { kind: 'uuid' };
    case 'JSON':
      return { kind: 'json' };
    case 'BLOB':
      return { kind: 'bytes' };
    default:
  }
  return { kind: 'sql', declaration: declared };
}

/** A default as the notation writes it; null where it has no word for it. */
export function defaultOf(column: Column, type: ValueType): string | null {
  const sql = column.default?.trim() ?? '';
  const upper = sql
    .replace(/^\((.*)\)$/s, '$1')
    .trim()
    .toUpperCase();
  if (upper === 'CURRENT_TIMESTAMP') return type.kind === 'timestamp' ? 'now' : null;
  if (upper === 'CURRENT_DATE') return type.kind === 'date' ? 'today' : null;
  if (upper === 'NULL') return 'null';
  const text = /^'((?:[^']|'')*)'$/s.exec(sql)?.[1]?.replaceAll("''", "'");
  const number = /^[+-]?\d+(\.\d+)?$/.exec(sql)?.[0];
  const value =
    type.kind === 'boolean'
      ? ({ '0': 'false', '1': 'true', FALSE: 'false', TRUE: 'true' }[text ?? upper] ?? '')
      : (text ?? number);
  if (value === undefined || value.includes('\n')) return null;
  const parsed = parseWire(type, value);
  if (!parsed.ok || type.kind === 'bytes' || type.kind === 'json') return null;
  if (['integer', 'bigint', 'real', 'decimal'].includes(type.kind)) return String(parsed.value);
  if (type.kind === 'boolean') return value;
  if (type.kind === 'sql' && number !== undefined) return number;
  return quoteText(type.kind === 'timestamp' || type.kind === 'time' || type.kind === 'date' ? value : String(parsed.value));
}
