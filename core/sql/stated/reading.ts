import type { DialectName } from '../../notation/index.js';
import { type StatedToken, statedTokens } from './lexer.js';
import { reachesOf } from './reaches.js';

const BEGINS = new Set(['select', 'with', 'values', '(']);
const WRITES = new Set(['insert', 'update', 'delete', 'merge', 'replace', 'into', 'truncate', 'call', 'do', 'handler']);
/** What holds a session's locks or speaks to others: it writes nothing, and is still no reading. */
const ACTS = /^(lo_\w+|pg_advisory\w*|pg_try_advisory\w*|pg_logical_emit_message|get_lock|release_\w*locks?|sleep|benchmark)$/;

/** One statement that only reads. */
export interface ReadingStatement {
  /** It alone, without what stands around it. */
  readonly sql: string;
  /** It asks how another is answered. */
  readonly explains: boolean;
}

/**
 * The one statement that a text is, where it only reads, as an engine would take it; else why it is not run. It is the first of
 * the gates that what people type goes through, and never the only one.
 */
export function readingStatement(text: string, dialect: DialectName): ReadingStatement | { readonly fault: string } {
  const tokens = statedTokens(`${text}\n`, dialect);
  if ('why' in tokens) return { fault: `It is not run: ${tokens.why}.` };
  const fault = faultOf(tokens, dialect);
  const [first] = tokens;
  const last = tokens.findLast(({ text: written }) => written !== ';');
  if (fault !== null || first === undefined || last === undefined) return { fault: fault ?? 'There is no statement here.' };
  return { sql: text.slice(first.start, last.end), explains: first.word === 'explain' };
}

function faultOf(tokens: readonly StatedToken[], dialect: DialectName): string | null {
  const [first] = tokens;
  if (first === undefined) return 'There is no statement here.';
  const end = tokens.findIndex(({ kind, text }) => kind === 'symbol' && text === ';');
  if (end >= 0 && end < tokens.length - 1) return 'It is more than one statement. Run one at a time.';
  const explains = first.kind === 'word' && first.word === 'explain';
  const begin = explains ? tokens.find(({ word, kind }, at) => at > 0 && kind === 'word' && BEGINS.has(word)) : first;
  if (begin === undefined || !BEGINS.has(begin.word))
    return `Only what reads is run here: select, with, values, or explain of those, and not “${first.text.slice(0, 40)}”.`;
  for (const [at, token] of tokens.entries()) {
    if (token.kind !== 'word') continue;
    const next = tokens[at + 1];
    const before = tokens[at - 1];
    // A name behind a dot, and a function of that name, are no words of the statement.
    const isName = before?.text === '.' || next?.text === '(' || next?.text === '.';
    if (WRITES.has(token.word) && !isName) return `Only what reads is run here, and it says “${token.text}”.`;
    const isEscaped = token.word === 'u' && next?.text === '&' && next.start === token.end && dialect === 'postgres';
    if (isEscaped) return 'It writes a name or a text by the numbers of its letters (U&), so that it cannot be read here.';
  }
  const acts = tokens.find(({ kind, word }) => kind !== 'string' && ACTS.test(word.toLowerCase()));
  if (acts !== undefined && dialect !== 'sqlite') return `Only what reads is run here, and it calls ${acts.text}.`;
  const [reach] = reachesOf(dialect, tokens);
  return reach === undefined ? null : `It is not run: ${reach}.`;
}
