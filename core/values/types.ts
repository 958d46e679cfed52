/** The type of a stored value, or of what an expression gives. */
export type ValueType =
  | { readonly kind: PlainKind }
  | { readonly kind: 'decimal'; readonly precision: number; readonly scale: number }
  /** `length` counts characters; null has no bound. */
  | { readonly kind: 'text'; readonly length: number | null }
  /** A text out of a fixed list. */
  | { readonly kind: 'choice'; readonly choice: string; readonly values: readonly string[]; readonly length: number }
  /** A key of several columns; each part has a type of its own. On the wire it is a JSON list of its parts, as text. */
  | { readonly kind: 'composite'; readonly parts: readonly ValueType[] }
  /** A physical type that the notation has no word for. */
  | { readonly kind: 'sql'; readonly declaration: string };

export type PlainKind = 'integer' | 'bigint' | 'real' | 'boolean' | 'date' | 'time' | 'timestamp' | 'uuid' | 'json' | 'bytes';

/** A column of a choice is at least this long, so that a longer value does not change it at once. */
export const LEAST_CHOICE_LENGTH = 63;

/** A type as the notation writes it. */
export function typeName(type: ValueType): string {
  switch (type.kind) {
    case 'decimal':
      return `decimal(${type.precision}, ${type.scale})`;
    case 'text':
      return type.length === null ? 'text' : `text(${type.length})`;
    case 'choice':
      return type.choice;
    case 'composite':
      return `(${type.parts.map(typeName).join(', ')})`;
    case 'sql':
      return `sql('${type.declaration.replaceAll("'", "''")}')`;
    default:
      return type.kind;
  }
}

/** A family of types: their values can be equal, and are compared. */
export type Family = 'number' | 'text' | 'boolean' | 'date' | 'time' | 'timestamp' | 'uuid' | 'json' | 'bytes' | 'any';

/** The family of a type. */
export function familyOf(type: ValueType): Family {
  switch (type.kind) {
    case 'integer':
    case 'bigint':
    case 'real':
    case 'decimal':
      return 'number';
    case 'text':
    case 'choice':
      return 'text';
    case 'composite':
    case 'sql':
      return 'any';
    default:
      return type.kind;
  }
}
