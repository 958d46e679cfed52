import { lineCounter } from './postgres-script.js';
import type { ScriptStatement } from './script.js';

const PIECE = /-- [^\n]*|--\n|#[^\n]*|\/\*[\s\S]*?\*\/|'(?:[^'\\]|\\[\s\S]|'')*'?|"(?:[^"\\]|\\[\s\S]|"")*"?|`(?:[^`]|``)*`?/y;

const MAKES = new Set(['create', 'insert', 'replace', 'update', 'delete', 'alter', 'drop', 'truncate', 'rename', 'with']);
const REFUSED = new Set(['load', 'install', 'uninstall', 'source', 'handler', 'shutdown', 'kill']);
const PASSED_OVER = new Set([
  'set',
  'use',
  'lock',
  'unlock',
  'start',
  'begin',
  'commit',
  'rollback',
  'savepoint',
  'release',
  'select',
  'values',
  'table',
  'show',
  'analyze',
  'optimize',
  'check',
  'checksum',
  'flush',
  'describe',
  'desc',
  'explain',
]);
const BEYOND =
  /^(create|alter|drop)\s+(or\s+replace\s+)?(definer\s*=\s*\S+\s+)?(database|schema|user|role|server|event)\b|\binto\s+(out|dump)file\b/i;
/** A comment that the server reads as SQL from some version on. */
const EXECUTED = /^\/\*M?!\d*\s*([\s\S]*?)\s*\*\/$/;

/**
 * Cuts a script into its statements, as MariaDB's shell does: `delimiter` changes what ends one, and a comment that begins
 * with an exclamation mark is SQL.
 */
export function* mariadbStatements(script: string): Generator<ScriptStatement> {
  const lines = lineCounter(script);
  let delimiter = ';';
  let parts = '';
  /** Where the statement begins; before that there is only space. */
  let from = -1;
  let at = 0;
  const take = (): ScriptStatement | null => {
    const sql = parts.trim();
    const line = lines(Math.max(0, from));
    parts = '';
    from = -1;
    return sql === '' ? null : { sql, line, sort: sortOf(sql) };
  };
  const add = (text: string) => {
    if (from < 0 && text.trim() !== '') from = at;
    parts += text;
  };
  while (at < script.length) {
    if (from < 0) {
      const changed = /^[ \t]*delimiter[ \t]+(\S+)[^\n]*(\n|$)/i.exec(script.slice(at, at + 200));
      if (changed !== null && (at === 0 || script[at - 1] === '\n')) {
        delimiter = changed[1] ?? ';';
        at += changed[0].length;
        continue;
      }
    }
    if (script.startsWith(delimiter, at)) {
      at += delimiter.length;
      const statement = take();
      if (statement !== null) yield statement;
      continue;
    }
    PIECE.lastIndex = at;
    const piece = PIECE.exec(script)?.[0];
    if (piece === undefined) {
      add(script[at] ?? '');
      at += 1;
      continue;
    }
    const executed = EXECUTED.exec(piece)?.[1];
    if (executed !== undefined) add(`${executed} `);
    else if (/^(--|#|\/\*)/.test(piece)) parts += ' ';
    else add(piece);
    at += piece.length;
  }
  const rest = take();
  if (rest !== null) yield rest;
}

function sortOf(sql: string): ScriptStatement['sort'] {
  const word = /^\w+/.exec(sql)?.[0].toLowerCase() ?? '';
  if (BEYOND.test(sql) || REFUSED.has(word)) return 'refused';
  if (MAKES.has(word)) return 'makes';
  return PASSED_OVER.has(word) ? 'passed over' : 'left out';
}
