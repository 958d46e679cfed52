import { entityOf, hasTable, type Model } from '../model/index.js';
import type { TableName } from '../sql/index.js';
import type { TableBuilder } from './tables.js';

/** A table that holds what an entity declares. */
export interface Holder {
  readonly table: TableBuilder;
  /** What its rows are marked with, where rows of other kinds stand beside them; null where there are none. */
  readonly among: { readonly column: string; readonly values: readonly string[] } | null;
}

/** The tables of a model's entities, by the entity that each is made for. */
export type EntityTables = ReadonlyMap<string, TableBuilder>;

/** The tables that hold what an entity declares: one, or where its kinds stand apart, one for each concrete kind. */
export function holdersOf(model: Model, tables: EntityTables, name: string): Holder[] {
  const { kinds } = entityOf(model, name);
  const own = (entity: string, among: Holder['among'] = null): Holder[] => {
    const table = tables.get(entity);
    return table === undefined ? [] : [{ table, among }];
  };
  switch (kinds?.storage.kind) {
    case 'single table':
    case 'json': {
      const values = kinds.concrete.map(({ mark }) => mark);
      return own(kinds.root, kinds.base === null ? null : { column: kinds.storage.mark, values });
    }
    case 'separate tables':
      return kinds.concrete.flatMap(({ entity }) => own(entity));
    default:
      return own(name);
  }
}

/** Where a foreign key to an entity's rows leads. */
export type ForeignTarget =
  | {
      readonly kind: 'table';
      readonly table: TableName;
      /** That table has rows of other kinds, too, which no foreign key can tell apart: those that are meant. */
      readonly among: { readonly column: string; readonly values: readonly string[] } | null;
    }
  /** Its rows stand in several tables, so that no foreign key can lead to them. */
  | { readonly kind: 'tables'; readonly tables: readonly TableName[] };

/** The table, or tables, in which an entity's rows are found by their key. */
export function foreignTarget(model: Model, name: string): ForeignTarget {
  const entity = entityOf(model, name);
  const { kinds } = entity;
  switch (kinds?.storage.kind) {
    case 'single table':
    case 'json': {
      const values = kinds.concrete.map(({ mark }) => mark);
      const among = kinds.base === null ? null : { column: kinds.storage.mark, values };
      return { kind: 'table', table: entity.table.value, among };
    }
    case 'separate tables': {
      const tables = kinds.concrete.map((kind) => entityOf(model, kind.entity).table.value);
      const [only] = tables;
      return tables.length === 1 && only !== undefined ? { kind: 'table', table: only, among: null } : { kind: 'tables', tables };
    }
    default:
      return { kind: 'table', table: entity.table.value, among: null };
  }
}

/** The entities that have a table of their own which is the tree's to make. */
export function ownTables(model: Model, standIns: boolean): string[] {
  return Array.from(model.entities.values())
    .filter((entity) => hasTable(entity) && (standIns || !entity.given))
    .map(({ name }) => name);
}
