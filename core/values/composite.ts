import type { ValueType } from './types.js';

/** The wire form of a composite key: a JSON list of its parts without any space, numbers with all their digits. */
export function writeKey(types: readonly ValueType[], parts: readonly unknown[]): string {
  const written = parts.map((part, index) => {
    const kind = types[index]?.kind;
    return typeof part !== 'object' && (kind === 'bigint' || kind === 'decimal') ? String(part) : JSON.stringify(part);
  });
  return `[${written.join(',')}]`;
}

/** Keys as one JSON list. Whole numbers of 64 bits are text on the wire and numbers to the engine; composite keys are lists. */
export function keyListText(type: ValueType, keys: readonly unknown[]): string {
  return type.kind === 'bigint' || type.kind === 'decimal' || type.kind === 'composite'
    ? `[${keys.join(',')}]`
    : JSON.stringify(keys);
}

/** A key as a person reads it: of several parts, with commas between. */
export function shownKey(key: string): string {
  return isList(key) ? (keyParts(key)?.join(', ') ?? key) : key;
}

function isList(text: string): boolean {
  try {
    return text.startsWith('[') && Array.isArray(JSON.parse(text));
  } catch {
    return false;
  }
}

/** The parts of a composite key in wire form, each as text; null where it is no such list. */
export function keyParts(key: string): string[] | null {
  if (!key.startsWith('[') || !key.endsWith(']')) return null;
  const parts: string[] = [];
  for (const [, text, other] of key.slice(1, -1).matchAll(/("(?:[^"\\]|\\.)*")|([^",]+)/g)) {
    if (text !== undefined) parts.push(JSON.parse(text) as string);
    else if (other !== undefined) parts.push(other.trim());
  }
  return parts;
}
