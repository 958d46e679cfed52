import { readCreateTable, sqlName, sqlTokens } from '../sql/index.js';
import type { Index, Table } from './schema.js';

/** What the kept SQL of one table is, by where it stands. */
export type KeptParts = Pick<Table, 'constraints' | 'options' | 'triggers' | 'indexes' | 'statement'>;

export const NOTHING_KEPT: KeptParts = { constraints: [], options: [], triggers: [], indexes: [], statement: null };

/**
 * Sorts kept SQL by its first words: a whole `create table`, an index, a trigger; a constraint of the table; else an
 * option that stands behind its bracket.
 */
export function keptParts(pieces: readonly string[]): KeptParts {
  const constraints: string[] = [];
  const options: string[] = [];
  const triggers: string[] = [];
  const indexes: Index[] = [];
  let statement: string | null = null;
  for (const sql of pieces) {
    const tokens = sqlTokens(sql);
    const words = tokens.slice(0, 3).map((token) => token.text.toLowerCase());
    if (words[0] === 'create' && words.includes('index')) {
      const at = tokens.findIndex((token) => token.text.toLowerCase() === 'index') + 1;
      const name = tokens[at];
      indexes.push({ name: name === undefined ? '' : sqlName(name), columns: [], unique: words[1] === 'unique', sql });
    } else if (words[0] === 'create' && words.includes('trigger')) triggers.push(sql);
    else if (words[0] === 'create') statement = sql;
    else if (['constraint', 'check', 'unique', 'foreign', 'primary', 'key'].includes(words[0] ?? '')) constraints.push(sql);
    else options.push(sql);
  }
  return { constraints, options, triggers, indexes, statement };
}

const BEFORE_TABLES =
  /^create\s+(or\s+replace\s+)?(type|domain|sequence|extension|schema|function|procedure|aggregate|operator|collation)\b/i;

/** Does kept SQL make something that tables may stand on? */
export function standsBefore(sql: string): boolean {
  return BEFORE_TABLES.test(sql.trimStart());
}

/** The columns of a foreign key that stands as SQL; null where it is no foreign key. */
export function foreignKeyColumns(sql: string): readonly string[] | null {
  const { constraints } = readCreateTable(`create table t (${sql})`);
  return constraints.find(({ kind }) => kind === 'foreign key')?.columns ?? null;
}
