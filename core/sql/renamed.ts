import type { SqlExpression } from './statement.js';

/** A part of a statement in which one source is spoken of by another name: all that it says of it, also in selects within. */
export function renamed<Part>(part: Part, from: string, to: string): Part {
  return again(part, from, to) as Part;
}

// A statement is plain data, so every part of it is reached in the same way.
function again(part: unknown, from: string, to: string): unknown {
  if (Array.isArray(part)) return part.map((item: unknown) => again(item, from, to));
  if (typeof part !== 'object' || part === null) return part;
  if (isColumnOf(part, from)) return { ...part, source: to };
  return Object.fromEntries(Object.entries(part).map(([name, value]) => [name, again(value, from, to)]));
}

function isColumnOf(part: object, source: string): part is Extract<SqlExpression, { kind: 'column' }> {
  return 'kind' in part && part.kind === 'column' && 'source' in part && part.source === source;
}
