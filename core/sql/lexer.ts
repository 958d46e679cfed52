/** A token of SQL: what it is, as written, and where. */
export interface SqlToken {
  readonly kind: 'word' | 'quoted' | 'string' | 'number' | 'symbol' | 'parameter';
  readonly text: string;
  readonly start: number;
  readonly end: number;
}

const TOKEN =
  /(?<space>\s+|--[^\n]*|\/\*[\s\S]*?(?:\*\/|$))|(?<string>[xX]?'(?:[^']|'')*'?)|(?<quoted>"(?:[^"]|"")*"?|`(?:[^`]|``)*`?|\[[^\]]*\]?)|(?<word>[A-Za-z_\u0080-\uffff][\w$\u0080-\uffff]*)|(?<number>\d+(?:\.\d*)?(?:[eE][+-]?\d+)?|\.\d+)|(?<parameter>[?:@$][\w]+|\?)|(?<symbol><=|>=|<>|!=|==|\|\||<<|>>|->>|->|[\s\S])/gy;

/**
 * Cuts SQL, as SQLite reads it, into tokens; space and comments are left out.
 * The quoting is that of https://www.sqlite.org/lang_keywords.html. Never throws.
 */
export function sqlTokens(sql: string): SqlToken[] {
  return Array.from(eachSqlToken(sql));
}

/** The same, one by one: a script can be larger than its tokens would fit in memory. */
export function* eachSqlToken(sql: string): Generator<SqlToken> {
  for (const match of sql.matchAll(TOKEN)) {
    const groups = match.groups ?? {};
    const start = match.index;
    const text = match[0];
    const kind = (['string', 'quoted', 'word', 'number', 'parameter', 'symbol'] as const).find(
      (name) => groups[name] !== undefined,
    );
    if (kind !== undefined) yield { kind, text, start, end: start + text.length };
  }
}

/** A name as SQL means it: without its quotes. */
export function sqlName(token: SqlToken): string {
  if (token.kind !== 'quoted' && token.kind !== 'string') return token.text;
  const quote = token.text[0] === '[' ? ']' : (token.text[0] ?? '');
  return token.text.slice(1, -1).replaceAll(quote + quote, quote);
}
