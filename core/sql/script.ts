import { eachSqlToken, type SqlToken } from './lexer.js';

/** A statement of a script, and where it stands. */
export interface ScriptStatement {
  readonly sql: string;
  /** The line that it begins in, counted from 1. */
  readonly line: number;
  /**
   * *makes*: it makes or fills a table, view, index or trigger. *passed over*: it does neither (a transaction, a pragma, a
   * select). *refused*: it would reach another file, or a setting of the program that runs it. *left out*: it says who may do
   * what, or begins with no word that is known; something of the script is lost with it.
   */
  readonly sort: 'makes' | 'passed over' | 'refused' | 'left out';
}

const MAKES = new Set(['create', 'insert', 'replace', 'update', 'delete', 'alter', 'drop', 'with']);
const REFUSED = new Set(['attach', 'detach', 'load_extension', 'vacuum']);
const PASSED_OVER = new Set([
  'begin',
  'commit',
  'end',
  'rollback',
  'savepoint',
  'release',
  'pragma',
  'select',
  'values',
  'analyze',
  'reindex',
  'explain',
]);

/**
 * Cuts a script into its statements, as SQLite's shell does: a trigger ends at the END that closes it, and lines that
 * begin with a dot are the shell's own.
 */
export function* statementsOf(script: string): Generator<ScriptStatement> {
  let first: SqlToken | null = null;
  let words: string[] = [];
  let depth = 0;
  let line = 1;
  let counted = 0;
  let skipTo = -1;
  const lineOf = (offset: number) => {
    for (let at = script.indexOf('\n', counted); at >= 0 && at < offset; at = script.indexOf('\n', at + 1)) {
      line += 1;
      counted = at + 1;
    }
    return line;
  };
  for (const token of eachSqlToken(script)) {
    if (token.start < skipTo) continue;
    if (first === null) {
      if (token.text === ';') continue;
      if (token.text === '.' && /(^|\n)[ \t]*$/.test(script.slice(Math.max(0, token.start - 200), token.start))) {
        const end = script.indexOf('\n', token.start);
        skipTo = end < 0 ? script.length : end;
        continue;
      }
      first = token;
      words = [];
      depth = 0;
    }
    const word = token.kind === 'word' ? token.text.toLowerCase() : token.kind === 'symbol' ? token.text : '';
    if (words.length < 4) words.push(word);
    const isTrigger = words[0] === 'create' && words.slice(1, 3).includes('trigger');
    if (isTrigger && (word === 'begin' || word === 'case')) depth += 1;
    if (isTrigger && word === 'end') depth -= 1;
    if (token.text !== ';' || depth > 0) continue;
    yield { sql: script.slice(first.start, token.start), line: lineOf(first.start), sort: sortOf(words[0] ?? '') };
    first = null;
  }
  if (first !== null) yield { sql: script.slice(first.start), line: lineOf(first.start), sort: sortOf(words[0] ?? '') };
}

function sortOf(word: string): ScriptStatement['sort'] {
  if (MAKES.has(word)) return 'makes';
  if (REFUSED.has(word)) return 'refused';
  return PASSED_OVER.has(word) ? 'passed over' : 'left out';
}
