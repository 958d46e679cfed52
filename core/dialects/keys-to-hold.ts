import { entityOf, holdingsOf, type Model } from '../model/index.js';
import { type ForeignKey, foreignKeyIn, foreignTarget, type Schema, type Table } from '../schema/index.js';
import {
  allOf,
  column,
  columnsOf,
  equal,
  existsIn,
  isFilled,
  not,
  type SqlExpression,
  string,
  type TableName,
} from '../sql/index.js';
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
    return [...table.foreignKeys, ...kept].map((key) => foreignKeyOf(dialect, table, key));
  });
}

function foreignKeyOf(
  dialect: Dialect,
  { name }: Table,
  key: Pick<ForeignKey, 'columns' | 'schema' | 'table' | 'references'>,
): KeyToHold {
  // A key that names no columns points at those of the same names here: it is one that was brought in.
  const target = key.references.length > 0 ? key.references : key.columns;
  const filled = key.columns.map((column) => isFilled(name.name, column));
  const there = equal(columnsOf('there', target), columnsOf(name.name, key.columns));
  return keyOf(dialect, name, { schema: key.schema, name: key.table }, filled, there);
}

/** @param there the condition that a row of the parent, as `there`, is the one that is pointed at */
function keyOf(
  dialect: Dialect,
  child: TableName,
  parent: TableName,
  pointing: readonly SqlExpression[],
  there: SqlExpression,
): KeyToHold {
  const where = allOf([...pointing, not(existsIn(parent, there, { alias: 'there' }))]);
  return { table: child.name, parent: parent.name, sql: dialect.printChange({ kind: 'delete', from: child, where }) };
}

/** The keys that no foreign key holds, since a column beside them says whose they are. */
function typedKeysOf(model: Model, dialect: Dialect): KeyToHold[] {
  const { values } = dialect;
  return Array.from(model.relations.values()).flatMap((relation): KeyToHold[] => {
    const { holder, pairs, keys } = holdingsOf(relation);
    const children = pairs !== null ? [pairs] : holder === null ? [] : tablesOf(model, holder);
    return keys.flatMap(({ target, columns: [held], mark, heldAs }) => {
      if (mark === null || held === undefined) return [];
      const { key } = entityOf(model, target);
      const own = column('there', key.columns[0] ?? '');
      const there = JSON.stringify(key.type) === JSON.stringify(heldAs) ? own : values.toText(key.type, own);
      return mark.marks.flatMap((written, index) => {
        const meant = foreignTarget(model, mark.marks.length === 1 ? target : (mark.means[index] ?? target));
        if (meant.kind === 'tables') return [];
        const marked = equal(column(null, mark.column), string(written));
        return children.map((child) =>
          keyOf(dialect, child, meant.table, [marked], equal(there, column(child.name, held.value))),
        );
      });
    });
  });
}

/** The tables in which an entity's rows stand. */
function tablesOf(model: Model, name: string): readonly TableName[] {
  const target = foreignTarget(model, name);
  return target.kind === 'table' ? [target.table] : target.tables;
}
