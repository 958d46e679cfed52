import type { DialectName } from '../../notation/index.js';
import { depthsOf } from './expression.js';
import { type StatedToken, statedTokens } from './lexer.js';

/** The form of kept SQL: a part of a table, or a statement that makes one thing. */
export type StatedForm = 'constraint' | 'option' | 'statement';

export type ReadStated =
  | {
      readonly ok: true;
      readonly form: StatedForm;
      /** What it makes, in a word of SQL: *trigger*, *view*; null of a part of a table. */
      readonly makes: string | null;
      readonly tokens: readonly StatedToken[];
    }
  | { readonly ok: false; readonly why: string };

const CONSTRAINTS = new Set([
  'constraint',
  'check',
  'unique',
  'foreign',
  'primary',
  'key',
  'exclude',
  'fulltext',
  'spatial',
  'index',
]);

/** Words that may stand between `create` and what it makes. */
const BETWEEN: Readonly<Record<DialectName, ReadonlySet<string>>> = {
  sqlite: new Set(['unique', 'virtual']),
  postgres: new Set(['or', 'replace', 'unique', 'unlogged', 'materialized', 'constraint', 'recursive', 'event', 'trusted']),
  mariadb: new Set([
    'or',
    'replace',
    'unique',
    'fulltext',
    'spatial',
    'algorithm',
    '=',
    'undefined',
    'merge',
    'temptable',
    'sql',
    'security',
    'invoker',
    'definer',
    'aggregate',
  ]),
};

/** What one statement of kept SQL may make. */
const MAKES: Readonly<Record<DialectName, ReadonlySet<string>>> = {
  sqlite: new Set(['index', 'trigger', 'view', 'table']),
  postgres: new Set([
    'index',
    'trigger',
    'view',
    'table',
    'function',
    'procedure',
    'type',
    'domain',
    'sequence',
    'schema',
    'extension',
    'rule',
    'policy',
    'statistics',
  ]),
  mariadb: new Set(['index', 'trigger', 'view', 'table', 'function', 'procedure', 'sequence']),
};

/** Statements that say more of what was made, word by word; `*` stands for a name, `…` for a text, `+` for the rest of one part of a table. */
const SAYS_MORE: Readonly<Record<DialectName, readonly string[]>> = {
  sqlite: [],
  postgres: [
    'alter sequence * owned by *',
    'alter table * add foreign key +',
    'alter table * add constraint * foreign key +',
    'alter table * enable row level security',
    'alter table * force row level security',
    'alter table * disable trigger *',
    'alter table * enable always trigger *',
    'alter table * enable replica trigger *',
    'comment on view * is …',
    'comment on materialized view * is …',
  ],
  mariadb: [],
};

/** Options that stand behind a table's bracket (of MariaDB: “CREATE TABLE”, table options; of PostgreSQL: CREATE TABLE). */
const OPTIONS: Readonly<Record<DialectName, ReadonlySet<string>>> = {
  sqlite: new Set(['without', 'strict']),
  postgres: new Set(['inherits', 'partition', 'using', 'with', 'without']),
  mariadb: new Set([
    'engine',
    'default',
    'character',
    'charset',
    'collate',
    'row_format',
    'with',
    'partition',
    'comment',
    'auto_increment',
    'key_block_size',
    'page_compressed',
    'page_compression_level',
    'encrypted',
    'encryption_key_id',
    'checksum',
    'min_rows',
    'max_rows',
    'avg_row_length',
    'pack_keys',
    'delay_key_write',
    'stats_persistent',
    'stats_auto_recalc',
    'stats_sample_pages',
    'union',
    'insert_method',
    'connection',
    'file_name',
    'table_type',
    'sequence',
    'transactional',
    'data',
    'index',
  ]),
};

/**
 * Reads kept SQL: exactly one constraint or option of a table, or one statement that makes one thing and does nothing else.
 * The engine is given it as one statement too; this reading comes before, and says what is wrong in words.
 */
