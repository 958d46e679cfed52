import type { Span, Syntax } from '../notation/index.js';

/** Where a field's type stands in the text; null where the line is not there. */
export function typeOf(syntax: Syntax, field: Span): Span | null {
  for (const declaration of syntax.declarations) {
    const lines =
      declaration.kind === 'entity' || declaration.kind === 'mixin'
        ? declaration.lines
        : declaration.kind === 'relation'
          ? declaration.lines.flatMap((line) => (line.kind === 'stored' ? line.lines : []))
          : [];
    for (const line of lines) if (line.kind === 'field' && line.span.start === field.start) return line.type.span;
  }
  return null;
}

/** Where a field's type ends in the text, so that a word can be put behind it; null where the line is not there. */
export function afterType(syntax: Syntax, field: Span): number | null {
  return typeOf(syntax, field)?.end ?? null;
}
