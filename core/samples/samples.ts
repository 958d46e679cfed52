import { type Entity, entityOf, isPivot, keysOfTargets, lineage, type Model } from '../model/index.js';
import { joinKey, type Wire } from '../values/index.js';
import { assignedParents } from './assigned-parents.js';
import { type EntityWish, KeyMaker, makeEntityRows, type RowWorld, rulesOf, type TableRules } from './entity-rows.js';
import { type Adjustable, holdRules } from './hold-rules.js';
import { type MadeRow, type MadeTable, type Samples, Shortfalls } from './made.js';
import { type HeldRelations, heldRelations, makingOrder } from './making-order.js';
import { makePivotRows } from './pivot-rows.js';
import { pivotColumns, placeRows } from './placed.js';
import { concreteOf, plannedNamedKey, plannedRows, type StatedSamples, statedSamples } from './stated-samples.js';

/** How many rows an entity gets that no sample speaks of, so that there is something to see. */
export const ROWS_BY_DEFAULT = 12;
/** In a tree with more fields than this, the rows that nobody asked for are fewer. */
const MANY_FIELDS = 20_000;
const ROWS_OF_MANY = 3;

function rowsByDefault(model: Model): number {
  let fields = 0;
  for (const entity of model.entities.values()) fields += entity.fields.length;
  return fields > MANY_FIELDS ? ROWS_OF_MANY : ROWS_BY_DEFAULT;
}

/**
 * Rows for a model: those its samples name, and generated ones that hold to every type, check, unique and relation.
 * The same text and clock give the same rows. What cannot be satisfied is counted, by the constraint's name, and
 * the rest is made.
 *
 * @param now what now is, as a timestamp in wire form
 */
export function makeSamples(model: Model, now: string): Samples {
  const making = samplesInSteps(model, now);
  for (;;) {
    const step = making.next();
    if (step.done === true) return step.value;
  }
}

/**
 * The same in steps, so that whoever drives it can tell how far it is, do something else, or leave it. Each gives the rows made
 * so far.
 */
export function* samplesInSteps(model: Model, now: string): Generator<number, Samples> {
  const making = new Making(model, now);
  yield* making.entities();
  yield* making.pairs();
  return making.done();
}

/** The rows of a model while they are made: entities first, parents before children, and then the pairs of their keys. */
class Making {
  private count = 0;
  private readonly stated: Map<string, StatedSamples>;
  private readonly held: HeldRelations;
  private readonly order: readonly string[];
  private readonly place: ReadonlyMap<string, number>;
  private readonly byDefault: number;
  private readonly rules: ReadonlyMap<string, TableRules>;
  private readonly shortfalls = new Shortfalls();
  private readonly rows = new Map<string, MadeRow[]>();
  private readonly keys = new Map<string, Wire[]>();
  /** The keys of named rows, by `Entity(name)`. */
  private readonly named = new Map<string, Wire>();
  /** The kind of each row by its key, for the root of each base. */
  private readonly kinds = new Map<string, Map<Wire, string>>();
  private readonly keyMakers = new Map<string, KeyMaker>();
  private readonly adjustable: Adjustable[] = [];
  private readonly rowsOfPairs = new Map<string, readonly MadeRow[]>();
  private readonly tables: MadeTable[] = [];
  private readonly afterAll: (() => void)[] = [];

  constructor(
    private readonly model: Model,
    private readonly now: string,
  ) {
    this.stated = statedSamples(model);
    this.held = heldRelations(model);
    this.order = makingOrder(model, this.held);
    this.place = new Map(this.order.map((name, index) => [name, index]));
    this.byDefault = rowsByDefault(model);
    this.rules = new Map(Array.from(model.entities.values(), (entity) => [entity.name, rulesOf(model, entity, now)]));
  }

  /** Makes the rows of all entities; gives the count of rows so far. */
  *entities(): Generator<number, void> {
    for (const name of this.order) yield* this.entity(name);
    for (const what of this.afterAll) what();
    yield this.count;
    holdRules(this.model, this.rows, this.adjustable, this.now);
    yield this.count;
    this.tables.push(...placeRows(this.model, this.rows));
  }

  private *entity(name: string): Generator<number, void> {
    const own: MadeRow[] = [];
    const ownKeys: Wire[] = [];
    this.rows.set(name, own);
    this.keys.set(name, ownKeys);
    let namedRows = 0;
    const making = makeEntityRows(this.worldOf(name), this.wishOf(name), (row, rowName) => {
      this.count += 1;
      own.push(row);
      const key = this.keyOf(name, row, own.length);
      ownKeys.push(key);
      this.rememberKind(name, key);
      if (rowName === null) return;
      namedRows = own.length;
      for (const { name: above } of lineage(this.model, name))
        if (!this.named.has(`${above}(${rowName})`)) this.named.set(`${above}(${rowName})`, key);
    });
    let step = making.next();
    for (; step.done !== true; step = making.next()) yield this.count;
    this.adjustable.push({ ...step.value, from: namedRows });
  }