export function readStated(sql: string, dialect: DialectName): ReadStated {
  const fault = (why: string): ReadStated => ({ ok: false, why });
  const tokens = statedTokens(sql, dialect);
  if ('why' in tokens) return fault(tokens.why);
  const [first] = tokens;
  if (first === undefined) return fault('it is empty');
  const depths = depthsOf(tokens);
  if ('why' in depths) return fault(depths.why);
  const word = first.kind === 'word' ? first.word : '';
  const isIndexOption = dialect === 'mariadb' && word === 'index' && tokens[1]?.word === 'directory';
  if (CONSTRAINTS.has(word) && !isIndexOption) return part('constraint', tokens, depths);
  if (OPTIONS[dialect].has(word)) return part('option', tokens, depths);
  if (word === 'create') {
    const at = tokens.findIndex(({ word: between }, index) => index > 0 && !BETWEEN[dialect].has(between));
    const made = tokens[at];
    if (made === undefined || made.kind !== 'word' || !MAKES[dialect].has(made.word))
      return fault(
        `it makes ${made === undefined ? 'nothing' : `a ${made.text}`}, and kept SQL makes ${listed(MAKES[dialect])}, one constraint or one option of a table`,
      );
    if (made.word === 'schema' && tokens.slice(at).some(({ word: inside }) => inside === 'create'))
      return fault('it makes more than one thing');
    const end = bodyEnd(tokens, dialect, made.word);
    if (end !== null && end !== tokens.length) return fault('something stands behind its end: it is more than one statement');
    const cut = end === null ? tokens.findIndex(({ kind, text }) => kind === 'symbol' && text === ';') : -1;
    if (cut >= 0) return fault('it holds a semicolon: it is more than one statement');
    const isEvent = tokens.slice(1, at).some(({ word: between }) => between === 'event');
    return { ok: true, form: 'statement', makes: isEvent ? 'event trigger' : made.word, tokens };
  }
  for (const pattern of SAYS_MORE[dialect]) {
    if (!fits(tokens, depths, pattern.split(' '))) continue;
    return { ok: true, form: 'statement', makes: null, tokens };
  }
  return fault(
    `it begins with ${first.text.slice(0, 40)}, and kept SQL is one create ${listed(MAKES[dialect])}, one constraint or one option of a table`,
  );
}

const TAKES_ROWS = new Set(['select', 'values', 'table', 'as', 'like']);

/** A part of a table is one part: nothing of it closes the table, or begins the next part. */
function part(form: 'constraint' | 'option', tokens: readonly StatedToken[], depths: readonly number[]): ReadStated {
  for (const [index, { kind, text }] of tokens.entries()) {
    if (kind !== 'symbol') continue;
    if (text === ';') return { ok: false, why: 'it holds a semicolon' };
    if (text === ',' && depths[index] === 0 && form === 'constraint')
      return { ok: false, why: 'it holds a comma outside brackets: keep each constraint by itself' };
  }
  // An option may be followed by a select, whose rows the table then takes.
  const taken =
    form === 'option'
      ? tokens.find(
          ({ kind, word }, index) => kind === 'word' && (word === 'select' || (TAKES_ROWS.has(word) && depths[index] === 0)),
        )
      : undefined;
  if (taken !== undefined) return { ok: false, why: `it goes on with ${taken.text}, which is no option of a table` };
  return { ok: true, form, makes: null, tokens };
}

function listed(words: ReadonlySet<string>): string {
  const all = Array.from(words);
  return `${all.slice(0, -1).join(', ')} or ${all.at(-1)}`;
}

/** What opens a block inside the body of a trigger or a routine, where an `end` closes it. */
const OPENS_BLOCK: Readonly<Record<DialectName, ReadonlySet<string>>> = {
  sqlite: new Set(['case']),
  postgres: new Set(['case']),
  mariadb: new Set(['begin', 'case', 'if', 'loop', 'while', 'repeat', 'for']),
};

