import { plural } from '../model/index.js';
import { quoteText } from '../notation/index.js';
import { type ForeignKey, type Table, writtenTriggers } from '../schema/index.js';
import type { ValueType } from '../values/index.js';
import { choicesOf } from './choices.js';
import { statementOf } from './constraints.js';
import { foreignKeySql, type ImportContext, indexSql, keptLine } from './context.js';
import type { ImportEngine } from './engines.js';
import { tellEntity } from './entity.js';
import { type Existing, fullName, type GivenNames, isSpeakable, placeOf, targetOf } from './existing.js';
import { fieldName, keyType, rowNumberOf } from './fields.js';
import {
  type EntityTable,
  isUnique,
  type KeyLink,
  nameLink,
  namePivot,
  type PivotLink,
  pivotKeys,
  pointsAtKey,
} from './links.js';
import { entityName, Names } from './names.js';
import { oneOfLinks, tellOneOf } from './one-of.js';
import { tellLink, tellPivot } from './relation.js';
import { styleLines, styleOf } from './style.js';

/** The parts of a database that the sentences were found to lose, and that are kept as SQL instead. */
export interface KeptAsSql {
  /** Tables, by name, whose statement is kept whole below their sentences. */
  readonly whole: Set<string>;
  /** Tables that the text says nothing of but their statement. */
  readonly apart: Set<string>;
  /** Tables that look like pivots, and are told as entities. */
  readonly noPivots: Set<string>;
  /** Foreign keys, by table and columns, that no relation can speak of. */
  readonly noRelations: Set<string>;
  /** Checks, by table and SQL. */
  readonly keptChecks: Set<string>;
}

/** A text, and what its declarations stand for. */
export interface Written {
  readonly text: string;
  readonly entities: readonly EntityTable[];
  readonly links: readonly KeyLink[];
  readonly pivots: readonly PivotLink[];
  readonly apart: readonly Table[];
  /** Foreign keys that are kept as constraints, with their tables. */
  readonly constraints: readonly { readonly table: Table; readonly key: ForeignKey }[];
}

/** Writes the text of a database under names that a person would choose. The same database gives the same text. */
export function write(existing: Existing, title: string, given: GivenNames, carried: KeptAsSql): Written {
  const { schema, statements } = existing;
  const types = new Names();
  const { blocks: choices, engine } = choicesOf(existing, types);
  const apart = schema.tables.filter((table) => !isSpeakable(table) || isIn(carried.apart, table) || !hasKey(engine, table));
  const told = schema.tables.filter((table) => !apart.includes(table));
  const { entities, pivots } = sortTables(engine, schema.tables, told, types, given, carried);
  const find = (name: string) => entities.get(name.toLowerCase());
  const inOrder = schema.tables.flatMap((table) => find(fullName(table.name)) ?? []);
  const { links, pairs } = nameLinks(inOrder, find, pivots, given, carried);
  const style = styleOf(engine, told);
  const byChild = linksByChild(links);
  const several = inOrder.flatMap((entity) => oneOfLinks(entity, byChild.get(entity) ?? []));
  const tied = new Set(several.flatMap((one) => one.links));
  const telling: ImportContext = {
    engine,
    style,
    links: byChild,
    tied,
    given,
    whole: carried.whole,
    keptChecks: carried.keptChecks,
    statements,
    typeOf: columnTypes(engine, links),
  };
  const beside = apart.flatMap((table) => asStatements(engine, table, statements));
  const blocks = [
    [
      `tree ${quoteText(title)}`,
      `  dialect ${existing.dialect}`,
      ...styleLines(engine, style, quoteText),
      ...[...schema.prelude, ...beside, ...schema.others].map((sql) => keptLine(sql, '  ')),
    ].join('\n'),
    ...choices,
    ...inOrder.map((entity) => tellEntity(entity, telling)),
    ...links.filter((link) => !tied.has(link)).map((link) => tellLink(link, telling)),
    ...several.map(tellOneOf),
    ...pairs.map((pair) => tellPivot(pair, telling)),
  ];
  const related = new Set(links.map((link) => link.key));
  const constraints = inOrder.flatMap(({ table }) =>
    table.foreignKeys.filter((key) => !related.has(key)).map((key) => ({ table, key })),
  );
  return { text: `${blocks.join('\n\n')}\n`, entities: inOrder, links, pivots: pairs, apart, constraints };
}

function isIn(tables: ReadonlySet<string>, table: Table): boolean {
  return tables.has(placeOf(fullName(table.name)));
}

/** A table of pairs, and the entities that its two keys lead to. */
interface PairTable {
  readonly table: Table;
  readonly sides: readonly [PivotPart, PivotPart];
}

