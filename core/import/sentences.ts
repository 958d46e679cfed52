import { sqliteDialect } from '../dialects/index.js';
import { plural, snakeCase } from '../model/index.js';
import { quoteText } from '../notation/index.js';
import type { Column, ForeignKey, Table } from '../schema/index.js';
import { typeName, type ValueType } from '../values/index.js';
import { checkName, columnsOfCheck, conditionOf } from './checks.js';
import { type GivenNames, isWritable, placeOf } from './existing.js';
import { Names, written, writtenFirst } from './names.js';
import type { EntityTable, KeyLink, PivotLink } from './relations.js';
import { isOwnStyle, type Style } from './style.js';
import { defaultOf, typeOfDeclared } from './types.js';

/** What the sentences about a database's tables have in common. */
export interface Telling {
  readonly style: Style;
  /** The relations whose key columns stand in each entity's table. */
  readonly links: ReadonlyMap<EntityTable, readonly KeyLink[]>;
  readonly given: GivenNames;
  /** The type that a column of an entity has: its own, or that of the key that it points at. */
  typeOf(entity: EntityTable, column: string): ValueType;
  /** Tables whose whole statement is kept, since their sentences do not say all of it. */
  readonly whole: ReadonlySet<string>;
  /** Checks, by table and SQL, that are kept as SQL. */
  readonly keptChecks: ReadonlySet<string>;
  readonly statements: ReadonlyMap<string, string>;
}

/** Types that the notation does not let a key have. */
const NO_KEYS: readonly ValueType['kind'][] = ['json', 'bytes', 'real', 'boolean'];

/** The type of a key's column, which keeps its declaration where the notation has no such key. */
export function keyType(declared: string): ValueType {
  const type = typeOfDeclared(declared);
  return NO_KEYS.includes(type.kind) ? { kind: 'sql', declaration: declared } : type;
}

/** A line that keeps SQL, with one text for each of its lines. */
export function keptLine(sql: string, indent: string): string {
  const [first = '', ...others] = sql.replace(/\r\n?/g, '\n').split('\n').map(quoteText);
  return `${indent}kept ${[first, ...others.map((line) => `${indent}  ${line}`)].join(',\n')}`;
}

/** An entity's declaration. */
export function tellEntity(entity: EntityTable, telling: Telling): string {
  const { table, key } = entity;
  const own = telling.links.get(entity) ?? [];
  const hidden = undeclaredColumns(entity, own, telling);
  const fields = new Fields(entity.table, telling.given, own);
  const expected = plural(snakeCase(entity.entity));
  const lines = [`entity ${entity.entity}${expected === table.name.name ? '' : ` in ${written(table.name.name)}`}`];
  const asModifier = key.length === 1 && table.primaryKey.name === null && table.primaryKey.columns.length === 1;
  for (const column of table.columns) {
    if (hidden.has(column.name)) continue;
    const alone = key.length === 1 && column.name === key[0];
    const kind = !alone ? 'none' : asModifier ? 'word' : 'line';
    lines.push(`  ${tellField(table, column, telling.typeOf(entity, column.name), kind, fields, telling)}`);
  }
  const roleOf = new Map(own.flatMap((link) => (link.key.columns.length === 1 ? [[link.key.columns[0] ?? '', link.role]] : [])));
  const member = (column: string) => written(hidden.has(column) ? (roleOf.get(column) ?? column) : fields.name(column));
  if (key.length === 0) lines.push(`  key (${rowNumberOf(table) ?? 'rowid'})`);
  else if (!asModifier) lines.push(`  key (${key.map(member).join(', ')})${namedTail(table.primaryKey.name)}`);
  lines.push(
    ...tellConstraints(
      table,
      '  ',
      member,
      (column) => (hidden.has(column) ? null : written(fields.name(column))),
      hidden,
      telling,
    ),
  );
  const related = new Set(own.map((link) => link.key));
  for (const foreign of table.foreignKeys) if (!related.has(foreign)) lines.push(keptLine(foreignKeySql(foreign), '  '));
  if (key.length === 0 && table.primaryKey.columns.length > 0)
    lines.push(keptLine(`primary key (${table.primaryKey.columns.map(sqliteDialect.quote).join(', ')})`, '  '));
  lines.push(...tellKept(table, '  ', telling));
  return lines.join('\n');
}

