import { lex, TokenKind } from './lexer.js';

/**
 * A query that stands on one line, as in an argument of the command line, with a line end for each `;` of it. No word moves,
 * so that a place in the one is the same place in the other. A text of several lines stays as it is.
 */
export function inLines(text: string): string {
  if (!text.includes(';') || text.trimEnd().includes('\n')) return text;
  const tokens = lex(text);
  const written = Array.from({ length: text.length }, (_, at) => text[at] ?? '');
  for (let index = 0; index < tokens.count; index++) {
    const at = tokens.starts[index] ?? 0;
    if (tokens.kinds[index] !== TokenKind.stray || text[at] !== ';') continue;
    written[at] = ' ';
    // The line ends right before its next word, which then stands at column one.
    const next = index + 1 < tokens.count ? (tokens.starts[index + 1] ?? text.length) : text.length;
    written[next - 1] = '\n';
  }
  return written.join('');
}

/** The same as a person writes it: the lines without the spaces at their ends. */
export function writtenInLines(text: string): string {
  const lines = inLines(text);
  return lines === text ? text : lines.trim().replace(/ +$/gm, '');
}
