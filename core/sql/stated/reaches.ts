import type { DialectName } from '../../notation/index.js';
import { type StatedToken, statedTokens } from './lexer.js';

/** A word of SQL by which it reaches beyond the tables of its own database, and what that is. */
const REACHES: Readonly<Record<DialectName, readonly (readonly [RegExp, string])[]>> = {
  // Nothing of a SQLite file reaches out of it: other files cannot be attached, and extensions are not loaded.
  sqlite: [],
  postgres: [
    [/\bsecurity\s+definer\b/i, 'it runs with the rights of who made it (security definer)'],
    [/\bevent\s+trigger\b/i, 'it runs on statements of the whole database (event trigger)'],
    [/^\s*create\s+(?:trusted\s+)?extension\b/i, 'it installs an extension, which is code of its own'],
    [/\bcopy\b/i, 'it copies from or to files or programs'],
    [
      /\b(pg_read_\w*file|pg_ls_\w+|pg_stat_file|pg_write_\w*file|pg_file_\w+|lo_import|lo_export)\b/i,
      'it reads or writes files of the server',
    ],
    [/\b(dblink\w*|postgres_fdw|file_fdw)\b/i, 'it connects to other databases or files'],
    [/\bexecute\s+(?!function\b|procedure\b)/i, 'it puts a statement together while it runs'],
    [
      /\b(set|reset)\s+(local\s+|session\s+)?(role|session\s+authorization)\b|\bset_config\b/i,
      'it changes whose rights or settings hold',
    ],
    [
      /\bpg_(terminate|cancel)_backend\b|\bpg_reload_conf\b|\balter\s+(system|role|user|database)\b/i,
      'it acts on the server itself',
    ],
    [/\bnotify\b|\bpg_notify\b/i, 'it sends messages to other sessions'],
  ],
  mariadb: [
    [/\bsoname\b/i, 'it loads code from a library of the server'],
    [/\bsql\s+security\s+definer\b/i, 'it runs with the rights of who made it (sql security definer)'],
    [/\bload_file\b|\binto\s+(out|dump)file\b|\bload\s+(data|xml)\b/i, 'it reads or writes files of the server'],
    [
      /\bengine\s*=?\s*['"`]?(connect|federated\w*|spider|csv|s3|oqgraph|mroonga|sphinx)\b/i,
      'its engine keeps rows in files or on other servers',
    ],
    [/\b(data|index)\s+directory\b|\bfile_name\s*=/i, 'it names a file of the server'],
    [/\bexecute\s+immediate\b|\bprepare\b/i, 'it puts a statement together while it runs'],
    [/\bset\s+(global|password|role|@\s*@\s*global)\b|\bgrant\b|\bkill\b/i, 'it acts on the server itself'],
  ],
};

const LANGUAGES = new Set(['sql', 'plpgsql']);

/** In what stated SQL reaches beyond the tables of its database, in words; bodies that stand as texts are looked into too. */
export function reachesOf(dialect: DialectName, tokens: readonly StatedToken[]): string[] {
  const spelled = spelledOut(tokens, dialect);
  const found = REACHES[dialect].filter(([sign]) => sign.test(spelled)).map(([, what]) => what);
  if (dialect === 'postgres') {
    const at = tokens.findIndex(({ kind, word }) => kind === 'word' && word === 'language');
    const language = (tokens[at + 1]?.word || tokens[at + 1]?.text.replaceAll("'", '')) ?? '';
    if (at >= 0 && !LANGUAGES.has(language.toLowerCase()))
      found.push(`it is written in the language ${language}, which can do anything`);
  }
  return found;
}

/** Tokens with one space between, so that neither a comment nor a line break keeps words apart; bodies in dollars too. */
function spelledOut(tokens: readonly StatedToken[], dialect: DialectName): string {
  return tokens
    .map(({ kind, text }) => {
      const body = kind === 'string' ? /^(\$[^$]*\$)([\s\S]*)\1$/.exec(text)?.[2] : undefined;
      const inner = body === undefined ? null : statedTokens(body, dialect);
      return inner === null || 'why' in inner ? text : spelledOut(inner, dialect);
    })
    .join(' ');
}

/** The names before a dot: what may be another schema, or on MariaDB another database. */
export function qualifiersIn(tokens: readonly StatedToken[]): Set<string> {
  const found = new Set<string>();
  for (const [index, token] of tokens.entries()) {
    const isName = token.kind === 'word' || token.kind === 'quoted';
    const next = tokens[index + 1];
    if (isName && next?.text === '.' && next.kind === 'symbol') found.add(token.word);
  }
  return found;
}