/** The name under which a table's row number can be read, which none of its columns takes. */
export function rowNumberOf(table: Table): string | null {
  if (table.options.some((option) => /^without\s+rowid$/i.test(option))) return null;
  const taken = new Set(table.columns.map((column) => column.name.toLowerCase()));
  return ['rowid', '_rowid_', 'oid'].find((name) => !taken.has(name)) ?? null;
}

/** Names of the fields of one table: those of its columns, unless the text has given others. */
class Fields {
  constructor(
    private readonly table: Table,
    private readonly given: GivenNames,
    private readonly links: readonly KeyLink[],
  ) {}

  name(column: string): string {
    return fieldName(this.table, column, this.given, this.links);
  }
}

/** The field that a column is called by. A key column that bears its role's own name gives it to the role. */
export function fieldName(table: Table, column: string, given: GivenNames, links: readonly KeyLink[]): string {
  const known = given.fields.get(placeOf(table.name.name, column));
  if (known !== undefined) return known;
  const role = links.find((link) => link.role.toLowerCase() === column.toLowerCase());
  return role === undefined ? column : `${column}_id`;
}

/**
 * The key columns that no field has to declare: those at the end of the table, in the order of their relations, that
 * say nothing but what the relation says.
 */
function undeclaredColumns(entity: EntityTable, own: readonly KeyLink[], { typeOf }: Telling): ReadonlySet<string> {
  const { table, key } = entity;
  const needless = (link: KeyLink) =>
    link.key.columns.every((name, index) => {
      const column = table.columns.find((candidate) => candidate.name === name);
      const target = link.parent.table.columns.find((candidate) => candidate.name === link.parent.key[index]);
      return (
        column !== undefined &&
        target?.type === column.type &&
        sameType(typeOf(entity, name), typeOf(link.parent, target.name)) &&
        !key.includes(name) &&
        column.notNull === link.required &&
        column.default === null &&
        column.collation === null &&
        column.generated === null &&
        own.filter((other) => other.key.columns.includes(name)).length === 1
      );
    });
  const free = own.filter(needless);
  // From the back: the last relations whose columns, one after the other, end the table.
  for (let first = 0; first < free.length; first++) {
    const columns = free.slice(first).flatMap((link) => link.key.columns);
    const end = table.columns.slice(-columns.length).map((column) => column.name);
    if (end.join('\n') === columns.join('\n')) return new Set(columns);
  }
  return new Set();
}

function sameType(a: ValueType, b: ValueType): boolean {
  return typeName(a) === typeName(b);
}

/** @param key how the field says that it is the whole key: by a word of its own, by a line of the entity, or it is not */
function tellField(
  table: Table,
  column: Column,
  type: ValueType,
  key: 'word' | 'line' | 'none',
  fields: Fields,
  telling: Telling,
): string {
  const name = fields.name(column.name);
  const words = [writtenFirst(name), typeName(type)];
  const numbered = type.kind === 'bigint' || type.kind === 'integer';
  if (key !== 'none') {
    if (key === 'word') words.push('key');
    if (numbered && column.notNull) words.push('not null');
    if (!numbered && !column.notNull) words.push('optional');
    if (table.primaryKey.autoincrement) words.push('never reused');
  } else {
    if (!column.notNull) words.push('optional');
    if (table.uniques.some((unique) => unique.name === null && unique.columns.length === 1 && unique.columns[0] === column.name))
      words.push('unique');
  }
  if (column.default !== null) {
    const byDefault = defaultOf(column.default, type);
    if (byDefault !== null) words.push(`default ${byDefault}`);
  }
  if (column.collation !== null && isWritable(column.collation)) words.push(`collate ${anyName(column.collation)}`);
  if (column.generated !== null && !/[\r\n]/.test(column.generated.sql))
    words.push(`generated as ${quoteText(column.generated.sql)}${column.generated.stored ? ' stored' : ''}`);
  if (!isOwnStyle(telling.style, column.type, type) && !/[\r\n]/.test(column.type))
    words.push(`stored as ${quoteText(column.type)}`);
  if (name !== column.name) words.push(`column ${written(column.name)}`);
  return words.join(' ');
}

