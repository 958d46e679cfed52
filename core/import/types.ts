import type { ValueType } from '../values/index.js';

/** Words of declared types by what they are meant to hold. SQLite itself looks at parts of them only. */
const MEANT: readonly (readonly [ValueType['kind'], RegExp])[] = [
  ['timestamp', /^(?:SMALL)?DATETIME|^TIMESTAMP/],
  ['date', /^DATE$/],
  ['time', /^TIME\b/],
  ['boolean', /^(?:BOOL|BIT$)/],
  ['uuid', /^(?:UUID|GUID|UNIQUEIDENTIFIER)$/],
  ['json', /^JSON$/],
  ['bytes', /BLOB|^(?:VAR)?BINARY$|^(?:LONG )?RAW$|^IMAGE$/],
];

/** Words in which those that an affinity is told by stand by chance. */
const BY_CHANCE = /^(?:INTERVAL|.*POINT)$/;

/**
 * The type that a declared type of SQLite stands for: by what its words are meant to hold, else by its affinity
 * (https://www.sqlite.org/datatype3.html#determination_of_column_affinity). An INTEGER holds 64 bits there, so it is a
 * bigint; what fits none keeps its declaration.
 */
export function typeOfDeclared(declared: string): ValueType {
  const other: ValueType = { kind: 'sql', declaration: declared };
  const [, words = '', first, second, behind = ''] =
    /^([A-Z_][A-Z_0-9 ]*?)\s*(?:\(\s*(\d+)\s*(?:,\s*(\d+)\s*)?\))?((?: [A-Z_]+)*)$/.exec(declared.trim().toUpperCase()) ?? [];
  const word = `${words}${behind}`
    .replace(/\b(?:UN)?SIGNED\b/g, '')
    .replace(/\s+/g, ' ')
    .trim();
  if (word === '' || BY_CHANCE.test(word)) return other;
  const meant = MEANT.find(([, pattern]) => pattern.test(word))?.[0];
  // A number behind BIT, or a length of bits, makes it another thing.
  if (meant !== undefined && !(meant === 'boolean' && Number(first ?? 1) > 1)) return { kind: meant } as ValueType;
  if (word.includes('INT')) return { kind: 'bigint' };
  if (/CHAR|CLOB|TEXT/.test(word)) {
    const bounded = first !== undefined && second === undefined && Number(first) > 0 && /CHAR/.test(word);
    return { kind: 'text', length: bounded ? Number(first) : null };
  }
  if (/REAL|FLOA|DOUB/.test(word)) return { kind: 'real' };
  const isDecimal = first !== undefined && Number(first) > 0 && Number(second ?? 0) <= Number(first);
  return isDecimal && /^(?:DEC|DECIMAL|NUMERIC|NUMBER|MONEY|CURRENCY)$/.test(word)
    ? { kind: 'decimal', precision: Number(first), scale: Number(second ?? 0) }
    : other;
}
