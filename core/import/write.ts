import { plural, snakeCase } from '../model/index.js';
import { format, quoteText } from '../notation/index.js';
import type { Column, Schema, Table } from '../schema/index.js';
import { typeName, type ValueType } from '../values/index.js';
import { entityName, Names, written, writtenFirst } from './names.js';
import { type EntityTable, isUnique, type KeyLink, nameLink, namePivot, type PivotLink, pivotKeys } from './relations.js';
import { defaultOf, typeOfDeclared } from './types.js';

/** A text for a database, and what of the database it does not say. */
export interface Imported {
  readonly text: string;
  /** How many of what came in, in one line. */
  readonly summary: string;
  /** One line each: the thing, and what became of it. */
  readonly report: readonly string[];
}

/**
 * The kin text of a database: entities, fields, keys, relations, pivots and one-to-ones, under names that a person
 * would choose. The same schema gives the same text. What the text does not say is in the report.
 */
export function importSchema(
  schema: Schema,
  title: string,
  others: readonly { readonly kind: string; readonly name: string }[] = [],
): Imported {
  const report: string[] = [];
  const types = new Names();
  const relations = new Names();
  const entities = new Map<string, EntityTable>();
  const pivots: Table[] = [];
  const keyless: Table[] = [];
  const find = (name: string) => entities.get(name.toLowerCase());

  for (const table of schema.tables) {
    if (pivotKeys(table, schema.tables) !== null) {
      pivots.push(table);
      continue;
    }
    const key = keyOf(table);
    if (key === null && table.primaryKey.columns.length === 0) {
      keyless.push(table);
      report.push(`${table.name.name}: left out, since it has no key to tell its rows apart.`);
      continue;
    }
    if (key === null)
      report.push(
        `${table.name.name}: its key has several columns (${table.primaryKey.columns.join(', ')}); the text says so, but that is not built yet.`,
      );
    entities.set(table.name.name.toLowerCase(), { table, entity: entityName(table.name.name, types), key, members: new Names() });
  }

  const carried = carriedKeys(schema, entities, find, report);
  const keyColumns = (table: Table) => new Set(carried.filter((link) => link.child.table === table).map((link) => link.column));
  for (const entity of entities.values()) {
    const columns = keyColumns(entity.table);
    for (const column of entity.table.columns)
      if (!columns.has(column.name) || column.name === entity.key) entity.members.take(column.name);
  }
  const links = carried.map((link) => {
    const several =
      carried.filter((other) => other.child === link.child && other.parent === link.parent).length > 1 ||
      link.child === link.parent;
    return nameLink(link, relations, several);
  });
  const pairs = pivots.flatMap((table): PivotLink[] => {
    const keys = pivotKeys(table, schema.tables);
    const [first, second] = (keys ?? []).map((key) => ({ key, column: key.columns[0] ?? '', entity: find(key.table) }));
    if (first?.entity === undefined || second?.entity === undefined) {
      report.push(`${table.name.name}: left out, since a table that it joins is.`);
      return [];
    }
    return [
      namePivot(
        table,
        [
          { ...first, entity: first.entity },
          { ...second, entity: second.entity },
        ],
        relations,
      ),
    ];
  });

  const blocks = [
    `tree ${quoteText(title)}`,
    ...Array.from(entities.values(), (entity) => writeEntity(entity, links, report)),
    ...links.map((link) => writeKey(link, report)),
    ...pairs.map((pair) => writePivot(pair, report)),
  ];
  for (const { kind, name } of others) report.push(`${kind} ${name}: not carried.`);
  const left =
    keyless.length === 0 ? '' : `\n-- Left out, for want of a key: ${keyless.map((table) => table.name.name).join(', ')}\n`;
  return {
    text: format(`${blocks.join('\n\n')}\n${left}`),
    summary: summaryOf(schema, entities.size, links, pairs.length),
    report,
  };
}

