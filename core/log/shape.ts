import type { DialectName } from '../notation/index.js';

const LITERALS =
  /'(?:[^'\\]|''|\\.)*'|\b0x[0-9a-f]+\b|x'[0-9a-f]*'|(?<![\w$."`])-?\d+(?:\.\d+)?(?:e[+-]?\d+)?\b|\$\d+|(?<!:):[a-z_]\w*|@\w+|\?\d*|\b(?:true|false)\b|(?<!\bis )(?<!\bnot )\bnull\b/gi;

/** A text between double quotes, which MariaDB takes for a value where others take it for a name (MariaDB, “String Literals”). */
const DOUBLE_QUOTED = /"(?:[^"\\]|""|\\.)*"/g;

/**
 * The shape of a statement: what it asks, without the values that it was asked with. Lists of values are as long as one, blanks
 * are one each, and words of SQL are small.
 *
 * @param dialect that of the database which was asked; null where it is not known
 */
export function shapeOf(sql: string, dialect: DialectName | null = null): string {
  const plain = dialect === 'mariadb' ? sql.replace(DOUBLE_QUOTED, '?') : sql;
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
