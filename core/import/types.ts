import type { ValueType } from '../values/index.js';

/**
 * The type that a declared type of SQLite stands for. An INTEGER holds 64 bits there, so it is a bigint; what the
 * notation has no word for keeps its declaration.
 */
export function typeOfDeclared(declared: string): ValueType {
  const type = declared.trim().toUpperCase();
  const [, words = '', first, second] =
    /^([A-Z_ ]*?)\s*(?:\(\s*(\d+)\s*(?:,\s*(\d+)\s*)?\))?(?: (?:UN)?SIGNED)?$/.exec(type) ?? [];
  const word = words
    .replace(/\b(?:UN)?SIGNED\b/, '')
    .replace(/\s+/g, ' ')
    .trim();
  switch (word) {
    case 'INTEGER':
    case 'INT':
    case 'BIGINT':
    case 'SMALLINT':
    case 'TINYINT':
    case 'MEDIUMINT':
    case 'BIG INT':
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