/** A name of the database's own: with a capital or without, bare where it can be. */
function anyName(name: string): string {
  return /^[A-Z][A-Za-z0-9_]*$/.test(name) ? name : written(name);
}

function namedTail(name: string | null): string {
  return name === null ? '' : `, named ${anyName(name)}`;
}

function tellConstraints(
  table: Table,
  indent: string,
  member: (column: string) => string,
  fieldOf: (column: string) => string | null,
  hidden: ReadonlySet<string>,
  { keptChecks, whole, given }: Telling,
): string[] {
  const lines: string[] = [];
  const list = (columns: readonly string[]) => `(${columns.map(member).join(', ')})`;
  for (const unique of table.uniques) {
    // A unique of one column stands with its field, or is what makes a relation one-to-one.
    if (unique.name !== null || unique.columns.length > 1)
      lines.push(`${indent}unique ${list(unique.columns)}${namedTail(unique.name)}`);
    else if (hidden.has(unique.columns[0] ?? '')) continue;
  }
  // Uniques first: so they are made, and so they are read back.
  for (const index of [...table.indexes].sort((a, b) => Number(b.unique) - Number(a.unique))) {
    if (index.sql !== null || !isWritable(index.name)) continue;
    lines.push(
      index.unique
        ? `${indent}unique ${list(index.columns)}, as index ${anyName(index.name)}`
        : `${indent}index ${list(index.columns)}, named ${anyName(index.name)}`,
    );
  }
  if (whole.has(placeOf(table.name.name))) return lines;
  // Sentences before what is kept: so they are made, and so they are read back.
  const keptLines: string[] = [];
  const names = new Names();
  const columns = table.columns.map((column) => column.name);
  for (const check of table.checks) {
    const place = placeOf(table.name.name, check.expression);
    const about = columnsOfCheck(check.expression, columns);
    const name = given.checks.get(place);
    const condition = keptChecks.has(place)
      ? null
      : conditionOf(check.expression, (word) => {
          const column = columns.find((candidate) => candidate.toLowerCase() === word.toLowerCase());
          return column === undefined ? null : fieldOf(column);
        });
    if (condition === null) {
      const named = check.name === null ? '' : `constraint ${sqliteDialect.quote(check.name)} `;
      keptLines.push(keptLine(`${named}check (${check.expression})`, indent));
    } else {
      const own = check.name !== null && isWritable(check.name) ? written(check.name) : null;
      const label = name === undefined ? (own ?? checkName(about, names)) : written(name);
      lines.push(`${indent}check ${label}: ${condition}${namedTail(check.name)}`);
    }
  }
  return [...lines, ...keptLines];
}

/** What has no word of the notation: constraints, options, indexes with more to them, triggers; or the whole table. */
function tellKept(table: Table, indent: string, { whole, statements }: Telling): string[] {
  const isWhole = whole.has(placeOf(table.name.name));
  const indexes = table.indexes.flatMap((index) =>
    index.sql === null && isWritable(index.name) ? [] : [indexSql(table, index)],
  );
  return [
    ...(isWhole ? [statements.get(table.name.name) ?? ''] : [...table.constraints, ...table.options]),
    ...indexes,
    ...table.triggers,
  ].map((sql) => keptLine(sql, indent));
}

/** The statement of an index. */
export function indexSql(table: Table, index: Table['indexes'][number]): string {
  const [, sql = ''] = sqliteDialect.createStatements({ tables: [{ ...table, indexes: [index], triggers: [] }], others: [] });
  return sql;
}

/** A foreign key as a constraint of its table. */
export function foreignKeySql(key: ForeignKey): string {
  return key.sql ?? sqliteDialect.foreignKey(key);
}

/** Must a foreign key be kept as SQL, since the relation's words would make another? */
function isUnusual(key: ForeignKey, style: Style): boolean {
  return key.sql !== null || (key.references.length === 0) !== style.unnamedReferences;
}

