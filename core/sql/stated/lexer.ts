import type { DialectName } from '../../notation/index.js';

/** A token of stated SQL, as one engine reads it. `text` of a string holds its quotes. */
export interface StatedToken {
  readonly kind: 'word' | 'quoted' | 'string' | 'number' | 'symbol';
  readonly text: string;
  /** A word in small letters; a name without its quotes; a symbol as it stands; '' for a string. */
  readonly word: string;
  readonly start: number;
  readonly end: number;
}

/** Why a text cannot be cut into tokens. */
export interface Unreadable {
  readonly why: string;
}

const UNSEEN = 'it holds a character that is not seen';
const UNSEEN_CHARACTER = /[\x00-\x1f\x7f\u0085\u00a0\u2000-\u200f\u2028\u2029\ufeff]/;
const TAB = 9;
const LINE_FEED = 10;
const CARRIAGE_RETURN = 13;
const SPACE = 32;

/** Where the quoting of one engine differs from another's. */
interface Quoting {
  /** What closes a quoted name, by what opens it. */
  readonly names: Readonly<Record<string, string>>;
  /** What opens a string. */
  readonly strings: readonly string[];
  /** A backslash takes the character behind it into every string. */
  readonly backslashes: boolean;
  readonly dollars: boolean;
  readonly nestedComments: boolean;
  /** A # begins a comment. */
  readonly hashes: boolean;
  /** Two dashes begin a comment only where space follows. */
  readonly spacedDashes: boolean;
}

/**
 * How the engines quote, in the sessions that this program pins: SQLite, “SQL As Understood By SQLite: Keywords”; PostgreSQL,
 * 4.1 “Lexical Structure”; MariaDB, “String Literals”, “Comment Syntax”, “Identifier Names”.
 */
const QUOTING: Readonly<Record<DialectName, Quoting>> = {
  sqlite: {
    names: { '"': '"', '`': '`', '[': ']' },
    strings: ["'"],
    backslashes: false,
    dollars: false,
    nestedComments: false,
    hashes: false,
    spacedDashes: false,
  },
  postgres: {
    names: { '"': '"' },
    strings: ["'"],
    backslashes: false,
    dollars: true,
    nestedComments: true,
    hashes: false,
    spacedDashes: false,
  },
  mariadb: {
    names: { '`': '`' },
    strings: ["'", '"'],
    backslashes: true,
    dollars: false,
    nestedComments: false,
    hashes: true,
    spacedDashes: true,
  },
};

const WORD = /[A-Za-z_\u0080-\uffff][\w$\u0080-\uffff]*/y;
const NUMBER = /(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?/y;
const DOLLAR = /\$(?:[A-Za-z_\u0080-\uffff][\w\u0080-\uffff]*)?\$/y;

/**
 * Cuts SQL into tokens as an engine does, or says why it cannot be: a quote or a comment that is left open, a character
 * that a statement has no use for. What one engine takes for a comment another runs, so there is no reading for all.
 */
export function statedTokens(sql: string, dialect: DialectName): readonly StatedToken[] | Unreadable {
  const quoting = QUOTING[dialect];
  const tokens: StatedToken[] = [];
  const push = (kind: StatedToken['kind'], start: number, end: number, word: string) =>
    tokens.push({ kind, text: sql.slice(start, end), word, start, end });
  if (sql.includes('\0') || /\r(?!\n)/.test(sql)) return { why: UNSEEN };
  let at = 0;
  while (at < sql.length) {
    const code = sql.charCodeAt(at);
    if (code === SPACE || code === TAB || code === LINE_FEED || code === CARRIAGE_RETURN) {
      at += 1;
      continue;
    }
    // Some engines take other spaces for letters, and a byte order mark for space.
    if (UNSEEN_CHARACTER.test(sql[at] ?? '')) return { why: UNSEEN };
    const char = sql[at] ?? '';
    const comment = commentEnd(sql, at, quoting);
    if (comment !== null) {
      if ('why' in comment) return comment;
      at = comment.end;
      continue;
    }
    const closes = quoting.names[char];
    if (closes !== undefined) {
      const end = quoteEnd(sql, at, closes, false);
      if (end === null) return { why: `a name is opened with ${char} and not closed` };
      push('quoted', at, end, sql.slice(at + 1, end - 1).replaceAll(closes + closes, closes));
      at = end;
      continue;
    }
    if (quoting.strings.includes(char)) {
      const before = tokens.at(-1);
      const escaping =
        quoting.backslashes || (dialect === 'postgres' && before?.word === 'e' && before.kind === 'word' && before.end === at);
      const end = quoteEnd(sql, at, char, escaping);
      if (end === null) return { why: 'a text is opened and not closed' };
      push('string', at, end, '');
      at = end;
      continue;
    }
    if (quoting.dollars && char === '$') {
      DOLLAR.lastIndex = at;
      const tag = DOLLAR.exec(sql)?.[0];
      if (tag === undefined) return { why: 'it holds a parameter' };
      const close = sql.indexOf(tag, at + tag.length);
      if (close < 0) return { why: `a text is opened with ${tag} and not closed` };
      push('string', at, close + tag.length, '');
      at = close + tag.length;
      continue;
    }
    WORD.lastIndex = at;
    const word = WORD.exec(sql)?.[0];
    if (word !== undefined) {
      if (UNSEEN_CHARACTER.test(word)) return { why: UNSEEN };
      push('word', at, at + word.length, word.toLowerCase());
      at += word.length;
      continue;
    }
    NUMBER.lastIndex = at;
    const number = NUMBER.exec(sql)?.[0];
    if (number !== undefined) {
      push('number', at, at + number.length, number);
      at += number.length;
      continue;
    }
    if (char === '?') return { why: 'it holds a parameter' };
    push('symbol', at, at + 1, char);
    at += 1;
  }
  return tokens;
}

/** Where the comment that begins here ends; null where none does. */
function commentEnd(sql: string, at: number, quoting: Quoting): { readonly end: number } | Unreadable | null {
  const dashes = sql.startsWith('--', at) && (!quoting.spacedDashes || /^[\x00-\x20]?$/.test(sql.charAt(at + 2)));
  if (dashes || (quoting.hashes && sql[at] === '#')) {
    const end = sql.indexOf('\n', at);
    // What stands behind it where it is put would be taken into the comment.
    return end < 0 ? { why: 'it ends in a comment' } : { end: end + 1 };
  }
  if (!sql.startsWith('/*', at)) return null;
  // MariaDB runs what stands in such a comment.
  if (quoting.hashes && /^\/\*M?!/.test(sql.slice(at, at + 4))) return { why: 'it holds a comment that is run' };
  let depth = 1;
  let end = at + 2;
  while (depth > 0) {
    const close = sql.indexOf('*/', end);
    if (close < 0) return { why: 'a comment is opened and not closed' };
    const open = quoting.nestedComments ? sql.indexOf('/*', end) : -1;
    if (open >= 0 && open < close) {
      depth += 1;
      end = open + 2;
    } else {
      depth -= 1;
      end = close + 2;
    }
  }
  return { end };
}

/** Where what is quoted from here ends, the quote with it; null where it does not. */
function quoteEnd(sql: string, from: number, closes: string, escaping: boolean): number | null {
  for (let at = from + 1; at < sql.length; at++) {
    const char = sql[at];
    if (escaping && char === '\\') at += 1;
    else if (char === closes) {
      // SQLite's square brackets have no way to hold one.
      if (sql[at + 1] !== closes || closes === ']') return at + 1;
      at += 1;
    }
  }
  return null;
}
