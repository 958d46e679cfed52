import type { Edit, Span } from '../notation/index.js';

/** A text with edits applied. They never overlap. A line that is put in stands behind the comment of the line before it. */
export function applied(text: string, edits: readonly Edit[]): string {
  return edits
    .map((edit) => {
      const { start, end } = edit.span;
      return start === end && edit.text.startsWith('\n') ? insertion(lineEnd(text, start), edit.text) : edit;
    })
    .sort((a, b) => b.span.start - a.span.start || b.span.end - a.span.end)
    .reduce((result, { span, text: replacement }) => result.slice(0, span.start) + replacement + result.slice(span.end), text);
}

/** An edit that only puts something in. */
export function insertion(offset: number, text: string): Edit {
  return { span: { start: offset, end: offset }, text };
}

/** The end of the line that an offset is in, so that a comment behind what stands there stays with it. */
export function lineEnd(text: string, offset: number): number {
  const end = text.indexOf('\n', offset);
  return end < 0 ? text.length : text[end - 1] === '\r' ? end - 1 : end;
}

/** The spaces that a line begins with. */
export function indentOf(text: string, offset: number): string {
  const start = text.lastIndexOf('\n', offset - 1) + 1;
  return /^ */.exec(text.slice(start, offset))?.[0] ?? '';
}

/** The column of an offset in its line, from 0. */
export function columnOf(text: string, offset: number): number {
  return offset - (text.lastIndexOf('\n', offset - 1) + 1);
}

/** Takes a word out, with the space or comma before it. */
export function removal(text: string, span: Span): Edit {
  let start = span.start;
  while (/[ ,]/.test(text[start - 1] ?? '')) start -= 1;
  return { span: { start, end: span.end }, text: '' };
}
