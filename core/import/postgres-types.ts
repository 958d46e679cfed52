import type { ValueType } from '../values/index.js';

/** The type that a type of PostgreSQL, as `format_type` writes it, stands for; what the notation has no word for keeps its own. */
export function typeOfPostgres(declared: string): ValueType {
  const plain = declared.replace(/ generated (always|by default) as identity.*$/, '');
  const [, word = '', first, second] =
    /^([a-z ]+?)(?:\((\d+)(?:,(\d+))?\))?( without time zone| with time zone)?$/.exec(plain) ?? [];
  const zone = / with time zone$/.test(plain);
  switch (word) {
    case 'integer':
    case 'smallint':
      return { kind: 'integer' };
    case 'bigint':
      return { kind: 'bigint' };
    case 'boolean':
    case 'date':
    case 'uuid':
      return { kind: word };
    case 'double precision':
    case 'real':
      return { kind: 'real' };
    case 'numeric':
      if (first === undefined || Number(second ?? 0) > Number(first)) break;
      return { kind: 'decimal', precision: Number(first), scale: Number(second ?? 0) };
    case 'text':
      return { kind: 'text', length: null };
    case 'character varying':
    case 'character':
      return { kind: 'text', length: first === undefined ? null : Number(first) };
    case 'time':
      if (!zone) return { kind: 'time' };
      break;
    case 'timestamp':
      return { kind: 'timestamp' };
    case 'json':
    case 'jsonb':
      return { kind: 'json' };
    case 'bytea':
      return { kind: 'bytes' };
    default:
  }
  return { kind: 'sql', declaration: declared };
}
