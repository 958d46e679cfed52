import { type Entity, entityOf, type KeyRelation, type Model, type SampleGenerator, type SampleRow } from '../model/index.js';
import { joinKey, type Wire } from '../values/index.js';
import { type EntityWish, makeEntityRows, type RowWorld } from './entity-rows.js';
import { type MadeRow, type MadeTable, type Samples, Shortfalls } from './made.js';
import { makePivotRows } from './pivot-rows.js';
import { chanceFor } from './random.js';

/** How many rows an entity gets that no sample speaks of, so that there is something to see. */
export const ROWS_BY_DEFAULT = 12;

interface Stated {
  readonly rows: SampleRow[];
  count: number | null;
  readonly generators: Map<string, SampleGenerator>;
}

/**
 * Rows for a model: those its samples name, and generated ones that hold to every type, check, unique and relation.
 * The same text and clock give the same rows. What cannot be satisfied is counted, by the constraint's name, and
 * the rest is made.
 *
 * @param now what now is, as a timestamp in wire form
 */
export function makeSamples(model: Model, now: string): Samples {
  const stated = statedSamples(model);
  const shortfalls = new Shortfalls();
  const made = new Map<string, MadeRow[]>();
  const keys = new Map<string, Wire[]>();
  const named = new Map<string, Wire>();
  const parentsOf = new Map<string, KeyRelation[]>();
  for (const relation of model.relations.values()) {
    if (relation.kind === 'key') parentsOf.set(relation.child, [...(parentsOf.get(relation.child) ?? []), relation]);
  }
  const order = makingOrder(model, parentsOf);
  const place = new Map(order.map((name, index) => [name, index]));
  const plannedKeys = (entity: string) => plannedRows(model, stated, entity);

  const noGenerators = new Map<string, SampleGenerator>();
  for (const name of order) {
    const entity = entityOf(model, name);
    const wanted = stated.get(name);
    const parents = parentsOf.get(name) ?? [];
    const own: MadeRow[] = [];
    const ownKeys: Wire[] = [];
    made.set(name, own);
    keys.set(name, ownKeys);
    const world: RowWorld = {
      model,
      now,
      shortfalls,
      // Of an entity that is made later, the keys are known where they are numbers.
      keysOf: (parent) => ((place.get(parent) ?? 0) > (place.get(name) ?? 0) ? plannedKeys(parent) : (keys.get(parent) ?? [])),
      namedKey: (parent, row) => named.get(`${parent}(${row})`) ?? plannedNamedKey(model, stated, parent, row),
    };
    const { assigned, least } = assignedParents(model, stated, parents, keys, name);
    const generated = wanted === undefined && assigned.size === 0 ? ROWS_BY_DEFAULT : (wanted?.count ?? least);
    const wish: EntityWish = {
      entity,
      named: wanted?.rows ?? [],
      generated,
      generators: wanted?.generators ?? noGenerators,
      parents,
      assigned,
    };
    makeEntityRows(world, wish, (row, rowName) => {
      own.push(row);
      const key = entity.key.byRow
        ? String(own.length)
        : joinKey(
            entity.key.type,
            entity.key.columns.map((column) => row.get(column) ?? null),
          );
      ownKeys.push(key);
      if (rowName !== null) named.set(`${name}(${rowName})`, key);
    });
  }

  const tables: MadeTable[] = order.map((name) => ({
    table: entityOf(model, name).table.value.name,
    owner: name,
    rows: made.get(name) ?? [],
  }));
  for (const relation of model.relations.values()) {
    if (relation.kind !== 'pivot') continue;
    const rows = makePivotRows(
      model,
      relation,
      now,
      (entity) => keys.get(entity) ?? [],
      (entity: Entity) => stated.get(entity.name)?.generators ?? noGenerators,
      shortfalls,
    );
    tables.push({ table: relation.table.value.name, owner: relation.name, rows });
  }
  return { tables, keys: Object.fromEntries(named), unsatisfied: shortfalls.list() };
}

