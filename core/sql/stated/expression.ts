import type { DialectName } from '../../notation/index.js';
import { type StatedToken, statedTokens, type Unreadable } from './lexer.js';

/** What begins another part of a column's line: a type or a default that held it would say more than it seems to. */
const NEXT_PART = new Set(
  `constraint primary unique references check default generated foreign deferrable initially comment stored virtual persistent
  autoincrement key`.split(/\s+/),
);
const CLOSES: Readonly<Record<string, string>> = { '(': ')', '[': ']', '{': '}' };

/** Where the brackets of some tokens stand open: for each token how many are open before it; or why they do not fit. */
export function depthsOf(tokens: readonly StatedToken[]): readonly number[] | Unreadable {
  const open: string[] = [];
  const depths: number[] = [];
  for (const { kind, text } of tokens) {
    const closes = kind === 'symbol' ? CLOSES[text] : undefined;
    const isClosing = kind === 'symbol' && (text === ')' || text === ']' || text === '}');
    if (isClosing && open.pop() !== text) return { why: `its brackets do not fit: there is a ${text} too many` };
    depths.push(open.length);
    if (closes !== undefined) open.push(closes);
  }
  const missing = open.at(-1);
  return missing === undefined ? depths : { why: `its brackets do not fit: a ${missing} is missing` };
}

/**
 * Why SQL is not one type or one expression, as it stands in a column's line; null where it is. It holds no semicolon, its
 * brackets fit, and nothing of it begins another column or another part of the line.
 *
 * @param inBrackets it is put in brackets where it is used, so that more may stand in it
 */
export function expressionFault(sql: string, dialect: DialectName, inBrackets: boolean): string | null {
  const tokens = statedTokens(sql, dialect);
  if ('why' in tokens) return tokens.why;
  const depths = depthsOf(tokens);
  if ('why' in depths) return depths.why;
  for (const [index, { kind, text, word }] of tokens.entries()) {
    if (kind === 'symbol' && text === ';') return 'it holds a semicolon';
    if (inBrackets || depths[index] !== 0) continue;
    if (kind === 'symbol' && text === ',') return 'it holds a comma outside brackets';
    if (kind === 'word' && NEXT_PART.has(word)) return `it goes on with ${text}, which is a part of its own`;
  }
  return null;
}

/** A number that the engine gives, as a declared type says it (PostgreSQL, CREATE TABLE: identity columns). */
const IDENTITY = / generated (always|by default) as identity(?: ?\([\w\s-]*\))?$/i;

/** What may stand behind a type in a column’s line, and in no type. */
const AFTER_TYPE = new Set(['as', 'not', 'null', 'on']);

/** Why SQL is not one type as a column declares it; null where it is. */
export function typeFault(sql: string, dialect: DialectName): string | null {
  const declared = sql.replace(IDENTITY, '');
  const fault = expressionFault(declared, dialect, false);
  if (fault !== null) return fault;
  const tokens = statedTokens(declared, dialect);
  const depths = 'why' in tokens ? [] : depthsOf(tokens);
  if ('why' in tokens || 'why' in depths) return null;
  const more = tokens.find(({ kind, word }, index) => kind === 'word' && depths[index] === 0 && AFTER_TYPE.has(word));
  return more === undefined ? null : `it goes on with ${more.text}, which is a part of its own`;
}
