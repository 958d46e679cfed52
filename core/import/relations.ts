import { plural, singular, snakeCase } from '../model/index.js';
import type { ForeignKey, Table } from '../schema/index.js';
import { type Names, roleStem } from './names.js';

/** A table that becomes an entity. */
export interface EntityTable {
  readonly table: Table;
  readonly entity: string;
  /** Its key where that is one column; null where it is several. */
  readonly key: string | null;
  /** Names of its fields and roles. */
  readonly members: Names;
}

export interface KeyLink {
  readonly child: EntityTable;
  readonly parent: EntityTable;
  readonly key: ForeignKey;
  readonly column: string;
  readonly required: boolean;
  readonly unique: boolean;
  readonly name: string;
  readonly role: string;
  readonly reverse: string;
}

export interface PivotLink {
  readonly table: Table;
  readonly ends: readonly [PivotSide, PivotSide];
  readonly name: string;
}

export interface PivotSide {
  readonly entity: EntityTable;
  readonly key: ForeignKey;
  readonly column: string;
  /** The role of this entity over the pivot. */
  readonly role: string;
}

/** Is this column, alone, unique in the table? */
export function isUnique(table: Table, column: string): boolean {
  const alone = (columns: readonly string[]) => columns.length === 1 && columns[0] === column;
  return (
    alone(table.primaryKey.columns) ||
    table.uniques.some((unique) => alone(unique.columns)) ||
    table.indexes.some((index) => index.unique && alone(index.columns))
  );
}

/**
 * Is a table nothing but pairs? Its key, or its only unique, is two foreign keys, and nobody points at it.
 */
export function pivotKeys(table: Table, tables: readonly Table[]): readonly [ForeignKey, ForeignKey] | null {
  const pairs = [
    table.primaryKey.columns,
    ...(table.primaryKey.columns.length === 0 ? table.uniques.map((unique) => unique.columns) : []),
  ];
  const pointedAt = tables.some((other) =>
    other.foreignKeys.some((key) => key.table.toLowerCase() === table.name.name.toLowerCase()),
  );
  if (pointedAt) return null;
  for (const pair of pairs) {
    if (pair.length !== 2) continue;
    const [first, second] = pair.map((column) =>
      table.foreignKeys.find((key) => key.columns.length === 1 && key.columns[0] === column),
    );
    if (first !== undefined && second !== undefined) return [first, second];
  }
  return null;
}

/** Names the two roles of a key column: from the column, and back from the table. */
export function nameLink(link: Omit<KeyLink, 'name' | 'role' | 'reverse'>, relations: Names, several: boolean): KeyLink {
  const { child, parent, column, unique } = link;
  const stem = roleStem(column);
  const parentWord = snakeCase(parent.entity);
  const role = child.members.claim(stem, `${stem}_${parentWord}`, `${stem}_${parentWord}_row`);
  const children = snakeCase(child.table.name.name).replace(/\W+/g, '_');
  const word = unique ? singular(children) : plural(children);
  const plain = stem === parentWord || stem === singular(parentWord);
  // Two relations between the same tables are told apart by the role that each comes from.
  const wishes = several && !plain ? [`${stem}_${word}`, `${word}_as_${stem}`] : [word, `${stem}_${word}`, `${word}_as_${stem}`];
  const reverse = parent.members.claim(...wishes, `${word}_by_${column.toLowerCase()}`);
  const name = relations.claim(`${singular(children)}_${role}`, `${children}_${role}`, `${children}_${column.toLowerCase()}`);
  return { ...link, name, role, reverse };
}

/** Names the roles over a pivot after the tables that they lead to. */
export function namePivot(
  table: Table,
  sides: readonly [Omit<PivotSide, 'role'>, Omit<PivotSide, 'role'>],
  relations: Names,
): PivotLink {
  const [first, second] = sides;
  const own = table.name.name;
  const roleFrom = (near: Omit<PivotSide, 'role'>, far: Omit<PivotSide, 'role'>): string => {
    const target = plural(snakeCase(far.entity.entity));
    const stem = plural(roleStem(far.column));
    const wishes =
      near.entity === far.entity ? [stem, `${stem}_over_${snakeCase(own)}`] : [target, stem, `${target}_over_${snakeCase(own)}`];
    return near.entity.members.claim(...wishes);
  };
  return {
    table,
    ends: [
      { ...first, role: roleFrom(first, second) },
      { ...second, role: roleFrom(second, first) },
    ],
    name: relations.claim(snakeCase(own).replace(/\W+/g, '_'), `${snakeCase(own).replace(/\W+/g, '_')}_pairs`),
  };
}
