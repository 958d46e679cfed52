import { entityOf, type Model } from '../model/index.js';
import { placeOf } from '../sql/index.js';
import { foreignTarget } from './holders.js';
import type { Schema, Table } from './schema.js';

/**
 * The relations of which a database itself keeps that every row has its other row: by a foreign key over columns that cannot be
 * null. Where a key is kept for those alone who ask for it, none is sure.
 *
 * @param actual the schema as it was read from the database
 */
export function relationsKept(model: Model, actual: Schema, keepsKeysForAll: boolean): ReadonlySet<string> {
  const kept = new Set<string>();
  if (!keepsKeysForAll) return kept;
  const tables = new Map(actual.tables.map((table) => [placeOf(table.name), table]));
  for (const relation of model.relations.values()) {
    if (relation.kind !== 'key') continue;
    const child = entityOf(model, relation.child);
    const target = foreignTarget(model, relation.parent);
    const table = tables.get(placeOf(child.table.value));
    // Of kinds that are put together from several tables it is the base's row that may be missing.
    const isWhole = child.kinds === null || child.kinds.storage.kind === 'single table';
    if (target.kind !== 'table' || target.among !== null || table === undefined || !isWhole) continue;
    const columns = relation.columns.map(({ value }) => value.toLowerCase());
    const filled = columns.every((name) => table.columns.some((own) => own.name.toLowerCase() === name && isFilled(table, own)));
    const key = entityOf(model, relation.parent).key.columns.map((name) => name.toLowerCase());
    const held = table.foreignKeys.some(
      (foreign) =>
        !/\bnot\s+valid\b/i.test(foreign.sql ?? '') &&
        placeOf({ schema: foreign.schema, name: foreign.table }) === placeOf(target.table) &&
        same(foreign.columns, columns) &&
        same(foreign.references, key),
    );
    if (filled && held) kept.add(relation.name);
  }
  return kept;
}

function isFilled({ primaryKey }: Table, { name, notNull }: Table['columns'][number]): boolean {
  return notNull || primaryKey.columns.includes(name);
}

function same(a: readonly string[], b: readonly string[]): boolean {
  return a.map((name) => name.toLowerCase()).join('\n') === b.join('\n');
}
