import { sqlName, sqlTokens } from '../sql/index.js';

/** The values of enumerated types, by the name of the type. */
export type EnumeratedTypes = ReadonlyMap<string, readonly string[]>;

/**
 * The enumerated types that statements make (PostgreSQL, “CREATE TYPE”: `create type … as enum (…)`).
 *
 * @param prelude the statements that tables stand on
 */
export function enumeratedTypes(prelude: readonly string[]): EnumeratedTypes {
  const types = new Map<string, readonly string[]>();
  for (const sql of prelude) {
    const [, name, listed] = /^create\s+type\s+(.+?)\s+as\s+enum\s*(\([\s\S]*)$/i.exec(sql) ?? [];
    if (name === undefined || listed === undefined) continue;
    const strings = sqlTokens(listed).filter(({ kind }) => kind === 'string');
    types.set(
      bareTypeName(name),
      strings.map(({ text }) => text.slice(1, -1).replaceAll("''", "'")),
    );
  }
  return types;
}

/** The values that a column's type lists; null where it is no enumerated type, as a list of such values is none. */
export function enumeratedValues(types: EnumeratedTypes, type: string): readonly string[] | null {
  return types.size === 0 ? null : (types.get(bareTypeName(type)) ?? null);
}

/** Whether values of a column's type, or of what it lists, are of an enumerated type. */
export function restsOnEnumerated(types: EnumeratedTypes, type: string): boolean {
  return enumeratedValues(types, type.replace(/(?:\[\])+$/, '')) !== null;
}

/** The name of a type without its schema. */
export function bareTypeName(written: string): string {
  const tokens = sqlTokens(written);
  const last = tokens.at(-1);
  if (last?.kind === 'word') return last.text.toLowerCase();
  return last?.kind === 'quoted' ? sqlName(last) : written.toLowerCase();
}
