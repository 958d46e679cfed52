import {
  type Condition,
  type Entity,
  entityOf,
  type Field,
  fieldOf,
  lineage,
  type Model,
  someExpression,
} from '../../model/index.js';
import type { ValueType } from '../../values/index.js';
import { type EntityTables, holdersOf } from '../holders.js';
import type { TableBuilder } from '../tables.js';

/** A mark is a text of at least so many characters, so that a longer one does not change the column at once. */
const LEAST_MARK = 63;

/** The type of a column that holds one of these marks. */
export function markType(values: readonly string[]): ValueType {
  return { kind: 'text', length: Math.max(LEAST_MARK, ...values.map((value) => value.length)) };
}

/** What a way to store kinds puts into the tables of a base and its kinds. */
interface KindsForm {
  /** @param table the table that the entity has for itself; never asked where it has none */
  fill(model: Model, entity: Entity, table: TableBuilder): void;
}

/** One form for each way to store kinds; an entity without kinds is stored as its own only one. */
const forms: Readonly<Record<'plain' | NonNullable<Entity['kinds']>['storage']['kind'], KindsForm>> = {
  plain: { fill: (_, entity, table) => fillOwn(entity, table, entity.fields) },
  'separate tables': { fill: (_, entity, table) => fillOwn(entity, table, entity.fields) },
  'single table': { fill: fillShared },
  json: { fill: fillShared },
  'joined tables': { fill: fillJoined },
};

/** Puts an entity's key, fields and mark into the table that it has for itself. */
export function fillEntity(model: Model, entity: Entity, table: TableBuilder): void {
  forms[entity.kinds?.storage.kind ?? 'plain'].fill(model, entity, table);
}

function fillOwn(entity: Entity, table: TableBuilder, fields: readonly Field[]): void {
  if (!entity.key.byRow) table.primaryKey = { columns: entity.key.columns, name: entity.key.named, autoincrement: false };
  table.note = entity.note;
  for (const field of fields) table.addField(field);
}

/** The base's table has all: a kind's own fields stand in it too, empty for the others, or in one column of JSON. */
function fillShared(model: Model, entity: Entity, table: TableBuilder): void {
  const { kinds } = entity;
  fillOwn(entity, table, entity.fields);
  if (kinds === null || kinds.storage.kind === 'separate tables') return;
  const { storage } = kinds;
  addMark(table, entity, storage.mark, kinds);
  if (storage.kind === 'json') {
    table.addField({
      ...PLAIN_JSON,
      name: storage.column,
      column: { value: storage.column, origin: entity.table.origin },
      owner: entity.name,
      span: entity.head,
    });
    return;
  }
  for (const kind of below(model, entity)) {
    const marks = kind.kinds?.concrete.map(({ mark }) => mark) ?? [];
    for (const field of kind.fields.filter(({ owner }) => owner === kind.name)) {
      // A default would be put into rows of other kinds.
      table.addField({ ...field, required: false, default: null });
      if (field.required)
        table.addRequiredOf(field.column.value, { column: storage.mark, values: marks }, `${kind.name}.${field.name}`);
    }
  }
}

const PLAIN_JSON: Omit<Field, 'name' | 'column' | 'owner' | 'span'> = {
  type: { kind: 'json' },
  required: false,
  key: false,
  unique: null,
  default: null,
  allowed: null,
  onUpdateNow: false,
  physical: { declaration: null, collation: null, generated: null, notNull: false, neverReused: false },
  hidden: false,
  internal: false,
  fixed: false,
  title: null,
  note: null,
  mixin: null,
};

/** A table for each: a kind's has its own fields, under the key of the base's row, and goes with it. */
function fillJoined(model: Model, entity: Entity, table: TableBuilder): void {
  const { kinds, key } = entity;
  if (kinds?.storage.kind !== 'joined tables') return;
  if (kinds.base === null) {
    fillOwn(entity, table, entity.fields);
    addMark(table, entity, kinds.storage.mark, kinds);
    return;
  }
  table.primaryKey = { columns: key.columns, name: null, autoincrement: false };
  table.note = entity.note;
  for (const field of key.fields) table.addKeyColumn(field.column.value, field, true);
  for (const field of entity.fields.filter(({ owner }) => owner === entity.name)) table.addField(field);
  const base = entityOf(model, kinds.base);
  const what = `${entity.name}: each row is one of ${base.name}`;
  table.addForeignKey(key.columns, base.table.value, base.key.columns, 'cascade', 'cascade', what, {
    named: null,
    deferred: false,
  });
}

function addMark(table: TableBuilder, entity: Entity, column: string, kinds: NonNullable<Entity['kinds']>): void {
  const values = kinds.concrete.map(({ mark }) => mark);
  table.addMark(column, markType(values), values, true, `${entity.name}: what kind a row is`);
}

/** All kinds below an entity, each before its own. */
export function below(model: Model, entity: Entity): Entity[] {
  return (entity.kinds?.kinds ?? []).flatMap((name) => {
    const kind = entityOf(model, name);
    return [kind, ...below(model, kind)];
  });
}

/** The uniques, indexes and checks of an entity and, where its kinds stand apart, of its bases: as far as they can be held. */
export function addEntityRules(model: Model, tables: EntityTables, entity: Entity): void {
  const separate = entity.kinds?.storage.kind === 'separate tables';
  if (separate && !tables.has(entity.name)) return;
  const from = separate ? lineage(model, entity.name) : [entity];
  const holders = separate
    ? holdersOf(model, tables, entity.name).filter(({ table }) => table === tables.get(entity.name))
    : holdersOf(model, tables, entity.name);
  for (const { table, among } of holders) {
    for (const one of from) {
      const held = (group: { readonly columns: readonly string[] }) => table.hasColumns(group.columns);
      table.addGroups(one.uniques.filter(held), one.indexes.filter(held));
      table.addConditions(
        one.checks.filter((check) => holdsCheck(entity, check, table)),
        entity.fields,
        among,
      );
    }
  }
}

/** Can a table hold a check: does it have every column that the check speaks of? */
export function holdsCheck(entity: Entity, { expression }: Condition, table: Pick<TableBuilder, 'hasColumns'>): boolean {
  const columns: string[] = [];
  someExpression(expression, (part) => {
    if (part.kind === 'field') columns.push(fieldOf(entity.fields, part.field).column.value);
    return false;
  });
  return table.hasColumns(columns);
}
