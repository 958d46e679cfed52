import type { ValueType } from '../values/index.js';

/** The type that a type of MariaDB, as its catalogue writes it, stands for; what the notation has no word for keeps its own. */
export function typeOfMariadb(declared: string): ValueType {
  const plain = declared.replace(/ (auto_increment|invisible|character set \w+)\b/g, '');
  const [, word = '', first, second, unsigned] =
    /^([a-z]+)(?:\((\d+)(?:,(\d+))?\))?( unsigned)?(?: zerofill)?$/.exec(plain) ?? [];
  switch (word) {
    case 'tinyint':
      return first === '1' ? { kind: 'boolean' } : { kind: 'integer' };
    case 'smallint':
    case 'mediumint':
      return { kind: 'integer' };
    case 'int':
      // Without a sign it goes further than 32 bits with one.
      return { kind: unsigned === undefined ? 'integer' : 'bigint' };
    case 'bigint':
      return { kind: 'bigint' };
    case 'double':
    case 'float':
      return { kind: 'real' };
    case 'decimal':
      return { kind: 'decimal', precision: Number(first ?? 10), scale: Number(second ?? 0) };
    case 'varchar':
    case 'char':
      return { kind: 'text', length: Number(first ?? 1) };
    case 'tinytext':
    case 'text':
    case 'mediumtext':
    case 'longtext':
      return { kind: 'text', length: null };
    case 'date':
    case 'uuid':
      return { kind: word };
    case 'time':
      return { kind: 'time' };
    case 'datetime':
    case 'timestamp':
      return { kind: 'timestamp' };
    case 'binary':
    case 'varbinary':
    case 'tinyblob':
    case 'blob':
    case 'mediumblob':
    case 'longblob':
      return { kind: 'bytes' };
    default:
  }
  return { kind: 'sql', declaration: declared };
}
