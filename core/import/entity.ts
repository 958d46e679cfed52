import { plural, snakeCase } from '../model/index.js';
import { quoteText } from '../notation/index.js';
import { withoutNumbering } from '../sql/index.js';
import { typeName, type ValueType } from '../values/index.js';
import { tellConstraints, tellKept } from './constraints.js';
import { foreignKeySql, type ImportContext, isSayable, keptLine, namedTail } from './context.js';
import { fieldName, rowNumberOf, tellField } from './fields.js';
import type { EntityTable, KeyLink } from './links.js';
import { written } from './names.js';

/** An entity's declaration. */
export function tellEntity(entity: EntityTable, telling: ImportContext): string {
  const { table, key } = entity;
  const own = telling.links.get(entity) ?? [];
  const hidden = undeclaredColumns(entity, own, telling);
  const nameOf = (column: string) => fieldName(table, column, telling.given, own);
  const expected = plural(snakeCase(entity.entity));
  const { schema, name } = table.name;
  const place = schema === null ? (expected === name ? '' : ` in ${written(name)}`) : ` in ${written(schema)}.${written(name)}`;
  const lines = [`entity ${entity.entity}${place}`];
  const asModifier = key.length === 1 && table.primaryKey.name === null && table.primaryKey.columns.length === 1;
  for (const column of table.columns) {
    if (hidden.has(column.name)) continue;
    const alone = key.length === 1 && column.name === key[0];
    const kind = !alone ? 'none' : asModifier ? 'word' : 'line';
    lines.push(`  ${tellField(table, column, telling.typeOf(entity, column.name), kind, telling, nameOf(column.name))}`);
  }
  const single = own.filter((link) => link.key.columns.length === 1 && !telling.tied.has(link));
  const roleOf = new Map(single.map((link) => [link.key.columns[0] ?? '', link.role]));
  const member = (column: string) => written(hidden.has(column) ? (roleOf.get(column) ?? column) : nameOf(column));
  if (key.length === 0) lines.push(`  key (${rowNumberOf(telling.engine, table) ?? 'rowid'})`);
  else if (!asModifier) lines.push(`  key (${key.map(member).join(', ')})${namedTail(table.primaryKey.name)}`);
  const field = (column: string) => (hidden.has(column) ? null : written(nameOf(column)));
  lines.push(...tellConstraints(table, '  ', { member, field }, telling));
  const related = new Set(own.map((link) => link.key));
  for (const foreign of table.foreignKeys)
    if (!related.has(foreign)) lines.push(keptLine(foreignKeySql(telling.engine, foreign), '  '));
  if (key.length === 0 && table.primaryKey.columns.length > 0)
    lines.push(keptLine(`primary key (${table.primaryKey.columns.map(telling.engine.dialect.quote).join(', ')})`, '  '));
  lines.push(...tellKept(table, '  ', telling));
  if (table.comment !== null && isSayable(table.comment)) lines.push(`  note ${quoteText(table.comment)}`);
  return lines.join('\n');
}

/**
 * The key columns that no field has to declare: those at the end of the table, in the order of their relations, that
 * say nothing but what the relation says.
 */
function undeclaredColumns(entity: EntityTable, own: readonly KeyLink[], { typeOf, tied }: ImportContext): ReadonlySet<string> {
  const { table, key } = entity;
  const needless = (link: KeyLink) =>
    link.key.columns.every((name, index) => {
      const column = table.columns.find((candidate) => candidate.name === name);
      const target = link.parent.table.columns.find((candidate) => candidate.name === link.parent.key[index]);
      return (
        column !== undefined &&
        target !== undefined &&
        withoutNumbering(target.type) === column.type &&
        sameType(typeOf(entity, name), typeOf(link.parent, target.name)) &&
        !key.includes(name) &&
        column.notNull === link.required &&
        column.default === null &&
        column.collation === null &&
        column.generated === null &&
        column.comment === null &&
        own.filter((other) => other.key.columns.includes(name)).length === 1
      );
    });
  // In the order of their relations in the text: those that several keys make together come last.
  const free = [...own.filter((link) => !tied.has(link)), ...own.filter((link) => tied.has(link))].filter(needless);
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