/** What a statement inside a body may stand behind. */
const BEFORE_STATEMENT = new Set([';', ':', 'begin', 'then', 'else', 'do', 'loop', 'repeat']);

/**
 * Where the statements inside a trigger or a routine end, as the number of a token; null where it has none. Semicolons may
 * stand in there alone. `end if`, `end loop` close what they name; MariaDB’s function `if( )` opens nothing.
 */
function bodyEnd(tokens: readonly StatedToken[], dialect: DialectName, made: string): number | null {
  if (!['trigger', 'function', 'procedure'].includes(made)) return null;
  // What a trigger of MariaDB does may be a block of any sort.
  const opensBody = dialect === 'mariadb' && made === 'trigger' ? OPENS_BLOCK.mariadb : new Set(['begin']);
  const row =
    opensBody.size > 1 ? tokens.findIndex(({ word }, index) => word === 'row' && tokens[index - 1]?.word === 'each') : -1;
  const begins = tokens.findIndex(
    ({ kind, word }, index) =>
      index > row && kind === 'word' && opensBody.has(word) && (dialect !== 'postgres' || tokens[index + 1]?.word === 'atomic'),
  );
  if (begins < 0) return null;
  let depth = 0;
  for (let at = begins; at < tokens.length; at++) {
    const token = tokens[at];
    if (token === undefined || token.kind !== 'word') continue;
    const next = tokens[at + 1];
    if (at === begins) depth = 1;
    else if (token.word === 'end') {
      depth -= 1;
      const closesNamed =
        dialect === 'mariadb' && next?.kind === 'word' && OPENS_BLOCK.mariadb.has(next.word) && next.word !== 'begin';
      if (closesNamed) at += 1;
      if (depth === 0) {
        // A label may be said again.
        const label = dialect === 'mariadb' && (tokens[at + 1]?.kind === 'word' || tokens[at + 1]?.kind === 'quoted');
        return at + (label ? 2 : 1);
      }
    } else if (OPENS_BLOCK[dialect].has(token.word) && opensBlock(tokens, at)) depth += 1;
  }
  return tokens.length + 1;
}

/** Whether a word opens a block here: `if`, `for` and `repeat` are statements, and mean something else elsewhere. */
function opensBlock(tokens: readonly StatedToken[], at: number): boolean {
  const { word } = tokens[at] ?? { word: '' };
  if (word === 'for') return tokens[at + 2]?.word === 'in';
  if (word !== 'if' && word !== 'repeat') return true;
  const before = tokens[at - 1];
  if (before === undefined || !BEFORE_STATEMENT.has(before.kind === 'symbol' ? before.text : before.word)) return false;
  if (word === 'repeat') return true;
  const rest = tokens.slice(at).find(({ kind, text, word: later }) => (kind === 'symbol' && text === ';') || later === 'then');
  return rest?.word === 'then';
}

/**
 * Whether tokens are these words, where `*` is a name that may be said with its schema, `…` is one text, and `+` is the rest of one part
 * of a table: a comma outside brackets would begin another.
 */
function fits(tokens: readonly StatedToken[], depths: readonly number[], pattern: readonly string[]): boolean {
  let at = 0;
  for (const wanted of pattern) {
    const token = tokens[at];
    if (token === undefined) return false;
    if (wanted === '…') return tokens.length === at + 1 && token.kind === 'string';
    if (wanted === '+')
      return tokens.every(
        ({ kind, text }, index) =>
          index < at || kind !== 'symbol' || (text !== ';' && (text !== ',' || (depths[index] ?? 0) > 0)),
      );
    if (wanted !== '*') {
      if (token.kind !== 'word' || token.word !== wanted) return false;
      at += 1;
      continue;
    }
    if (token.kind !== 'word' && token.kind !== 'quoted') return false;
    at += 1;
    while (tokens[at]?.text === '.') at += 2;
  }
  return at === tokens.length;
}