function summaryOf(schema: Schema, entities: number, links: readonly KeyLink[], pivots: number): string {
  const count = (number: number, word: string) => `${number} ${number === 1 ? word : plural(word)}`;
  const columns = schema.tables.reduce((sum, table) => sum + table.columns.length, 0);
  const keys = schema.tables.filter((table) => table.primaryKey.columns.length > 0).length;
  const foreignKeys = schema.tables.reduce((sum, table) => sum + table.foreignKeys.length, 0);
  const oneToOnes = links.filter((link) => link.unique).length;
  return [
    `${count(schema.tables.length, 'table')} with ${count(columns, 'column')}, ${count(keys, 'key')} and ${count(foreignKeys, 'foreign key')}`,
    `${count(entities, 'entity')}, ${count(links.length - oneToOnes, 'one-to-many relation')}, ${count(oneToOnes, 'one-to-one relation')}, ${count(pivots, 'pivot')}`,
  ].join(': ');
}

/** The column that tells a table's rows apart: its primary key, else a required column that is unique alone. */
function keyOf(table: Table): string | null {
  const [first, ...more] = table.primaryKey.columns;
  if (first !== undefined) return more.length === 0 ? first : null;
  return table.columns.find((column) => column.notNull && isUnique(table, column.name))?.name ?? null;
}

function carriedKeys(
  schema: Schema,
  entities: ReadonlyMap<string, EntityTable>,
  find: (name: string) => EntityTable | undefined,
  report: string[],
): Omit<KeyLink, 'name' | 'role' | 'reverse'>[] {
  return schema.tables.flatMap((table) => {
    const child = entities.get(table.name.name.toLowerCase());
    if (child === undefined) return [];
    const seen = new Set<string>();
    return table.foreignKeys.flatMap((key) => {
      const label = `${table.name.name} (${key.columns.join(', ')}) → ${key.table} (${key.references.join(', ')})`;
      const parent = find(key.table);
      const [column, ...more] = key.columns;
      if (parent === undefined) {
        const there = schema.tables.some((other) => other.name.name.toLowerCase() === key.table.toLowerCase());
        report.push(`${label}: not carried, since ${key.table} is ${there ? 'left out' : 'not there'}.`);
        return [];
      }
      if (column === undefined || more.length > 0) {
        report.push(`${label}: not carried, since a key of several columns is not built yet.`);
        return [];
      }
      if (key.references[0]?.toLowerCase() !== parent.key?.toLowerCase()) {
        report.push(`${label}: not carried, since it points at a column that is not the key of ${key.table}.`);
        return [];
      }
      if (seen.has(column)) {
        report.push(`${label}: not carried, since ${column} points elsewhere already.`);
        return [];
      }
      seen.add(column);
      const own = table.columns.find((candidate) => candidate.name === column);
      // In SQLite a row may know at most one of its own kind, or no first row could be.
      const required = (own?.notNull === true || column === child.key) && parent !== child;
      if (own?.notNull === true && parent === child)
        report.push(`${label}: not null is not carried, since no first row could be put in.`);
      if (own !== undefined && own.default !== null && own.default.toUpperCase() !== 'NULL' && column !== child.key)
        report.push(`${table.name.name}.${column}: its default ${own.default} is not carried.`);
      return [{ child, parent, key, column, required, unique: isUnique(table, column) }];
    });
  });
}

function writeEntity(entity: EntityTable, links: readonly KeyLink[], report: string[]): string {
  const { table, key } = entity;
  const own = links.filter((link) => link.child === entity);
  const roleOf = new Map(own.map((link) => [link.column, link.role]));
  const expected = plural(snakeCase(entity.entity));
  const lines = [`entity ${entity.entity}${expected === table.name.name ? '' : ` in ${written(table.name.name)}`}`];
  for (const column of table.columns) {
    const link = own.find((candidate) => candidate.column === column.name);
    if (link !== undefined && column.name !== key) continue;
    // A key that is another row's key, too, has that row's type.
    const type = link === undefined ? typeOfDeclared(column.type) : keyTypeOf(link.parent);
    lines.push(`  ${writeField(table, column, type, column.name === key, report)}`);
  }
  if (key === null)
    lines.push(`  key (${table.primaryKey.columns.map((column) => written(roleOf.get(column) ?? column)).join(', ')})`);
  for (const unique of [...table.uniques, ...table.indexes.filter((index) => index.unique)]) {
    if (unique.columns.length > 1)
      lines.push(`  unique (${unique.columns.map((column) => written(roleOf.get(column) ?? column)).join(', ')})`);
  }
  for (const index of table.indexes) {
    const impliedByKey = index.columns.length === 1 && roleOf.has(index.columns[0] ?? '');
    if (!index.unique && !impliedByKey)
      lines.push(`  index (${index.columns.map((column) => written(roleOf.get(column) ?? column)).join(', ')})`);
  }
  for (const check of table.checks)
    report.push(`${table.name.name}: check (${check.expression.replace(/\s+/g, ' ')}) is not carried.`);
  return lines.join('\n');
}

