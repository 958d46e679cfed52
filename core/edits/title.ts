import { parse, quoteText } from '../notation/index.js';

/** A text with another title; one that has none gets a line for it. */
export function withTitle(text: string, title: string): string {
  const tree = parse(text).declarations.find(({ kind }) => kind === 'tree');
  const written = quoteText(title);
  if (tree?.kind !== 'tree') return `tree ${written}\n\n${text}`;
  const { start, end } = tree.title.span;
  return `${text.slice(0, start)}${written}${text.slice(end)}`;
}