  /** @param number the place of the row among its entity's, from 1 */
  private keyOf(name: string, row: MadeRow, number: number): Wire {
    const { key } = entityOf(this.model, name);
    if (key.byRow) return String(number);
    return joinKey(
      key.type,
      key.columns.map((column) => row.get(column) ?? null),
    );
  }

  private rememberKind(name: string, key: Wire): void {
    const { kinds } = entityOf(this.model, name);
    if (kinds === null) return;
    const known = this.kinds.get(kinds.root) ?? new Map<Wire, string>();
    this.kinds.set(kinds.root, known.set(key, name));
  }

  private kindOf(entity: string, key: Wire): string {
    return this.kinds.get(entityOf(this.model, entity).kinds?.root ?? entity)?.get(key) ?? entity;
  }

  /** What the rows of an entity see of those that are made, or will be. */
  private worldOf(name: string): RowWorld {
    const { model, stated, byDefault } = this;
    // Of an entity that is made later, the keys are known where they are numbers.
    const later = (other: string) => (this.place.get(other) ?? 0) > (this.place.get(name) ?? 0);
    return {
      model,
      now: this.now,
      shortfalls: this.shortfalls,
      keysOf: keysFor(model, name, this.keys, (kind) => (later(kind) ? plannedRows(model, stated, kind, byDefault) : null)),
      namedKey: (parent, row) => this.named.get(`${parent}(${row})`) ?? plannedNamedKey(model, stated, parent, row, byDefault),
      kindOf: (parent, key) => this.kindOf(parent, key),
      afterAll: (what) => this.afterAll.push(what),
    };
  }

  private wishOf(name: string): EntityWish {
    const { model, stated } = this;
    const entity = entityOf(model, name);
    const wanted = stated.get(name);
    const above = lineage(model, name).map((one) => one.name);
    const relations = this.held(new Set(above));
    const parents = relations.filter((relation) => relation.kind === 'key');
    const polymorphic = relations.filter((relation) => relation.kind === 'polymorphic');
    const { assigned, least } = assignedParents(model, stated, [...parents, ...polymorphic], this.keys, name);
    // A base has rows of its own for show only where none of its kinds is spoken of.
    const unasked = concreteOf(model, name).every((kind) => stated.get(kind)?.said !== true);
    return {
      entity,
      named: wanted?.rows ?? [],
      generated: unasked && assigned.size === 0 ? this.byDefault : (wanted?.count ?? least),
      generators: wanted?.generators ?? new Map(),
      parents,
      polymorphic: polymorphic.map((relation) => ({ relation, targetKeys: keysOfTargets(relation) })),
      assigned,
      keys: this.keyMakerOf(entity),
      rules: above.flatMap((one) => this.rules.get(one) ?? []),
    };
  }

  /** All kinds of a base share one. */
  private keyMakerOf(entity: Entity): KeyMaker {
    const root = entity.kinds?.root ?? entity.name;
    const known = this.keyMakers.get(root);
    if (known !== undefined) return known;
    const rows = concreteOf(this.model, root).flatMap((name) => this.stated.get(name)?.rows ?? []);
    const maker = new KeyMaker(entity, rows, this.now);
    this.keyMakers.set(root, maker);
    return maker;
  }

  /** Makes the rows of the tables of pairs; gives the count of all rows so far. */
  *pairs(): Generator<number, void> {
    const { model, now, keys, shortfalls } = this;
    for (const relation of model.relations.values()) {
      if (!isPivot(relation) || relation.entity !== null) continue;
      const rows = makePivotRows({
        model,
        relation,
        now,
        keysOf: (entity) => concreteOf(model, entity).flatMap((kind) => keys.get(kind) ?? []),
        kindOf: (entity, key) => this.kindOf(entity, key),
        generatorsOf: (entity) => this.stated.get(entity)?.generators ?? new Map(),
        shortfalls,
      });
      this.count += rows.length;
      yield this.count;
      this.rowsOfPairs.set(relation.name, rows);
      const { schema, name } = relation.table.value;
      this.tables.push({ schema, table: name, owner: relation.name, columns: pivotColumns(model, relation), rows });
    }
  }

  done(): Samples {
    return {
      tables: this.tables,
      rows: this.rows,
      pairs: this.rowsOfPairs,
      keys: Object.fromEntries(this.named),
      unsatisfied: this.shortfalls.list(),
    };
  }
}

/**
 * The keys of the rows that one of an entity may point at. They are gathered once for each other entity, not for each row;
 * those of the entity itself grow while its rows are made.
 */
function keysFor(
  model: Model,
  own: string,
  made: ReadonlyMap<string, readonly Wire[]>,
  planned: (kind: string) => readonly Wire[] | null,
): (parent: string) => readonly Wire[] {
  const gathered = new Map<string, readonly Wire[]>();
  return (parent) => {
    const known = gathered.get(parent);
    if (known !== undefined) return known;
    const kinds = concreteOf(model, parent);
    const lists = kinds.map((kind) => planned(kind) ?? made.get(kind) ?? []);
    const [only] = lists;
    const all = lists.length === 1 && only !== undefined ? only : lists.flat();
    if (!kinds.includes(own)) gathered.set(parent, all);
    return all;
  };
}
