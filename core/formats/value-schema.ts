import type { ValueType } from '../values/index.js';

/** A schema of JSON (JSON Schema 2020-12). */
export type JsonSchema = Readonly<Record<string, unknown>>;

/** The schema of a value in its wire form, which is how answers have it. */
export function valueSchema(type: ValueType): JsonSchema {
  switch (type.kind) {
    case 'integer':
      return { type: 'integer', minimum: -2147483648, maximum: 2147483647 };
    case 'bigint':
      // Beyond 2^53 a number of JSON loses digits for many who read it, so that it is a text.
      return { type: 'string', pattern: '^-?\\d{1,19}$' };
    case 'decimal': {
      const whole = type.precision - type.scale;
      const fraction = type.scale === 0 ? '' : `\\.\\d{${type.scale}}`;
      return { type: 'string', pattern: `^-?\\d{1,${Math.max(1, whole)}}${fraction}$` };
    }
    case 'real':
      return { type: 'number' };
    case 'boolean':
      return { type: 'boolean' };
    case 'text':
      return { type: 'string', ...(type.length === null ? {} : { maxLength: type.length }) };
    case 'choice':
      return { type: 'string', enum: [...type.values] };
    case 'date':
      return { type: 'string', format: 'date' };
    case 'time':
      return { type: 'string', pattern: '^\\d{2}:\\d{2}:\\d{2}(\\.\\d{1,6})?$' };
    case 'timestamp':
      return { type: 'string', format: 'date-time' };
    case 'uuid':
      return { type: 'string', format: 'uuid' };
    case 'bytes':
      return { type: 'string' };
    case 'composite':
      return { type: 'string' };
    case 'json':
    case 'sql':
      return {};
  }
}

/** The schema of a value that may be given: numbers that lose no digit are taken as numbers, too. */
export function givenSchema(type: ValueType): JsonSchema {
  switch (type.kind) {
    case 'bigint':
      return { anyOf: [valueSchema(type), { type: 'integer' }] };
    case 'decimal':
      return { anyOf: [{ type: 'string', pattern: '^-?\\d+(\\.\\d+)?$' }, { type: 'number' }] };
    default:
      return valueSchema(type);
  }
}

/** The same where there may be none. */
export function orNull(schema: JsonSchema): JsonSchema {
  const { type } = schema;
  // Of anything at all, nothing is one.
  if (Object.keys(schema).length === 0) return schema;
  if (typeof type !== 'string') return { anyOf: [schema, { type: 'null' }] };
  const values = Array.isArray(schema.enum) ? { enum: [...(schema.enum as unknown[]), null] } : {};
  return { ...schema, type: [type, 'null'], ...values };
}