/**
 * Which tables are entities, and which are pairs of them: those with two keys that lead to keys of entities. Entities stand
 * by the full names of their tables in small letters.
 */
function sortTables(
  engine: ImportEngine,
  all: readonly Table[],
  told: readonly Table[],
  types: Names,
  given: GivenNames,
  carried: KeptAsSql,
): { readonly entities: ReadonlyMap<string, EntityTable>; readonly pivots: readonly PairTable[] } {
  const pointedAt = new Set(all.flatMap((table) => table.foreignKeys.map((key) => targetOf(key).toLowerCase())));
  const pivotTables = told.filter((table) => !isIn(carried.noPivots, table) && pivotKeys(table, pointedAt) !== null);
  const entities = new Map<string, EntityTable>();
  const addEntity = (table: Table) => {
    const entity = given.entities.get(placeOf(fullName(table.name))) ?? entityName(table.name.name, types);
    entities.set(fullName(table.name).toLowerCase(), { table, entity, key: keyOf(engine, table), members: new Names() });
  };
  // Names that the text has given are taken before any is made.
  const entityTables = told.filter((table) => !pivotTables.includes(table));
  for (const table of entityTables) types.reserve(given.entities.get(placeOf(fullName(table.name))));
  for (const table of entityTables) addEntity(table);
  const pivots: PairTable[] = [];
  for (const table of pivotTables) {
    const sides = (pivotKeys(table, pointedAt) ?? []).flatMap((key): PivotPart[] => {
      const entity = entities.get(targetOf(key).toLowerCase());
      return entity !== undefined && pointsAtKey(key, entity) ? [{ entity, key }] : [];
    });
    const [first, second] = sides;
    if (first !== undefined && second !== undefined) pivots.push({ table, sides: [first, second] });
    else addEntity(table);
  }
  return { entities, pivots };
}

/** The names of relations and roles: members of entities first, then those that are made of them. */
function nameLinks(
  entities: readonly EntityTable[],
  find: (name: string) => EntityTable | undefined,
  pivots: readonly PairTable[],
  given: GivenNames,
  carried: KeptAsSql,
): { readonly links: readonly KeyLink[]; readonly pairs: readonly PivotLink[] } {
  const relations = new Names();
  const found = entities.flatMap((child) => linksOf(child, find, carried));
  const foundByChild = linksByChild(found);
  for (const entity of entities) reserveNames(entity, foundByChild.get(entity) ?? [], given);
  const links = found.map((link) => {
    const between = foundByChild.get(link.child)?.filter((other) => other.parent === link.parent) ?? [];
    const several = between.length > 1 || link.child === link.parent;
    return nameLink(link, relations, several, given);
  });
  const pairs = pivots.map(({ table, sides }) => namePivot(table, sides, relations, given));
  return { links, pairs };
}

/** The statements of a table that the text says nothing of in sentences, with what belongs to it. */
function asStatements(engine: ImportEngine, table: Table, statements: Existing['statements']): string[] {
  const triggers = writtenTriggers(table).map(({ sql }) => sql);
  const whole = engine.dialect.name === 'mariadb' ? statements.get(table.name.name) : undefined;
  // Its statement has indexes and keys in it, which its columns may need to be there.
  if (whole !== undefined) return [whole, ...triggers];
  return [
    statementOf(engine, table, statements),
    ...table.indexes.map((index) => indexSql(engine.dialect, table, index)),
    ...(engine.numbersRows ? [] : table.foreignKeys.map((key) => addedKey(engine, table, key))),
    ...triggers,
  ];
}

type PivotPart = { readonly entity: EntityTable; readonly key: ForeignKey };

/** A foreign key of a table that stands as SQL, added when all tables are there. */
function addedKey(engine: ImportEngine, { name }: Table, key: ForeignKey): string {
  const { quote } = engine.dialect;
  const table = `${name.schema === null ? '' : `${quote(name.schema)}.`}${quote(name.name)}`;
  return `alter table ${table} add ${foreignKeySql(engine, key)}`;
}

/** Can a table's rows be told apart: by its key, or by the number that SQLite gives each? */
function hasKey(engine: ImportEngine, table: Table): boolean {
  return table.primaryKey.columns.length > 0 || rowNumberOf(engine, table) !== null;
}

/** The key's columns; none where rows are told apart by number: without a key, or with a blob, which no page can ask for. */
function keyOf(engine: ImportEngine, table: Table): readonly string[] {
  const { columns } = table.primaryKey;
  const blob = columns.some((name) => table.columns.find((column) => column.name === name)?.type.toUpperCase() === 'BLOB');
  return blob && rowNumberOf(engine, table) !== null ? [] : columns;
}