/** A relation that a foreign key states. */
export function tellLink(link: KeyLink, { style }: Telling): string {
  const { child, parent, key, role, reverse, required, unique } = link;
  const columns = key.columns.map(written);
  const store = columns.length === 1 ? columns[0] : `(${columns.join(', ')})`;
  const lines = [
    `relation ${written(link.name)}`,
    `  ${child.entity} knows ${required ? 'one' : 'at most one'} ${parent.entity} as ${written(role)}`,
    `  ${parent.entity} knows ${unique ? 'at most one' : 'many'} ${child.entity} as ${written(reverse)}`,
    // Where both sentences are about one entity and read alike, the storage says which of them it is for.
    `  stored in ${child.entity}.${store}${unique && child === parent && !required ? ` as ${written(role)}` : ''}`,
  ];
  // A part of a row's own key cannot be said to be set null; its constraint can be kept.
  const impossible = key.onDelete === 'set null' && key.columns.some((column) => child.key.includes(column));
  if (isUnusual(key, style) || impossible || (key.name !== null && !isWritable(key.name))) {
    if (!impossible) lines.push(...ruleLines(key));
    return [...lines, keptLine(foreignKeySql(key), '  ')].join('\n');
  }
  return [...lines, ...ruleLines(key), ...(key.name === null ? [] : [`  named ${anyName(key.name)}`])].join('\n');
}

function ruleLines(key: ForeignKey): string[] {
  return [
    ...(key.onDelete === 'no action' ? [] : [`  on delete ${key.onDelete}`]),
    ...(key.onUpdate === 'no action' ? [] : [`  on update ${key.onUpdate}`]),
    ...(key.deferred ? ['  deferred'] : []),
  ];
}

/** A relation that a table of pairs stores. */
export function tellPivot(pair: PivotLink, telling: Telling): string {
  const [first, second] = pair.ends;
  const { table } = pair;
  const fields = new Fields(table, telling.given, []);
  const held = ({ key }: typeof first) =>
    key.columns.length === 1 ? written(key.columns[0] ?? '') : `(${key.columns.map(written).join(', ')})`;
  const keyColumns = Array.from(new Set(pair.ends.flatMap((end) => end.key.columns)));
  const withoutKey = table.primaryKey.columns.length === 0;
  const once = table.uniques.some((unique) => [...unique.columns].sort().join('\n') === [...keyColumns].sort().join('\n'));
  const lines = [
    `relation ${written(pair.name)}`,
    `  ${first.entity.entity} knows many ${second.entity.entity} as ${written(first.role)}`,
    `  ${second.entity.entity} knows many ${first.entity.entity} as ${written(second.role)}`,
    `  stored in table ${written(table.name.name)} (${held(first)}, ${held(second)})${withoutKey && !once ? ' repeats' : ''}${withoutKey ? ' without key' : ''}`,
  ];
  const targets = pair.ends.flatMap((end) =>
    end.key.columns.map((name, index) => ({ name, end, target: end.entity.key[index] ?? '' })),
  );
  const leads = table.columns.slice(0, keyColumns.length);
  const plain = leads.every(
    (column, index) =>
      column.name === keyColumns[index] &&
      column.notNull &&
      column.default === null &&
      column.collation === null &&
      column.generated === null &&
      targets.some(
        ({ name, end, target }) =>
          name === column.name && end.entity.table.columns.some((other) => other.name === target && other.type === column.type),
      ),
  );
  for (const column of table.columns) {
    const held = targets.find(({ name }) => name === column.name);
    if (held !== undefined && plain) continue;
    const type = held === undefined ? typeOfDeclared(column.type) : telling.typeOf(held.end.entity, held.target);
    lines.push(`    ${tellField(table, column, type, 'none', fields, telling)}`);
  }
  const member = (column: string) => written(fields.name(column));
  const isKey = (column: string) => keyColumns.includes(column);
  lines.push(...tellConstraints(table, '    ', member, (column) => (isKey(column) ? null : member(column)), new Set(), telling));
  lines.push(...tellKept(table, '    ', telling));
  const [a, b] = [first.key, second.key];
  const alike = a.onDelete === b.onDelete && a.onUpdate === b.onUpdate && a.deferred === b.deferred;
  const sayable = alike && a.onDelete !== 'set null' && a.onDelete !== 'set default' && a.name === null && b.name === null;
  if (sayable && !isUnusual(a, telling.style) && !isUnusual(b, telling.style)) return [...lines, ...ruleLines(a)].join('\n');
  if (sayable) lines.push(...ruleLines(a));
  return [...lines, keptLine(foreignKeySql(a), '  '), keptLine(foreignKeySql(b), '  ')].join('\n');
}
