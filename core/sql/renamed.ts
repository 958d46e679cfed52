import { placeOf, type Select, type SqlExpression, type TableName } from './statement.js';

/**
 * A part of a statement in which one source is spoken of by another name: all that it says of it, also in selects within. Null
 * stands for columns that name no source.
 */
export function renamed<Part>(part: Part, from: string | null, to: string | null): Part {
  return replaced(part, (one) => (one.kind === 'column' && one.source === from ? { ...one, source: to } : null));
}

/** A part of a statement in which one column, of whichever source, has another name; engines take two that differ in case for one. */
export function withColumn<Part>(part: Part, from: string, to: string): Part {
  const wanted = from.toLowerCase();
  return replaced(part, (one) => (one.kind === 'column' && one.column.toLowerCase() === wanted ? { ...one, column: to } : null));
}

/** A part of a statement with a named parameter in the place of each placeholder, by its number from 1. */
export function named<Part>(part: Part, names: readonly string[]): Part {
  return replaced(part, (one) =>
    one.kind === 'placeholder' ? { kind: 'parameter', name: names[one.number - 1] ?? String(one.number), type: null } : null,
  );
}

/** A part of a statement with an expression in the place of each parameter that has one, by its name. */
export function withGiven<Part>(part: Part, given: ReadonlyMap<string, SqlExpression>): Part {
  return replaced(part, (one) => (one.kind === 'parameter' ? (given.get(one.name) ?? null) : null));
}

/** A part of a statement with others in the place of the tables that it reads, by the places of those. */
export function withSources<Part>(part: Part, sources: ReadonlyMap<string, Select | TableName>): Part {
  const known = new Map<object, unknown>();
  // A statement is plain data, so every source in it is reached in the same way; what is shared in it stays shared.
  const again = (value: unknown): unknown => {
    if (typeof value !== 'object' || value === null) return value;
    const before = known.get(value);
    if (before !== undefined) return before;
    const source = isTable(value) ? sources.get(placeOf(value.table)) : undefined;
    if (source !== undefined) return 'from' in source ? { kind: 'select', select: source } : { kind: 'table', table: source };
    const fresh: unknown[] | Record<string, unknown> = Array.isArray(value) ? [] : {};
    known.set(value, fresh);
    for (const [name, inner] of Object.entries(value)) Object.assign(fresh, { [name]: again(inner) });
    return fresh;
  };
  return again(part) as Part;
}

function isTable(value: object): value is { readonly kind: 'table'; readonly table: TableName } {
  return 'kind' in value && value.kind === 'table' && 'table' in value;
}

/** A part of a statement whose placeholders are numbered as if so many that stood before them were not there. */
export function renumbered<Part>(part: Part, fewer: number): Part {
  return replaced(part, (one) => (one.kind === 'placeholder' ? { ...one, number: one.number - fewer } : null));
}

/** A part of a statement with other expressions in the place of some; null leaves one as it is, and looks below it. */
function replaced<Part>(part: Part, instead: (expression: SqlExpression) => SqlExpression | null): Part {
  // A statement is plain data, so every part of it is reached in the same way.
  const again = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(again);
    if (typeof value !== 'object' || value === null) return value;
    const other = isPart(value) ? instead(value) : null;
    return other ?? Object.fromEntries(Object.entries(value).map(([name, inner]) => [name, again(inner)]));
  };
  return again(part) as Part;
}

function isPart(value: object): value is SqlExpression {
  return 'kind' in value && (value.kind === 'column' || value.kind === 'placeholder' || value.kind === 'parameter');
}
