import type { Dialect } from '../dialects/index.js';

const LITERALS =
  /'(?:[^'\\]|''|\\.)*'|\b0x[0-9a-f]+\b|x'[0-9a-f]*'|(?<![\w$."`])-?\d+(?:\.\d+)?(?:e[+-]?\d+)?\b|\$\d+|(?<!:):[a-z_]\w*|@\w+|\?\d*|\b(?:true|false)\b|(?<!\bis )(?<!\bnot )\bnull\b/gi;

/** What stands between double quotes: a name, or for some engines a value. */
const DOUBLE_QUOTED = /"(?:[^"\\]|""|\\.)*"/g;

/**
 * The shape of a statement: what it asks, without the values that it was asked with. Lists of values are as long as one, blanks
 * are one each, and words of SQL are small.
 *
 * @param doubleQuoted what the database that was asked takes it for where it stands between double quotes
 */
export function shapeOf(sql: string, doubleQuoted: Dialect['doubleQuoted'] = 'name'): string {
  const plain = doubleQuoted === 'text' ? sql.replace(DOUBLE_QUOTED, '?') : sql;
  return plain
    .replace(LITERALS, '?')
    .replace(/\s+/g, ' ')
    .replace(/\(\s*\?(?:\s*,\s*\?)*\s*\)/g, '(?)')
    .replace(/(\(\?\))(?:\s*,\s*\(\?\))+/g, '$1')
    .replace(
      /\b(?:SELECT|FROM|WHERE|AND|OR|NOT|IN|IS|NULL|ORDER BY|GROUP BY|HAVING|LIMIT|OFFSET|LEFT|INNER|OUTER|JOIN|ON|AS|ASC|DESC|INSERT|INTO|VALUES|UPDATE|SET|DELETE|DISTINCT|COUNT|BETWEEN|LIKE|EXISTS)\b/g,
      (word) => word.toLowerCase(),
    )
    .trim();
}
