import { entityOf, isPolymorphic, type Model } from '../model/index.js';
import { type ForeignKey, foreignKeyIn, foreignTarget, type Schema, type Table } from '../schema/index.js';
import { allOf, column as columnOf, columnsOf, equal, number, selectOf, type TableName, tableSource } from '../sql/index.js';
import type { Dialect } from './dialect.js';

/** A key, as it is held against rows that were put in while nothing looked at it. */
export interface KeyToHold {
  readonly table: string;
  readonly parent: string;
  /** A delete of the rows that point nowhere. */
  readonly sql: string;
}

/** All keys of a schema, those too that no foreign key can hold, to be held against its rows when all are in. */
export function keysToHold(model: Model, schema: Schema, dialect: Dialect): KeyToHold[] {
  return [...foreignKeysOf(schema, dialect), ...typedKeysOf(model, dialect)];
}

/** The foreign keys of a schema, as deletes of the rows that break them. */
function foreignKeysOf(schema: Schema, dialect: Dialect): KeyToHold[] {
  return schema.tables.flatMap((table) => {
    // Those that stand as SQL hold the rows that are made as well.
    const kept = table.constraints.flatMap((sql) => (/\bnot\s+valid\s*$/i.test(sql) ? [] : (foreignKeyIn(sql) ?? [])));
    return [...table.foreignKeys, ...kept].map((key) => ({
      table: table.name.name,
      parent: key.table,
      sql: danglingDelete(dialect, table, key),
    }));
  });
}

function danglingDelete(
  { quote, printQuery, print }: Dialect,
  table: Table,
  key: Pick<ForeignKey, 'columns' | 'schema' | 'table' | 'references'>,
): string {
  const { name } = table;
  const own = `${name.schema === null ? '' : `${quote(name.schema)}.`}${quote(name.name)}`;
  const parent = { schema: key.schema, name: key.table };
  // A key that names no columns points at those of the same names here: it is one that was brought in.
  const target = key.references.length > 0 ? key.references : key.columns;
  const filled = allOf(key.columns.map((column) => ({ kind: 'is null', operand: columnOf(name.name, column), negated: true })));
  const there = equal(columnsOf('there', target), columnsOf(name.name, key.columns));
  const found = printQuery(
    selectOf(tableSource(parent, 'there'), { columns: [{ expression: number(1), as: null }], where: there }),
  );
  return `delete from ${own} where ${filled === null ? '' : `${print(filled)} and `}not exists (${found})`;
}

/** The keys that no foreign key holds, since a column beside them says whose they are. */
function typedKeysOf(model: Model, dialect: Dialect): KeyToHold[] {
  const { quote, print, values } = dialect;
  const named = ({ schema, name }: TableName) => `${schema === null ? '' : `${quote(schema)}.`}${quote(name)}`;
  return Array.from(model.relations.values()).flatMap((relation): KeyToHold[] => {
    if (!isPolymorphic(relation) || relation.storage.kind === 'one of') return [];
    const { type, id, idType } = relation.storage;
    const children = relation.kind === 'polymorphic' ? tablesOf(model, relation.child) : [relation.table.value];
    return relation.targets.flatMap(({ entity, marks }) =>
      marks.flatMap((mark) => {
        const target = foreignTarget(model, marks.length === 1 ? entity : mark.entity);
        if (target.kind === 'tables') return [];
        const { key } = entityOf(model, entity);
        const own = columnOf('there', key.columns[0] ?? '');
        const held = JSON.stringify(key.type) === JSON.stringify(idType) ? own : values.toText(key.type, own);
        return children.map((child): KeyToHold => {
          const marked = `${quote(type.value)} = ${print({ kind: 'string', value: mark.mark })}`;
          const found = `exists (select 1 from ${named(target.table)} there where ${print(held)} = ${quote(child.name)}.${quote(id.value)})`;
          return {
            table: child.name,
            parent: target.table.name,
            sql: `delete from ${named(child)} where ${marked} and not ${found}`,
          };
        });
      }),
    );
  });
}

/** The tables in which an entity's rows stand. */
function tablesOf(model: Model, name: string): readonly TableName[] {
  const target = foreignTarget(model, name);
  return target.kind === 'table' ? [target.table] : target.tables;
}
