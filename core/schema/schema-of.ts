import type { Model } from '../model/index.js';
import { addKeyRelation } from './forms/key.js';
import { fillPivot } from './forms/pivot.js';
import { standsBefore } from './kept.js';
import type { ConstraintSource, Schema } from './schema.js';
import { type SchemaTarget, TableBuilder } from './tables.js';

export interface SchemaOf {
  readonly schema: Schema;
  /** For each constraint that was made, what it holds and what a person is told when it does not. */
  readonly sources: readonly ConstraintSource[];
}

/** How a text says that the tables of its own dialect are written holds for no other. */
function shapedFor(model: Model, { name }: SchemaTarget): Model {
  if (model.dialect === name) return model;
  const { dialect } = model;
  return { ...model, physical: { dialect, types: new Map(), asStated: false, unnamedReferences: false } };
}

/**
 * The tables that a model asks of an engine: one for each entity and each pivot, with every rule that a constraint
 * can hold.
 */
export function schemaOf(stated: Model, target: SchemaTarget): SchemaOf {
  const model = shapedFor(stated, target);
  const names = new Set<string>();
  const sources: ConstraintSource[] = [];
  const tables = new Map<string, TableBuilder>();
  const add = (builder: TableBuilder): boolean => {
    const { schema, name } = builder.name;
    const key = `${schema ?? ''}.${name}`.toLowerCase();
    if (tables.has(key)) return false;
    tables.set(key, builder);
    names.add(name.toLowerCase());
    return true;
  };
  const ofEntity = new Map<string, TableBuilder>();
  for (const entity of model.entities.values()) {
    const table = new TableBuilder(entity.table.value, entity.name, target, model.physical, names, sources);
    if (add(table)) ofEntity.set(entity.name, table);
  }
  for (const entity of model.entities.values()) {
    const table = ofEntity.get(entity.name);
    if (table === undefined) continue;
    if (!entity.key.byRow) table.primaryKey = { columns: entity.key.columns, name: entity.key.named, autoincrement: false };
    table.note = entity.note;
    for (const field of entity.fields) table.addField(field);
  }
  for (const relation of model.relations.values()) {
    if (relation.kind === 'key') {
      const table = ofEntity.get(relation.child);
      if (table !== undefined && ofEntity.has(relation.parent)) addKeyRelation(model, relation, table);
    } else {
      const { value } = relation.table;
      const table = new TableBuilder(value, value.name, target, model.physical, names, sources);
      if (relation.ends.every((end) => ofEntity.has(end.entity)) && add(table)) fillPivot(model, relation, table);
    }
  }
  for (const entity of model.entities.values()) {
    const table = ofEntity.get(entity.name);
    if (table === undefined) continue;
    table.addGroups(entity.uniques, entity.indexes);
    table.addConditions(entity.checks, entity.fields);
    const kept = Array.from(model.relations.values()).flatMap((relation) =>
      relation.kind === 'key' && relation.child === entity.name ? relation.kept : [],
    );
    table.keep([...entity.kept, ...kept]);
  }
  // Indexes on key columns come last, so that a unique that begins with the column serves instead.
  for (const relation of model.relations.values()) {
    if (relation.kind === 'key' && !model.physical.asStated)
      ofEntity.get(relation.child)?.addIndex(relation.columns.map((column) => column.value));
  }
  const kept = model.kept.filter(({ dialect }) => dialect === target.name).map(({ sql }) => sql);
  const prelude = kept.filter(standsBefore);
  const others = kept.filter((sql) => !standsBefore(sql));
  return { schema: { prelude, tables: Array.from(tables.values(), (table) => table.build()), others }, sources };
}
