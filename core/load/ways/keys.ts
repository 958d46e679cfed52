import { joinKey, parseWire, type Wire } from '../../values/index.js';
import type { CompiledLoad } from '../compile/index.js';
import type { Level } from './level.js';

/** The keys that stand in these columns, row by row; of several columns, as one list each. */
export function keysIn({ columns }: Level, names: readonly string[], type: CompiledLoad['keyType']): readonly Wire[] {
  const [first = [], ...others] = names.map((name) => columns.get(name) ?? []);
  if (others.length === 0) return first;
  return first.map((part, row) => {
    const parts = [part, ...others.map((cells) => cells[row] ?? null)];
    return parts.every(isKey) ? joinKey(type, parts) : null;
  });
}

/** The keys by which each owner's rows are sought; null for owners that have none behind this role. */
export function ownerKeysOf(owners: Level, load: CompiledLoad): readonly Wire[] {
  const hidden = load.hiddenBy === null ? [] : (owners.columns.get(load.hiddenBy) ?? []);
  const all = compared(load, keysIn(owners, load.ownerColumns, load.keyType));
  const keys = hidden.length === 0 ? all : all.map((key, row) => (hidden[row] === true ? null : key));
  if (load.owners === null || load.owners.ofKind) return keys;
  const { as, values } = load.owners;
  const marks = owners.columns.get(as) ?? [];
  return keys.map((key, row) => (values.includes(String(marks[row])) ? key : null));
}

/** Keys as both sides have them: as texts where the column between holds keys of several types. */
export function compared({ asText }: CompiledLoad, keys: readonly Wire[]): readonly Wire[] {
  return asText ? keys.map((key) => (isKey(key) ? String(key) : null)) : keys;
}

/** Keys that were compared as texts, as the type that they are bound as. */
export function keysAsBound({ asText, keyType }: CompiledLoad, keys: readonly Wire[]): readonly Wire[] {
  if (!asText) return keys;
  return keys.flatMap((key) => {
    const parsed = parseWire(keyType, String(key));
    return parsed.ok ? [parsed.value] : [];
  });
}

/** A value that does not fit its type points at nothing. */
export function isKey(key: Wire): boolean {
  return key !== null && typeof key !== 'object';
}

export function distinct(keys: readonly Wire[]): Wire[] {
  const seen = new Set<Wire>();
  for (const key of keys) if (isKey(key)) seen.add(key);
  return Array.from(seen);
}
