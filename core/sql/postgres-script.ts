import type { ScriptStatement } from './script.js';

/** What stands between statements, or inside one without ending it (PostgreSQL, 4.1 Lexical Structure). */
const PIECE =
  /--[^\n]*|\/\*|\$(?<tag>[A-Za-z_\u0080-\uffff]?[\w\u0080-\uffff]*)\$|[eE]'(?:[^'\\]|\\[\s\S]|'')*'?|'(?:[^']|'')*'?|"(?:[^"]|"")*"?|;|\bbegin\s+atomic\b|\\[^\n]*/giy;

const MAKES = new Set([
  'create',
  'insert',
  'update',
  'delete',
  'alter',
  'drop',
  'with',
  'comment',
  'do',
  'select',
  'truncate',
  'set',
]);
const REFUSED = new Set(['load', 'vacuum', 'cluster', 'checkpoint', 'listen', 'notify']);
const PASSED_OVER = new Set([
  'begin',
  'start',
  'commit',
  'end',
  'rollback',
  'abort',
  'savepoint',
  'release',
  'lock',
  'reset',
  'show',
  'discard',
  'analyze',
  'reindex',
  'explain',
  'values',
  'table',
  'declare',
  'fetch',
  'close',
  'deallocate',
]);
/** What a script sets for its own run; the session's settings here are pinned. */
const SET_ANYWAY =
  /^set\s+(search_path|default_tablespace|default_table_access_method|check_function_bodies|default_with_oids)\b/i;
const BEYOND =
  /^(create|alter|drop)\s+(database|role|user|group|tablespace|subscription|publication|server|event\s+trigger)\b|^alter\s+system\b/i;
const OWNER = /\bowner\s+to\s/i;
const MOST_ROWS = 500;
/** How far before a semicolon the `end` of a body is looked for. */
const ENDING = 200;

/**
 * Cuts a script into its statements, as PostgreSQL's shell does: texts, dollar quotes and comments may hold semicolons;
 * lines that begin with a backslash are the shell's own; rows that follow a `copy … from stdin` become inserts.
 */
export function* postgresStatements(script: string): Generator<ScriptStatement> {
  const lines = lineCounter(script);
  let start = 0;
  let at = 0;
  let atomic = 0;
  const cut = (end: number): ScriptStatement | null => {
    const from = start + leading(script.slice(start, end));
    const sql = script.slice(from, end).trim();
    return sql === '' ? null : { sql, line: lines(from), sort: sortOf(sql) };
  };
  while (at < script.length) {
    PIECE.lastIndex = at;
    const match = PIECE.exec(script);
    if (match === null) {
      at += 1;
      continue;
    }
    const [text] = match;
    const tag = match.groups?.tag;
    at = PIECE.lastIndex;
    if (text === '/*') at = commentEnd(script, at);
    else if (tag !== undefined) {
      const close = script.indexOf(text, at);
      at = close < 0 ? script.length : close + text.length;
    } else if (text.startsWith('\\')) {
      if (script.slice(start, at - text.length).trim() === '') start = at;
    } else if (/^begin\s/i.test(text)) atomic += 1;
    else if (text === ';') {
      if (atomic > 0 && !/\bend\s*;$/i.test(script.slice(Math.max(start, at - ENDING), at))) continue;
      atomic = 0;
      const statement = cut(at - 1);
      start = at;
      if (statement === null) continue;
      const copied = /^copy\s+([\s\S]+?)\s*(\([^)]*\))?\s+from\s+stdin/i.exec(statement.sql);
      if (copied === null) {
        yield statement;
        continue;
      }
      const first = script.indexOf('\n', at) + 1;
      const end = first === 0 ? -1 : script.slice(first).search(/^\\\.\r?$/m);
      const last = end < 0 ? script.length : first + end;
      yield* copiedRows(copied[1] ?? '', copied[2] ?? '', first === 0 ? '' : script.slice(first, last), statement.line + 1);
      at = end < 0 ? script.length : last + 2;
      start = at;
    }
  }
  const rest = cut(script.length);
  if (rest !== null) yield rest;
}

/** The rows of a `copy` as inserts (PostgreSQL, COPY, text format): tabs between, `\N` for null. */
function* copiedRows(table: string, columns: string, data: string, line: number): Generator<ScriptStatement> {
  const rows = data.split('\n').filter((row) => row !== '');
  for (let from = 0; from < rows.length; from += MOST_ROWS) {
    const lists = rows.slice(from, from + MOST_ROWS).map((row) => `(${row.replace(/\r$/, '').split('\t').map(cell).join(', ')})`);
    yield {
      sql: `insert into ${table} ${columns} overriding system value values ${lists.join(', ')}`,
      line: line + from,
      sort: 'makes',
    };
  }
}

const ESCAPES: Readonly<Record<string, string>> = { b: '\b', f: '\f', n: '\n', r: '\r', t: '\t', v: '\v' };

function cell(written: string): string {
  if (written === '\\N') return 'null';
  const value = written.replace(
    /\\(?:([0-7]{1,3})|x([0-9a-f]{1,2})|([\s\S]))/gi,
    (_all, octal?: string, hex?: string, letter = '') =>
      octal !== undefined
        ? String.fromCharCode(Number.parseInt(octal, 8))
        : hex !== undefined
          ? String.fromCharCode(Number.parseInt(hex, 16))
          : (ESCAPES[letter] ?? letter),
  );
  return `'${value.replaceAll("'", "''")}'`;
}

function sortOf(sql: string): ScriptStatement['sort'] {
  const word = /^\w+/.exec(sql)?.[0].toLowerCase() ?? '';
  if (BEYOND.test(sql) || REFUSED.has(word) || word === 'copy') return 'refused';
  if (word === 'alter' && OWNER.test(sql)) return 'passed over';
  if (word === 'set') return SET_ANYWAY.test(sql) ? 'makes' : 'passed over';
  if (MAKES.has(word)) return 'makes';
  return PASSED_OVER.has(word) ? 'passed over' : 'left out';
}

/** Comments nest there. */
function commentEnd(script: string, from: number): number {
  let depth = 1;
  let at = from;
  while (depth > 0 && at < script.length) {
    if (script.startsWith('*/', at)) depth -= 1;
    else if (script.startsWith('/*', at)) depth += 1;
    else {
      at += 1;
      continue;
    }
    at += 2;
  }
  return at;
}

/** How much space and comments stand before a statement. */
function leading(text: string): number {
  let at = 0;
  for (;;) {
    at += /^(?:\s+|--[^\n]*(?:\n|$))*/.exec(text.slice(at))?.[0].length ?? 0;
    if (!text.startsWith('/*', at)) return at;
    at = commentEnd(text, at + 2);
  }
}

/** The line of an offset, counted from 1; offsets are asked for in order. */
export function lineCounter(script: string): (offset: number) => number {
  let line = 1;
  let counted = 0;
  return (offset) => {
    for (let at = script.indexOf('\n', counted); at >= 0 && at < offset; at = script.indexOf('\n', at + 1)) {
      line += 1;
      counted = at + 1;
    }
    return line;
  };
}
