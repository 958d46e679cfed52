import { keyParts, writeKey } from './composite.js';
import type { ValueType } from './types.js';
import { parseWire, type Wire } from './wire.js';

/** A key as the values of its columns: itself, or its parts; as many nulls where there is none. */
export function splitKey(type: ValueType, key: Wire): readonly Wire[] {
  if (type.kind !== 'composite') return [key];
  const written = typeof key === 'string' ? keyParts(key) : null;
  return type.parts.map((part, index) => {
    const parsed = parseWire(part, written?.[index] ?? '');
    return written !== null && parsed.ok ? parsed.value : null;
  });
}

/** The key that these values of its columns make; null where one of them is. */
export function joinKey(type: ValueType, values: readonly Wire[]): Wire {
  if (type.kind !== 'composite') return values[0] ?? null;
  return values.includes(null) ? null : writeKey(type.parts, values);
}
