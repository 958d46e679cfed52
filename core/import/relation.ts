import type { ForeignKey } from '../schema/index.js';
import { withoutNumbering } from '../sql/index.js';
import { tellConstraints, tellKept } from './constraints.js';
import { anyName, foreignKeySql, type ImportContext, keptLine } from './context.js';
import { isWritable } from './existing.js';
import { fieldName, tellField } from './fields.js';
import type { KeyLink, PivotLink } from './links.js';
import { written } from './names.js';
import type { Style } from './style.js';

/** Must a foreign key be kept as SQL, since the relation's words would make another? */
function isUnusual(key: ForeignKey, style: Style): boolean {
  return key.sql !== null || (key.references.length === 0) !== style.unnamedReferences;
}

/** A relation that a foreign key states. */
export function tellLink(link: KeyLink, { engine, style }: ImportContext): string {
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
    return [...lines, keptLine(foreignKeySql(engine, key), '  ')].join('\n');
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
export function tellPivot(pair: PivotLink, telling: ImportContext): string {
  const [first, second] = pair.ends;
  const { table } = pair;
  const nameOf = (column: string) => fieldName(table, column, telling.given, []);
  const held = ({ key }: typeof first) =>
    key.columns.length === 1 ? written(key.columns[0] ?? '') : `(${key.columns.map(written).join(', ')})`;
  const keyColumns = Array.from(new Set(pair.ends.flatMap((end) => end.key.columns)));
  const { schema, name: tableName } = table.name;
  const place = schema === null ? written(tableName) : `${written(schema)}.${written(tableName)}`;
  const withoutKey = table.primaryKey.columns.length === 0;
  const once = table.uniques.some((unique) => [...unique.columns].sort().join('\n') === [...keyColumns].sort().join('\n'));
  const lines = [
    `relation ${written(pair.name)}`,
    `  ${first.entity.entity} knows many ${second.entity.entity} as ${written(first.role)}`,
    `  ${second.entity.entity} knows many ${first.entity.entity} as ${written(second.role)}`,
    `  stored in table ${place} (${held(first)}, ${held(second)})${withoutKey && !once ? ' repeats' : ''}${withoutKey ? ' without key' : ''}`,
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
      column.comment === null &&
      targets.some(
        ({ name, end, target }) =>
          name === column.name &&
          end.entity.table.columns.some((other) => other.name === target && withoutNumbering(other.type) === column.type),
      ),
  );
  for (const column of table.columns) {
    const held = targets.find(({ name }) => name === column.name);
    if (held !== undefined && plain) continue;
    const type = held === undefined ? telling.engine.typeOf(column.type) : telling.typeOf(held.end.entity, held.target);
    lines.push(`    ${tellField(table, column, type, 'none', telling, nameOf(column.name))}`);
  }
  const member = (column: string) => written(nameOf(column));
  const field = (column: string) => (keyColumns.includes(column) ? null : member(column));
  lines.push(...tellConstraints(table, '    ', { member, field }, telling));
  lines.push(...tellKept(table, '    ', telling));
  const [a, b] = [first.key, second.key];
  const alike = a.onDelete === b.onDelete && a.onUpdate === b.onUpdate && a.deferred === b.deferred;
  const sayable = alike && a.onDelete !== 'set null' && a.onDelete !== 'set default' && a.name === null && b.name === null;
  if (sayable && !isUnusual(a, telling.style) && !isUnusual(b, telling.style)) return [...lines, ...ruleLines(a)].join('\n');
  if (sayable) lines.push(...ruleLines(a));
  return [...lines, keptLine(foreignKeySql(telling.engine, a), '  '), keptLine(foreignKeySql(telling.engine, b), '  ')].join(
    '\n',
  );
}