function keyTypeOf(entity: EntityTable): ValueType {
  const column = entity.table.columns.find((candidate) => candidate.name === entity.key);
  return typeOfDeclared(column?.type ?? 'INTEGER');
}

function writeField(table: Table, column: Column, type: ValueType, key: boolean, report: string[]): string {
  const words = [writtenFirst(column.name), typeName(type)];
  if (key) words.push('key');
  else {
    if (!column.notNull) words.push('optional');
    if (isUnique(table, column.name)) words.push('unique');
  }
  if (column.default !== null && !key) {
    const byDefault = defaultOf(column, type);
    if (byDefault === null) report.push(`${table.name.name}.${column.name}: its default ${column.default} is not carried.`);
    else if (byDefault !== 'null') words.push(`default ${byDefault}`);
  }
  return words.join(' ');
}

function writeKey(link: KeyLink, report: string[]): string {
  const { child, parent, key, role, reverse, required, unique } = link;
  const lines = [
    `relation ${written(link.name)}`,
    `  ${child.entity} knows ${required ? 'one' : 'at most one'} ${parent.entity} as ${written(role)}`,
    `  ${parent.entity} knows ${unique ? 'at most one' : 'many'} ${child.entity} as ${written(reverse)}`,
    // Where both sentences are about one entity and read alike, the storage says which of them it is for.
    `  stored in ${child.entity}.${written(link.column)}${unique && child === parent && !required ? ` as ${written(role)}` : ''}`,
  ];
  const byDefault = required ? 'restrict' : 'set null';
  if (key.onDelete === 'set null' && required)
    report.push(`${child.table.name.name}.${link.column}: on delete set null is not carried, since the column is not null.`);
  else if (key.onDelete !== byDefault) lines.push(`  on delete ${key.onDelete}`);
  if (key.onUpdate !== 'no action') lines.push(`  on update ${key.onUpdate}`);
  return lines.join('\n');
}

function writePivot(pair: PivotLink, report: string[]): string {
  const [first, second] = pair.ends;
  const { table } = pair;
  const columns = pair.ends.map((end) => end.column);
  const lines = [
    `relation ${written(pair.name)}`,
    `  ${first.entity.entity} knows many ${second.entity.entity} as ${written(first.role)}`,
    `  ${second.entity.entity} knows many ${first.entity.entity} as ${written(second.role)}`,
    `  stored in table ${written(table.name.name)} (${columns.map(written).join(', ')})`,
  ];
  for (const column of table.columns) {
    if (!columns.includes(column.name))
      lines.push(`    ${writeField(table, column, typeOfDeclared(column.type), false, report)}`);
  }
  const rules = new Set(pair.ends.map((end) => end.key.onDelete));
  const [rule] = rules;
  if (rules.size > 1)
    report.push(`${table.name.name}: its two keys have different rules on delete; ${rule} is carried for both.`);
  if (rule !== undefined && rule !== 'cascade' && rule !== 'set null' && rule !== 'set default')
    lines.push(`  on delete ${rule}`);
  for (const index of table.indexes) {
    if (index.columns.length > 1 || !columns.includes(index.columns[0] ?? ''))
      lines.splice(4, 0, `    ${index.unique ? 'unique' : 'index'} (${index.columns.map(written).join(', ')})`);
  }
  for (const check of table.checks)
    report.push(`${table.name.name}: check (${check.expression.replace(/\s+/g, ' ')}) is not carried.`);
  return lines.join('\n');
}