function statedSamples(model: Model): Map<string, Stated> {
  const stated = new Map<string, Stated>();
  for (const sample of model.samples) {
    const known: Stated = stated.get(sample.entity) ?? { rows: [], count: null, generators: new Map() };
    for (const row of sample.rows) if (!known.rows.some((other) => other.name === row.name)) known.rows.push(row);
    if (sample.count !== null) known.count = (known.count ?? 0) + sample.count;
    for (const generator of sample.generators) known.generators.set(generator.member, generator);
    stated.set(sample.entity, known);
  }
  return stated;
}

/** Parents before children; where keys form a loop, the entity that comes first in the text. */
function makingOrder(model: Model, parentsOf: ReadonlyMap<string, readonly KeyRelation[]>): string[] {
  const order: string[] = [];
  const state = new Map<string, 'open' | 'done'>();
  const visit = (name: string) => {
    if (state.has(name)) return;
    state.set(name, 'open');
    const parents = parentsOf.get(name) ?? [];
    // Required parents are sought first, so that a loop is cut at a role that may stay empty.
    for (const relation of [...parents.filter((r) => r.required), ...parents.filter((r) => !r.required)]) visit(relation.parent);
    state.set(name, 'done');
    order.push(name);
  };
  for (const name of model.entities.keys()) visit(name);
  return order;
}

/** The keys that an entity's rows will have, where they are numbered from 1. */
function plannedRows(model: Model, stated: ReadonlyMap<string, Stated>, name: string): Wire[] {
  const { key } = entityOf(model, name);
  if (key.type.kind !== 'integer' && key.type.kind !== 'bigint') return [];
  const wanted = stated.get(name);
  const count = wanted === undefined ? ROWS_BY_DEFAULT : wanted.rows.length + (wanted.count ?? 0);
  return Array.from({ length: count }, (_, index) => (key.type.kind === 'bigint' ? String(index + 1) : index + 1));
}

function plannedNamedKey(model: Model, stated: ReadonlyMap<string, Stated>, name: string, row: string): Wire | undefined {
  const index = stated.get(name)?.rows.findIndex((candidate) => candidate.name === row) ?? -1;
  return index < 0 ? undefined : plannedRows(model, stated, name)[index];
}

/** Where parents say how many children each has (`loans 0 to 12 each`): the parent of each child, in turn. */
function assignedParents(
  model: Model,
  stated: ReadonlyMap<string, Stated>,
  parents: readonly KeyRelation[],
  keys: ReadonlyMap<string, readonly Wire[]>,
  child: string,
): { assigned: Map<string, Wire[]>; least: number } {
  const assigned = new Map<string, Wire[]>();
  let least = 0;
  for (const relation of parents) {
    const generator =
      relation.parentRole === null ? undefined : stated.get(relation.parent)?.generators.get(relation.parentRole)?.generator;
    if (generator?.kind !== 'each') continue;
    const owners = (keys.get(relation.parent) ?? []).flatMap((key, index) => {
      const many = chanceFor(relation.name, 'each', index).between(generator.least, generator.most);
      return new Array<Wire>(relation.form === 'one-to-one' ? Math.min(1, many) : many).fill(key);
    });
    const wanted = stated.get(child)?.count ?? owners.length;
    assigned.set(relation.name, dealt(owners, wanted, entityOf(model, child).name));
    least = Math.max(least, owners.length);
  }
  return { assigned, least };
}

/** The owners, mixed by chance so that one owner's children do not follow each other, and as many as are wanted. */
function dealt(owners: readonly Wire[], wanted: number, child: string): Wire[] {
  const mixed = [...owners];
  for (let index = mixed.length - 1; index > 0; index--) {
    const other = chanceFor(child, 'deal', index).between(0, index);
    const kept = mixed[index] ?? null;
    mixed[index] = mixed[other] ?? null;
    mixed[other] = kept;
  }
  return mixed.slice(0, wanted);
}
