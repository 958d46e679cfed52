import type { KeptSql } from '../model/index.js';
import { readCreateTable, type SqlToken, sqlName, sqlTokens } from '../sql/index.js';
import type { ForeignKey, Index, Table, TableTrigger } from './schema.js';

/** The kept SQL of one table, sorted by where it belongs. */
export type KeptParts = Pick<Table, 'constraints' | 'options' | 'triggers' | 'indexes' | 'statement'>;

export const NOTHING_KEPT: KeptParts = { constraints: [], options: [], triggers: [], indexes: [], statement: null };

/** Sorts kept SQL by what it was read as: a constraint or an option of the table, an index, a trigger, or the whole statement. */
export function keptParts(pieces: readonly KeptSql[]): KeptParts {
  const ofForm = (form: KeptSql['form'], makes: string | null = null) =>
    pieces.filter((piece) => piece.form === form && piece.makes === makes).map(({ sql }) => sql);
  const whole = pieces.filter(({ form, makes }) => form === 'statement' && makes !== 'index' && makes !== 'trigger');
  return {
    constraints: ofForm('constraint'),
    options: ofForm('option'),
    triggers: ofForm('statement', 'trigger').map(writtenTrigger),
    indexes: ofForm('statement', 'index').map(indexOf),
    statement: whole.at(-1)?.sql ?? null,
  };
}

/** A trigger that stands as SQL, with the name that it has there. */
export function writtenTrigger(sql: string): TableTrigger {
  return { kind: 'written', name: nameBehind(sql, 'trigger'), sql };
}

function indexOf(sql: string): Index {
  const unique = sqlTokens(sql)[1]?.text.toLowerCase() === 'unique';
  return { name: nameBehind(sql, 'index'), columns: [], unique, sql };
}

/** The name of what a statement makes: behind the word for it, `if not exists`, and the name of a schema. */
function nameBehind(sql: string, word: 'index' | 'trigger'): string {
  const tokens = sqlTokens(sql);
  const is = (token: SqlToken | undefined, text: string) => token?.kind === 'word' && token.text.toLowerCase() === text;
  let at = tokens.findIndex((token) => is(token, word)) + 1;
  if (is(tokens[at], 'concurrently')) at += 1;
  if (is(tokens[at], 'if')) at += 3;
  if (tokens[at + 1]?.text === '.') at += 2;
  const name = tokens[at];
  return name === undefined ? '' : sqlName(name);
}

const BEFORE_TABLES =
  /^create\s+(or\s+replace\s+)?(type|domain|sequence|extension|schema|function|procedure|aggregate|operator|collation)\b/i;

/** Does kept SQL make something that tables may stand on? */
export function standsBefore(sql: string): boolean {
  return BEFORE_TABLES.test(sql.trimStart());
}

/** Where a foreign key that stands as SQL leads, and over which columns; null where it is none. */
export function foreignKeyIn(sql: string): Pick<ForeignKey, 'columns' | 'schema' | 'table' | 'references'> | null {
  const columns = foreignKeyColumns(sql);
  const tokens = sqlTokens(sql);
  const at = tokens.findIndex(({ kind, text }) => kind === 'word' && text.toLowerCase() === 'references') + 1;
  const [first, dot, second] = tokens.slice(at, at + 3);
  if (columns === null || at === 0 || first === undefined) return null;
  const named = dot?.text === '.' && second !== undefined ? { schema: sqlName(first), table: sqlName(second) } : null;
  const open = at + (named === null ? 1 : 3);
  const close = tokens.findIndex(({ text }, index) => index > open && text === ')');
  const listed = tokens[open]?.text === '(' ? tokens.slice(open + 1, close) : [];
  return {
    columns,
    schema: named?.schema ?? null,
    table: named?.table ?? sqlName(first),
    references: listed.filter(({ kind }) => kind === 'word' || kind === 'quoted').map(sqlName),
  };
}

/** The columns of a foreign key that stands as SQL; null where it is no foreign key. */
export function foreignKeyColumns(sql: string): readonly string[] | null {
  const { constraints } = readCreateTable(`create table t (${sql})`);
  return constraints.find(({ kind }) => kind === 'foreign key')?.columns ?? null;
}
