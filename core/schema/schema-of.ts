import { entityOf, holdingsOf, type KeptSql, type Model, requiredLoops } from '../model/index.js';
import { type FormSite, formOf } from './forms/index.js';
import { ownTables } from './holders.js';
import { standsBefore } from './kept.js';
import { addEntityRules, fillEntity } from './kinds/index.js';
import type { ConstraintSource, Schema, UnkeptRule } from './schema.js';
import { type SchemaTarget, TableBuilder } from './tables.js';
import { addTriggers } from './triggers/index.js';

export interface SchemaOf {
  readonly schema: Schema;
  /** For each constraint that was made, what it holds and what a person is told when it does not. */
  readonly sources: readonly ConstraintSource[];
  /** Rules that the engine cannot carry out. */
  readonly unkept: readonly UnkeptRule[];
}

/** How a text says that the tables of its own dialect are written holds for no other. */
function shapedFor(model: Model, { name }: SchemaTarget): Model {
  if (model.dialect === name) return model;
  const { dialect } = model;
  return { ...model, physical: { dialect, types: new Map(), asStated: false, unnamedReferences: false } };
}

/** Where keys need each other, the last of each loop is looked at when the transaction ends, if the engine can. */
function deferred(model: Model, { defers }: SchemaTarget): Model {
  if (!defers || model.physical.asStated) return model;
  const relations = new Map(model.relations);
  for (const loop of requiredLoops(model)) {
    const last = loop.at(-1);
    if (last === undefined) continue;
    const { onDelete } = last;
    // A rule that restricts is looked at at once, whatever is deferred (SQL:2016, 11.8).
    const rule = onDelete.value === 'restrict' ? { ...onDelete, value: 'no action' as const } : onDelete;
    relations.set(last.name, { ...last, deferred: true, onDelete: rule });
  }
  return { ...model, relations };
}

export interface SchemaOptions {
  /** Tables that are somebody else's are made too, in their place: in a database where nobody else has made them. */
  readonly standIns: boolean;
}

/**
 * The tables that a model asks of an engine: one for each entity that has one and each pivot, with every rule that a
 * constraint or a trigger can hold. Nothing is put on a table that is somebody else's.
 */
export function schemaOf(stated: Model, target: SchemaTarget, { standIns }: SchemaOptions = { standIns: false }): SchemaOf {
  const model = deferred(shapedFor(stated, target), target);
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
  for (const name of ownTables(model, standIns)) {
    const table = new TableBuilder(entityOf(model, name).table.value, name, target, model.physical, names, sources);
    if (add(table)) ofEntity.set(name, table);
  }
  for (const [name, table] of ofEntity) fillEntity(model, entityOf(model, name), table);
  const relations = Array.from(model.relations.values());
  const site: FormSite = {
    model,
    tables: ofEntity,
    pairs: (relation) => {
      if (relation.entity !== null || (relation.given && !standIns)) return null;
      const { value } = relation.table;
      const table = new TableBuilder(value, value.name, target, model.physical, names, sources);
      return add(table) ? table : null;
    },
  };
  for (const relation of relations) formOf(relation).add(relation, site);
  const keptOfChildren = new Map<string, KeptSql[]>();
  for (const relation of relations) {
    if (relation.kept.length === 0) continue;
    const { holder: child, pairs } = holdingsOf(relation);
    if (child !== null && pairs === null) keptOfChildren.set(child, [...(keptOfChildren.get(child) ?? []), ...relation.kept]);
  }
  for (const entity of model.entities.values()) {
    addEntityRules(model, ofEntity, entity);
    const kept = keptOfChildren.get(entity.name) ?? [];
    ofEntity.get(entity.name)?.keep([...entity.kept, ...kept]);
  }
  if (!model.physical.asStated) for (const relation of relations) formOf(relation).addIndexes(relation, site);
  const unkept = model.physical.asStated ? [] : addTriggers(model, target, ofEntity, tables);
  const kept = model.kept.filter(({ dialect }) => dialect === target.name).map(({ sql }) => sql);
  const prelude = kept.filter(standsBefore);
  const others = kept.filter((sql) => !standsBefore(sql));
  return { schema: { prelude, tables: Array.from(tables.values(), (table) => table.build()), others }, sources, unkept };
}
