/** The kinds of token. Numbers, since they are kept in a flat array. */
export const TokenKind = {
  end: 0,
  /** An unquoted name or keyword that does not start with a capital. */
  word: 1,
  /** An unquoted name that starts with a capital. */
  capital: 2,
  /** A name in double quotes. */
  quoted: 3,
  /** A literal in single quotes. */
  text: 4,
  number: 5,
  symbol: 6,
  comment: 7,
  lineBreak: 8,
  /** A quote that its line does not close. */
  unclosed: 9,
  /** A character that has no meaning in the notation. */
  stray: 10,
} as const;

/** A text as tokens: four flat arrays rather than objects, since a lexer's time goes into making objects. */
export interface Tokens {
  readonly text: string;
  readonly count: number;
  readonly kinds: Uint8Array;
  readonly starts: Int32Array;
  readonly ends: Int32Array;
}

const TAB = 9;
const NEWLINE = 10;
const RETURN = 13;
const SPACE = 32;
const DOUBLE_QUOTE = 34;
const SINGLE_QUOTE = 39;
const MINUS = 45;
const DOT = 46;

function isDigit(code: number): boolean {
  return code >= 48 && code <= 57;
}

function isCapital(code: number): boolean {
  return code >= 65 && code <= 90;
}

function isNameStart(code: number): boolean {
  return (code >= 97 && code <= 122) || isCapital(code) || code === 95;
}

const SINGLE_SYMBOLS = new Set(Array.from('()[],.:=<>+-*/%|', (symbol) => symbol.charCodeAt(0)));
const DOUBLE_SYMBOLS = new Set(['<>', '<=', '>=', '||']);

/** Cuts a text into tokens. Never fails: what has no meaning becomes a stray token, an open quote an unclosed one. */
export function lex(text: string): Tokens {
  const capacity = text.length + 1;
  const kinds = new Uint8Array(capacity);
  const starts = new Int32Array(capacity);
  const ends = new Int32Array(capacity);
  let count = 0;
  let at = 0;
  const length = text.length;

  const push = (kind: number, start: number, end: number) => {
    kinds[count] = kind;
    starts[count] = start;
    ends[count] = end;
    count += 1;
    at = end;
  };

  while (at < length) {
    const code = text.charCodeAt(at);
    if (code === SPACE || code === TAB || code === RETURN || (code === 0xfeff && at === 0)) {
      at += 1;
    } else if (code === NEWLINE) {
      push(TokenKind.lineBreak, at, at + 1);
    } else if (isNameStart(code)) {
      let end = at + 1;
      for (let next = text.charCodeAt(end); isNameStart(next) || isDigit(next); next = text.charCodeAt(end)) end += 1;
      push(isCapital(code) ? TokenKind.capital : TokenKind.word, at, end);
    } else if (isDigit(code)) {
      let end = at + 1;
      while (isDigit(text.charCodeAt(end))) end += 1;
      if (text.charCodeAt(end) === DOT && isDigit(text.charCodeAt(end + 1))) {
        end += 2;
        while (isDigit(text.charCodeAt(end))) end += 1;
      }
      push(TokenKind.number, at, end);
    } else if (code === SINGLE_QUOTE || code === DOUBLE_QUOTE) {
      const end = closingQuote(text, at, code);
      const closed = end > 0;
      push(closed ? (code === SINGLE_QUOTE ? TokenKind.text : TokenKind.quoted) : TokenKind.unclosed, at, closed ? end : -end);
    } else if (code === MINUS && text.charCodeAt(at + 1) === MINUS && startsComment(text, at)) {
      const end = text.indexOf('\n', at);
      push(TokenKind.comment, at, end < 0 ? length : end);
    } else if (SINGLE_SYMBOLS.has(code)) {
      push(TokenKind.symbol, at, DOUBLE_SYMBOLS.has(text.slice(at, at + 2)) ? at + 2 : at + 1);
    } else {
      const wide = code >= 0xd800 && code <= 0xdbff && at + 1 < length;
      push(TokenKind.stray, at, wide ? at + 2 : at + 1);
    }
  }
  return { text, count, kinds, starts, ends };
}

/** The offset behind the closing quote, or minus the end of the line where none closes it. */
function closingQuote(text: string, start: number, quote: number): number {
  let at = start + 1;
  for (;;) {
    const code = text.charCodeAt(at);
    if (Number.isNaN(code) || code === NEWLINE) return -at;
    if (code === quote) {
      if (text.charCodeAt(at + 1) !== quote) return at + 1;
      at += 1;
    }
    at += 1;
  }
}

function startsComment(text: string, at: number): boolean {
  const next = text.charCodeAt(at + 2);
  return Number.isNaN(next) || next === SPACE || next === TAB || next === NEWLINE || next === RETURN;
}

/** The content of a quoted token: without its quotes, doubled ones halved. */
export function unquote(source: string): string {
  const quote = source[0] ?? '';
  return source.slice(1, -1).replaceAll(quote + quote, quote);
}

/** A text literal of the notation for any text of one line. */
export function quoteText(value: string): string {
  return `'${value.replaceAll("'", "''")}'`;
}

/** Any text as an expression of the notation: of several lines `lines('the first', 'the second')`. */
export function textExpression(value: string): string {
  const lines = value.split('\n').map(quoteText);
  return lines.length === 1 ? lines.join() : `lines(${lines.join(', ')})`;
}
