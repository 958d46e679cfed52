import { lex, type Span, TokenKind, type Tokens } from '../notation/index.js';

/** A word before the cursor: as written, and what sort of token it is. */
export interface Word {
  readonly text: string;
  readonly kind: number;
  readonly span: Span;
}

/** A line of a text up to the cursor, as its words. */
export interface PlacedLine {
  readonly indent: number;
  readonly words: readonly Word[];
}

/** Where a cursor stands: what is being written, on what line, and below which lines. */
export interface CursorPlace {
  /** The letters of the name that the cursor stands in or behind. */
  readonly prefix: string;
  /** What a completion replaces. */
  readonly span: Span;
  /** The words of the line before the prefix. */
  readonly line: PlacedLine;
  /** The lines that this one belongs to, from the declaration's head inwards. */
  readonly above: readonly PlacedLine[];
  /** The cursor stands in a comment or in a literal, where nothing is completed. */
  readonly quiet: boolean;
}

/** Finds the place of an offset in a text, by tokens and indentation alone, so that it is known in half-written lines too. */
export function placeAt(text: string, offset: number): CursorPlace {
  const start = wordStart(text, offset);
  const lineStart = text.lastIndexOf('\n', offset - 1) + 1;
  const tokens = lex(text.slice(0, offset));
  const lines = linesOf(tokens);
  const ownIndent = indentOf(text, lineStart, offset);
  const current = lines.at(-1);
  const begins = current === undefined || current.start < lineStart;
  const goesOn = begins && current !== undefined && continues(current, ownIndent);
  const own: Line = begins && !goesOn ? { start: lineStart, indent: ownIndent, words: [] } : (current ?? EMPTY);
  const before = begins && !goesOn ? lines : lines.slice(0, -1);
  const above: PlacedLine[] = [];
  let deepest = own.indent;
  for (let index = before.length - 1; index >= 0 && deepest > 0; index--) {
    const line = before[index];
    if (line === undefined || line.indent >= deepest) continue;
    above.unshift(line);
    deepest = line.indent;
  }
  const last = lastToken(tokens);
  return {
    prefix: text.slice(start, offset),
    span: { start, end: offset },
    line: { indent: own.indent, words: own.words.filter((word) => word.span.start < start) },
    above,
    quiet:
      last === TokenKind.unclosed ||
      (last === TokenKind.comment && tokens.ends[tokens.count - 1] === offset && text[offset - 1] !== '\n'),
  };
}

interface Line extends PlacedLine {
  readonly start: number;
  readonly words: Word[];
}

const EMPTY: Line = { start: 0, indent: 0, words: [] };

/** Logical lines: an open bracket, or a comma at the end, carries a line on into the deeper ones. */
function linesOf(tokens: Tokens): Line[] {
  const lines: Line[] = [];
  let lineStart = 0;
  let fresh = true;
  for (let index = 0; index < tokens.count; index++) {
    const kind = tokens.kinds[index] ?? TokenKind.end;
    const span = { start: tokens.starts[index] ?? 0, end: tokens.ends[index] ?? 0 };
    if (kind === TokenKind.lineBreak) {
      lineStart = span.end;
      fresh = true;
      continue;
    }
    if (kind === TokenKind.comment) continue;
    const word: Word = { text: tokens.text.slice(span.start, span.end), kind, span };
    const last = lines.at(-1);
    const indent = span.start - lineStart;
    if (fresh && (last === undefined || !continues(last, indent))) lines.push({ start: lineStart, indent, words: [word] });
    else last?.words.push(word);
    fresh = false;
  }
  return lines;
}

function continues(line: Line, indent: number): boolean {
  if (indent <= line.indent) return false;
  const open = line.words.reduce((depth, { text }) => depth + ('(['.includes(text) ? 1 : ')]'.includes(text) ? -1 : 0), 0);
  return open > 0 || line.words.at(-1)?.text === ',';
}

function indentOf(text: string, lineStart: number, offset: number): number {
  let at = lineStart;
  while (at < offset && text[at] === ' ') at += 1;
  return at - lineStart;
}

function lastToken(tokens: Tokens): number {
  return tokens.count === 0 ? TokenKind.end : (tokens.kinds[tokens.count - 1] ?? TokenKind.end);
}

function wordStart(text: string, offset: number): number {
  let start = offset;
  while (start > 0 && /[A-Za-z0-9_]/.test(text[start - 1] ?? '')) start -= 1;
  return start;
}
