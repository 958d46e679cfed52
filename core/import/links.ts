import { plural, singular, snakeCase } from '../model/index.js';
import type { ForeignKey, Table } from '../schema/index.js';
import { fullName, type GivenNames, placeOf } from './existing.js';
import { type Names, roleStem } from './names.js';

/** A table that becomes an entity. */
export interface EntityTable {
  readonly table: Table;
  readonly entity: string;
  /** The columns of its key; empty where its rows are told apart by their number. */
  readonly key: readonly string[];
  /** Names of its fields and roles. */
  readonly members: Names;
}

/** A foreign key that becomes a relation. */
export interface KeyLink {
  readonly child: EntityTable;
  readonly parent: EntityTable;
  readonly key: ForeignKey;
  readonly required: boolean;
  readonly unique: boolean;
  readonly name: string;
  readonly role: string;
  readonly reverse: string;
}

/** A table that becomes a pivot. */
export interface PivotLink {
  readonly table: Table;
  readonly ends: readonly [PivotSide, PivotSide];
  readonly name: string;
}

export interface PivotSide {
  readonly entity: EntityTable;
  readonly key: ForeignKey;
  /** The role of this entity over the pivot. */
  readonly role: string;
}

/** Do these columns, alone, stand only once in the table? */
export function isUnique(table: Table, columns: readonly string[]): boolean {
  const same = (others: readonly string[]) => [...others].sort().join('\n') === [...columns].sort().join('\n');
  return (
    same(table.primaryKey.columns) ||
    table.uniques.some((unique) => same(unique.columns)) ||
    table.indexes.some((index) => index.unique && index.sql === null && same(index.columns))
  );
}

/** Does a foreign key point at the key of the table that it names? */
export function pointsAtKey(key: ForeignKey, target: Pick<EntityTable, 'key'>): boolean {
  if (target.key.length === 0 || key.columns.length !== target.key.length) return false;
  return key.references.length === 0 || key.references.join('\n').toLowerCase() === target.key.join('\n').toLowerCase();
}

/**
 * Is a table nothing but pairs? It has two foreign keys and no more, nobody points at it, and its key is the two, or
 * it has none.
 *
 * @param pointedAt the tables that a foreign key points at, in lower case
 */
export function pivotKeys(table: Table, pointedAt: ReadonlySet<string>): readonly [ForeignKey, ForeignKey] | null {
  const [first, second, ...more] = table.foreignKeys;
  if (first === undefined || second === undefined || more.length > 0) return null;
  if (pointedAt.has(fullName(table.name).toLowerCase())) return null;
  const key = table.primaryKey.columns;
  const orders: readonly (readonly [ForeignKey, ForeignKey])[] = [
    [first, second],
    [second, first],
  ];
  if (key.length > 0)
    return orders.find(([a, b]) => Array.from(new Set([...a.columns, ...b.columns])).join('\n') === key.join('\n')) ?? null;
  const apart = first.columns.every((column) => !second.columns.includes(column));
  return apart ? [first, second] : null;
}

function onlyOf(key: readonly string[]): string {
  return key.length === 1 ? (key[0] ?? '') : '';
}

/** Names the two roles of a foreign key: from its column, and back from the table. */
export function nameLink(
  link: Omit<KeyLink, 'name' | 'role' | 'reverse'>,
  relations: Names,
  several: boolean,
  given: GivenNames,
): KeyLink {
  const { child, parent, unique, key } = link;
  const known = given.links.get(placeOf(fullName(child.table.name), ...key.columns));
  const parentWord = snakeCase(parent.entity);
  // Of several columns the last says most: what stands before it is often shared.
  const stem = key.columns.length === 1 ? roleStem(key.columns[0] ?? '', onlyOf(parent.key)) : parentWord;
  const all = key.columns.map((column) => column.toLowerCase()).join('_');
  const role = child.members.claim(
    known?.role ?? '',
    stem,
    `${stem}_${parentWord}`,
    `${stem}_${parentWord}_row`,
    `${parentWord}_by_${all}`,
  );
  const children = snakeCase(child.table.name.name).replace(/\W+/g, '_');
  const word = unique ? singular(children) : plural(children);
  const plain = stem === parentWord || stem === singular(parentWord);
  // Two relations between the same tables are told apart by the role that each comes from.
  const wishes = several && !plain ? [`${stem}_${word}`, `${word}_as_${stem}`] : [word, `${stem}_${word}`, `${word}_as_${stem}`];
  const reverse = parent.members.claim(known?.reverse ?? '', ...wishes, `${word}_by_${all}`);
  const name = relations.claim(known?.name ?? '', `${singular(children)}_${role}`, `${children}_${role}`, `${children}_${all}`);
  return { ...link, name, role, reverse };
}

/** Names the roles over a pivot after the tables that they lead to. */
export function namePivot(
  table: Table,
  sides: readonly [Omit<PivotSide, 'role'>, Omit<PivotSide, 'role'>],
  relations: Names,
  given: GivenNames,
): PivotLink {
  const [first, second] = sides;
  const known = given.pivots.get(placeOf(fullName(table.name)));
  const own = snakeCase(table.name.name).replace(/\W+/g, '_');
  const roleFrom = (near: Omit<PivotSide, 'role'>, far: Omit<PivotSide, 'role'>, wish: string): string => {
    const target = plural(snakeCase(far.entity.entity));
    const stem = plural(roleStem(far.key.columns.at(-1) ?? '', onlyOf(far.entity.key)));
    const wishes = near.entity === far.entity ? [stem, `${stem}_over_${own}`] : [target, stem, `${target}_over_${own}`];
    return near.entity.members.claim(wish, ...wishes);
  };
  return {
    table,
    ends: [
      { ...first, role: roleFrom(first, second, known?.roles[0] ?? '') },
      { ...second, role: roleFrom(second, first, known?.roles[1] ?? '') },
    ],
    name: relations.claim(known?.name ?? '', own, `${own}_pairs`),
  };
}
