import { entityOf, type Kept, type Model, type Relation, requiredLoops } from '../model/index.js';
import { addKeyRelation } from './forms/key.js';
import { fillPivot } from './forms/pivot.js';
import { addPolymorphic } from './forms/polymorphic.js';
import { fillPolymorphicPivot } from './forms/polymorphic-pivot.js';
import { holdersOf, ownTables } from './holders.js';
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
  for (const relation of relations) {
    switch (relation.kind) {
      case 'key':
        for (const holder of holdersOf(model, ofEntity, relation.child)) addKeyRelation(model, relation, holder);
        break;
      case 'polymorphic':
        for (const holder of holdersOf(model, ofEntity, relation.child)) addPolymorphic(model, relation, holder);
        break;
      case 'pivot':
      case 'polymorphic pivot': {
        if (relation.entity !== null || (relation.given && !standIns)) break;
        const { value } = relation.table;
        const table = new TableBuilder(value, value.name, target, model.physical, names, sources);
        if (!add(table)) break;
        if (relation.kind === 'pivot') fillPivot(model, relation, table);
        else fillPolymorphicPivot(model, relation, table);
        break;
      }
    }
  }
  const keptOfChildren = new Map<string, Kept[]>();
  for (const relation of relations) {
    const child = childOf(relation);
    if (child !== null && relation.kept.length > 0)
      keptOfChildren.set(child, [...(keptOfChildren.get(child) ?? []), ...relation.kept]);
  }
  for (const entity of model.entities.values()) {
    addEntityRules(model, ofEntity, entity);
    const kept = keptOfChildren.get(entity.name) ?? [];
    ofEntity.get(entity.name)?.keep([...entity.kept, ...kept]);
  }
  for (const relation of relations) if (!model.physical.asStated) addKeyIndexes(model, relation, ofEntity);
  const unkept = model.physical.asStated ? [] : addTriggers(model, target, ofEntity, tables);
  const kept = model.kept.filter(({ dialect }) => dialect === target.name).map(({ sql }) => sql);
  const prelude = kept.filter(standsBefore);
  const others = kept.filter((sql) => !standsBefore(sql));
  return { schema: { prelude, tables: Array.from(tables.values(), (table) => table.build()), others }, sources, unkept };
}

function childOf(relation: Relation): string | null {
  return relation.kind === 'key' || relation.kind === 'polymorphic' ? relation.child : null;
}

/** Indexes on key columns come last, so that a unique that begins with the column serves instead. */
function addKeyIndexes(model: Model, relation: Relation, tables: ReadonlyMap<string, TableBuilder>): void {
  if (relation.kind === 'key') {
    for (const { table } of holdersOf(model, tables, relation.child)) table.addIndex(relation.columns.map(({ value }) => value));
  } else if (relation.kind === 'polymorphic') {
    const { storage } = relation;
    for (const { table } of holdersOf(model, tables, relation.child)) {
      if (storage.kind === 'type and id') table.addIndex([storage.type.value, storage.id.value]);
      else for (const { value } of storage.columns) table.addIndex([value]);
    }
  } else if (relation.entity !== null && !relation.given && !relation.repeats) {
    addPairOnce(model, relation, tables);
  }
}

/** A pair stands once in an entity that holds pairs, too. */
function addPairOnce(
  model: Model,
  relation: Extract<Relation, { kind: 'pivot' | 'polymorphic pivot' }>,
  tables: ReadonlyMap<string, TableBuilder>,
): void {
  if (relation.kind !== 'pivot' || relation.entity === null) return;
  const columns = relation.ends.flatMap((end) => end.columns.map(({ value }) => value));
  const same = (others: readonly string[]) => [...others].sort().join('\n') === [...columns].sort().join('\n');
  const { key, uniques } = entityOf(model, relation.entity);
  if (same(key.columns) || uniques.some((unique) => same(unique.columns))) return;
  tables.get(relation.entity)?.addUnique(columns, `relation ${relation.name}: each pair stands once`, null);
}