/** The foreign keys of a table that become relations. */
function linksOf(
  child: EntityTable,
  find: (name: string) => EntityTable | undefined,
  carried: KeptAsSql,
): Omit<KeyLink, 'name' | 'role' | 'reverse'>[] {
  const { table } = child;
  const seen = new Set<string>();
  return table.foreignKeys.flatMap((key) => {
    const parent = find(targetOf(key));
    const place = placeOf(fullName(table.name), ...key.columns);
    if (parent === undefined || !pointsAtKey(key, parent) || seen.has(place) || carried.noRelations.has(place)) return [];
    seen.add(place);
    const filled = key.columns.every((name) => table.columns.find((column) => column.name === name)?.notNull === true);
    // A row may know at most one of its own kind, or no first row could be; and an end that is emptied is optional.
    const required = filled && parent !== child && key.onDelete !== 'set null';
    return [{ child, parent, key, required, unique: isUnique(table, key.columns) }];
  });
}

/** Takes the names of an entity's fields, and those that its roles have been given, before any role is named. */
function reserveNames(
  { table, members }: EntityTable,
  links: readonly Omit<KeyLink, 'name' | 'role' | 'reverse'>[],
  given: GivenNames,
): void {
  const single = new Set(links.filter((link) => link.key.columns.length === 1).map((link) => link.key.columns[0]));
  for (const column of table.columns) {
    // A key column that is called as its role would be makes way for it.
    if (
      !single.has(column.name) ||
      given.fields.has(placeOf(fullName(table.name), column.name)) ||
      /_(id|key|fk)$|[a-z]I[dD]$/i.test(column.name)
    )
      members.take(fieldName(table, column.name, given, []));
  }
}

/** The type of each column: a foreign key's is that of the key that it points at, over as many hops as there are. */
function columnTypes(engine: ImportEngine, links: readonly KeyLink[]): ImportContext['typeOf'] {
  const known = new Map<string, ValueType>();
  const byChild = linksByChild(links);
  const typeOf = (entity: EntityTable, name: string, hops: number): ValueType => {
    const place = placeOf(fullName(entity.table.name), name);
    const before = known.get(place);
    if (before !== undefined) return before;
    const links = byChild.get(entity) ?? [];
    const declared = entity.table.columns.find((column) => column.name === name)?.type ?? '';
    const own = entity.key.includes(name) ? keyType(engine, declared) : engine.typeOf(declared);
    const link =
      hops > 20 ? undefined : links.find((candidate) => candidate.key.columns.includes(name) && candidate.parent !== entity);
    const target = link?.parent.key[link.key.columns.indexOf(name)];
    const self = links.find((candidate) => candidate.parent === entity && candidate.key.columns.includes(name));
    const part = self?.parent.key[self.key.columns.indexOf(name)];
    const type =
      link !== undefined && target !== undefined
        ? typeOf(link.parent, target, hops + 1)
        : part !== undefined && part !== name
          ? typeOf(entity, part, hops + 1)
          : own;
    known.set(place, type);
    return type;
  };
  return (entity, column) => typeOf(entity, column, 0);
}

function linksByChild<L extends Pick<KeyLink, 'child'>>(links: readonly L[]): ReadonlyMap<EntityTable, readonly L[]> {
  const byChild = new Map<EntityTable, L[]>();
  for (const link of links) {
    const own = byChild.get(link.child);
    if (own === undefined) byChild.set(link.child, [link]);
    else own.push(link);
  }
  return byChild;
}

/** How much came in: what the database has, and what became of it. */
export interface ImportSummary {
  readonly was: string;
  readonly became: string;
}

/** Counts what the database has, and what the text makes of it, in words. */
export function summaryOf({ schema }: Existing, { entities, links, pivots }: Written): ImportSummary {
  const count = (number: number, word: string) => `${number} ${number === 1 ? word : plural(word)}`;
  const some = (number: number, word: string) => (number === 0 ? [] : [count(number, word)]);
  const columns = schema.tables.reduce((sum, table) => sum + table.columns.length, 0);
  const foreignKeys = schema.tables.reduce((sum, table) => sum + table.foreignKeys.length, 0);
  const oneToOnes = links.filter((link) => link.unique).length;
  return {
    was: `${count(schema.tables.length, 'table')} with ${count(columns, 'column')} and ${count(foreignKeys, 'foreign key')}`,
    became: [
      count(entities.length, 'entity'),
      ...some(links.length - oneToOnes, 'one-to-many relation'),
      ...some(oneToOnes, 'one-to-one relation'),
      ...some(pivots.length, 'pivot'),
    ].join(', '),
  };
}
