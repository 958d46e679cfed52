import {
  type ColumnGroup,
  type Condition,
  type Entity,
  type Expression,
  entityOf,
  type Field,
  fieldOf,
  holdingsOf,
  isPivot,
  type KeyRelation,
  lineage,
  type Model,
  type PolymorphicRelation,
  type Relation,
  type SampleGenerator,
  type SampleRow,
  type SampleValue,
  type StoredKey,
} from '../model/index.js';
import { withArticle } from '../notation/index.js';
import { parseWire, splitKey, type Wire } from '../values/index.js';
import { type Computed, evaluate } from './evaluate.js';
import { fieldsIn, type Hints, hintsOf } from './hints.js';
import type { Adjustable, Choice } from './hold-rules.js';
import type { MadeRow, Shortfalls } from './made.js';
import { heldBy } from './placed.js';
import { type Chance, chanceFor } from './random.js';
import { UniqueKeeper } from './unique.js';
import { makeValue } from './values.js';

const MOST_TRIES = 120;
/** How many optional to-one roles stay empty where no sample line says. */
const EMPTY_ROLE_SHARE = 25;

/** The samples of one entity: its named rows, and how many are generated beside them. */
export interface EntityWish {
  readonly entity: Entity;
  readonly named: readonly SampleRow[];
  readonly generated: number;
  readonly generators: ReadonlyMap<string, SampleGenerator>;
  /** The relations whose key columns its rows hold. */
  readonly parents: readonly KeyRelation[];
  readonly polymorphic: readonly PolymorphicParent[];
  /** For a relation whose parents say how many children each has: the parent of each generated row. */
  readonly assigned: ReadonlyMap<string, readonly Parent[]>;
  readonly keys: KeyMaker;
  /** What the rows must hold to: the rules of the entity, and of the bases that it is a kind of. */
  readonly rules: readonly TableRules[];
}

/** A relation to a row of one of several entities, with the keys by which it is held. */
export interface PolymorphicParent {
  readonly relation: PolymorphicRelation;
  readonly targetKeys: readonly StoredKey[];
}

/** A row that another points at. */
export interface Parent {
  readonly entity: string;
  readonly key: Wire;
}

export interface RowWorld {
  readonly model: Model;
  readonly now: string;
  /** Keys of the rows that another row may point at, by entity; those of the entity itself as far as it is made. */
  keysOf(entity: string): readonly Wire[];
  namedKey(entity: string, row: string): Wire | undefined;
  /** What kind the row of an entity is that has this key. */
  kindOf(entity: string, key: Wire): string;
  /** Does something when the rows of all entities are made: a named row may point at one that is made later. */
  afterAll(what: () => void): void;
  readonly shortfalls: Shortfalls;
}

/** Everything that a row of one table must hold to. */
export class TableRules {
  readonly uniques: UniqueKeeper;
  readonly groups: readonly { columns: readonly string[]; name: string }[];
  readonly hints: ReadonlyMap<string, Hints>;

  constructor(
    readonly owner: string,
    readonly fields: readonly Field[],
    groups: readonly ColumnGroup[],
    readonly checks: readonly Condition[],
    extra: readonly { columns: readonly string[]; name: string }[],
    readonly now: string,
  ) {
    this.groups = [
      ...fields
        .filter((field) => field.owner === owner || field.owner === `relation ${owner}`)
        .filter((field) => field.unique !== null || field.key)
        .map((field) => ({ columns: [field.column.value], name: `${field.name} ${field.key ? 'key' : 'unique'}` })),
      ...groups.map((group) => ({ columns: group.columns, name: `unique (${group.members.join(', ')})` })),
      ...extra,
    ];
    this.uniques = new UniqueKeeper(this.groups);
    this.hints = hintsOf(checks, now);
  }

  /** The first rule that a row breaks, by name, with the columns to make anew. */
  broken(values: ReadonlyMap<string, Wire>): { name: string; columns: readonly string[]; check: Condition | null } | null {
    for (const check of this.checks) {
      if (evaluate(check.expression, (field) => computedOf(fieldOf(this.fields, field), values), this.now) === false) {
        return {
          name: `check ${check.name}`,
          columns: fieldsIn(check.expression).map((field) => fieldOf(this.fields, field).column.value),
          check,
        };
      }
    }
    const unique = this.uniques.broken(values);
    if (unique === null) return null;
    return {
      name: this.groups.find((group) => group.columns === unique.columns)?.name ?? 'unique',
      columns: unique.columns,
      check: null,
    };
  }
}

function computedOf(field: Field, values: ReadonlyMap<string, Wire>): Computed {
  const value = values.get(field.column.value) ?? null;
  if (value === null || typeof value === 'object') return null;
  return field.type.kind === 'decimal' || field.type.kind === 'bigint' ? Number(value) : value;
}

/** What the rows of an entity must hold to by its own lines and relations, those of its kinds among them. */
export function rulesOf(model: Model, entity: Entity, now: string): TableRules {
  const held = Array.from(model.relations.values()).flatMap((relation) => heldOnce(relation, entity));
  const isBase = entity.kinds === null || entity.kinds.base === null;
  const key = isBase && entity.key.type.kind === 'composite' ? [{ columns: entity.key.columns, name: 'the key' }] : [];
  return new TableRules(entity.name, entity.fields, entity.uniques, entity.checks, [...key, ...held], now);
}

/** The columns of an entity's own rows that a relation lets no two rows hold the same of. */
function heldOnce(relation: Relation, { name }: Entity): { readonly columns: readonly string[]; readonly name: string }[] {
  const { holder, pairs, keys } = holdingsOf(relation);
  if (holder !== name) return [];
  const columnsOf = ({ columns, mark }: StoredKey) => [
    ...(mark === null ? [] : [mark.column]),
    ...columns.map(({ value }) => value),
  ];
  if (pairs !== null) {
    const repeats = isPivot(relation) && relation.repeats;
    return repeats ? [] : [{ columns: keys.flatMap(columnsOf), name: `${relation.name}: the pair stands once` }];
  }
  const groups = keys.filter(({ once }) => once).map(columnsOf);
  // A mark and its key are the same columns for each of several entities.
  const different = new Map(groups.map((columns) => [columns.join('\n'), columns]));
  return Array.from(different.values(), (columns) => ({ columns, name: `one-to-one ${relation.name}` }));
}

/** All rules that a row must hold to: those of its entity, and of the bases of it. */
class RowRules {
  constructor(private readonly parts: readonly TableRules[]) {}

  broken(values: ReadonlyMap<string, Wire>): ReturnType<TableRules['broken']> {
    for (const part of this.parts) {
      const broken = part.broken(values);
      if (broken !== null) return broken;
    }
    return null;
  }

  hintsFor(field: string): Hints | undefined {
    return this.parts.map((part) => part.hints.get(field)).find((hints) => hints !== undefined);
  }

  add(values: ReadonlyMap<string, Wire>): void {
    for (const part of this.parts) part.uniques.add(values);
  }

  exchange(row: ReadonlyMap<string, Wire>, instead: ReadonlyMap<string, Wire>): boolean {
    for (const part of this.parts) part.uniques.remove(row);
    const fits = this.broken(instead) === null;
    this.add(fits ? instead : row);
    return fits;
  }
}

/** After so many rows whoever drives the making may do something else. */
const ROWS_AT_A_TIME = 500;

/**
 * Makes the rows of one entity: the named ones as they are written, the others by chance.
 *
 * @returns what of the latter can be chosen anew
 */
export function* makeEntityRows(
  world: RowWorld,
  wish: EntityWish,
  remember: (row: MadeRow, name: string | null) => void,
): Generator<void, Omit<Adjustable, 'from'>> {
  const { entity, keys } = wish;
  const table = new RowRules(wish.rules);
  wish.named.forEach((named) => {
    const values = namedRow(world, wish, named, keys);
    const broken = table.broken(values);
    if (broken !== null) {
      world.shortfalls.add(entity.name, `${broken.name}, in the sample row ${named.name}`);
      return;
    }
    table.add(values);
    remember(values, named.name);
  });
  for (let row = 1; row <= wish.generated; row++) {
    const values = generatedRow(world, wish, table, row, keys);
    if (values === null) continue;
    table.add(values);
    remember(values, null);
    if (row % ROWS_AT_A_TIME === 0) yield;
  }
  return {
    entity: entity.name,
    choices: choicesOf(world, wish, table),
    exchange: (row, instead) => table.exchange(row, instead),
  };
}

/** What of a row can be chosen anew by itself: a field, or the row that it points at where no other key shares a column. */
function choicesOf(world: RowWorld, wish: EntityWish, table: RowRules): Choice[] {
  const { entity, parents, polymorphic, assigned, generators } = wish;
  const held = parents.flatMap((relation) => relation.columns.map(({ value }) => value));
  const isShared = (column: string) => held.filter((other) => other === column).length > 1;
  return [
    ...settable(entity.fields)
      .filter((field) => !field.key && !held.includes(field.column.value))
      .map((field): Choice => {
        const hints = table.hintsFor(field.name);
        const generator = generators.get(field.name);
        return {
          member: field.name,
          choose: (_row, attempt) => {
            const chance = chanceFor(entity.name, field.name, 'again', attempt);
            return [[field.column.value, makeValue(field, { chance, now: world.now, hints, generator, row: attempt })]];
          },
        };
      }),
    ...parents
      .filter((relation) => !assigned.has(relation.name) && !relation.columns.some(({ value }) => isShared(value)))
      .map((relation): Choice => {
        const columns = relation.columns.map(({ value }) => value);
        return {
          member: relation.childRole ?? '',
          choose: (_row, attempt) => {
            const key = makeKey(world, wish, relation, attempt, attempt, []);
            const parts = splitKey(entityOf(world.model, relation.parent).key.type, key);
            // One that has to be there is never taken away.
            return relation.required && key === null ? [] : columns.map((column, index) => [column, parts[index] ?? null]);
          },
        };
      }),
    ...polymorphic
      .filter(({ relation }) => !assigned.has(relation.name))
      .map(({ relation, targetKeys }): Choice => {
        return {
          member: relation.childRole ?? '',
          choose: (_row, attempt) => {
            const parent = makeParent(world, wish, relation, attempt, attempt);
            return relation.required && parent === null ? [] : Array.from(polymorphicCells(world.model, targetKeys, parent));
          },
        };
      }),
  ];
}

/** Numbers integer keys from 1, passing over those that named rows state; all kinds of one base share the numbers. */
export class KeyMaker {
  private readonly stated = new Set<string>();
  private next = 1;

  constructor(
    { key }: Entity,
    named: readonly SampleRow[],
    private readonly now: string,
  ) {
    for (const row of named) {
      const value = row.values.get(key.name);
      if (value?.kind === 'value') this.stated.add(String(value.value));
      if (value?.kind === 'expression') this.stated.add(String(evaluate(value.expression, () => null, now)));
    }
  }

  make({ entity, generators }: EntityWish, row: number | string): Wire {
    const { key } = entity;
    if (key.type.kind === 'integer' || key.type.kind === 'bigint') {
      while (this.stated.has(String(this.next))) this.next += 1;
      const value = this.next;
      this.next += 1;
      return key.type.kind === 'bigint' ? String(value) : value;
    }
    const number = typeof row === 'number' ? row : 0;
    const [field] = key.fields;
    if (field === undefined) return null;
    return makeValue(field, {
      chance: chanceFor(entity.name, key.name, row),
      now: this.now,
      hints: undefined,
      generator: generators.get(key.name),
      row: number,
    });
  }
}

function namedRow(world: RowWorld, wish: EntityWish, named: SampleRow, keys: KeyMaker): Map<string, Wire> {
  const { entity } = wish;
  const values = new Map<string, Wire>();
  for (const field of settable(entity.fields)) {
    const stated = named.values.get(field.name);
    const column = field.column.value;
    if (stated !== undefined) values.set(column, statedValue(world, field, stated));
    else if (field.key) values.set(column, keys.make(wish, named.name));
    else values.set(column, defaultOrMade(world, wish, field, named.name));
  }
  for (const relation of wish.parents) {
    const stated = relation.childRole === null ? undefined : named.values.get(relation.childRole);
    const columns = relation.columns.map((column) => column.value);
    const known = columns.map((column) => values.get(column) ?? null);
    if (stated !== undefined) {
      setKey(world, relation, statedKey(world, relation, stated), values);
      if (isMadeLater(world, relation.parent, stated))
        world.afterAll(() => setKey(world, relation, statedKey(world, relation, stated), values));
    }
    if (stated === undefined && known.includes(null)) {
      const candidates = fitting(world, relation, known);
      const chosen = chanceFor(entity.name, relation.name, named.name).pick(candidates) ?? null;
      setKey(world, relation, relation.required ? chosen : null, values, (column) => (values.get(column) ?? null) === null);
    }
  }
  for (const held of wish.polymorphic) {
    const { relation } = held;
    const stated = relation.childRole === null ? undefined : named.values.get(relation.childRole);
    const parent =
      stated !== undefined
        ? statedParent(world, stated)
        : relation.required
          ? anyTarget(world, relation, chanceFor(entity.name, relation.name, named.name), undefined)
          : null;
    setParent(world, held, parent, values);
    if (stated?.kind === 'row' && isMadeLater(world, stated.entity, stated))
      world.afterAll(() => setParent(world, held, statedParent(world, stated), values));
  }
  return values;
}

/** Whether a value names a row whose key is not known before it is made. */
function isMadeLater(world: RowWorld, entity: string, stated: SampleValue): boolean {
  return stated.kind === 'row' && world.namedKey(entity, stated.row) === undefined;
}

function statedParent(world: RowWorld, stated: SampleValue): Parent | null {
  if (stated.kind === 'key') return { entity: stated.entity, key: stated.key };
  const key = stated.kind === 'row' ? world.namedKey(stated.entity, stated.row) : undefined;
  return stated.kind === 'row' && key !== undefined ? { entity: world.kindOf(stated.entity, key), key } : null;
}

function defaultOrMade(world: RowWorld, wish: EntityWish, field: Field, row: string): Wire {
  if (field.default !== null && field.default.kind !== 'sql') {
    if (field.default.kind === 'value') return field.default.value;
    return field.type.kind === 'date'
      ? world.now.slice(0, 10)
      : field.type.kind === 'time'
        ? world.now.slice(11, 19)
        : field.default.kind === 'today'
          ? `${world.now.slice(0, 10)}T00:00:00.000000Z`
          : world.now;
  }
  if (!field.required) return null;
  return makeValue(field, {
    chance: chanceFor(wish.entity.name, field.name, row),
    now: world.now,
    hints: undefined,
    generator: undefined,
    row: 0,
  });
}

function statedValue(world: RowWorld, field: Field, stated: SampleValue): Wire {
  if (stated.kind === 'value') {
    const whole = typeof stated.value === 'string' || typeof stated.value === 'number';
    const read = whole ? parseWire(field.type, String(stated.value)) : null;
    return read?.ok === true ? read.value : stated.value;
  }
  if (stated.kind === 'row') return world.namedKey(stated.entity, stated.row) ?? null;
  if (stated.kind === 'key') return stated.key;
  const value = digitsOf(stated.expression) ?? evaluate(stated.expression, () => null, world.now);
  if (value === undefined || value === null) return null;
  const parsed = parseWire(field.type, String(value));
  return parsed.ok ? parsed.value : value;
}

/** A number as it is written: computing with it would cost digits that a double does not hold. */
function digitsOf(expression: Expression): string | null {
  if (expression.kind === 'value') return typeof expression.value === 'string' ? expression.value : null;
  const inner = expression.kind === 'negate' ? digitsOf(expression.operand) : null;
  return inner === null ? null : `-${inner}`;
}

function statedKey(world: RowWorld, relation: KeyRelation, stated: SampleValue): Wire {
  if (stated.kind === 'row') return world.namedKey(relation.parent, stated.row) ?? null;
  if (stated.kind === 'key') return stated.key;
  if (stated.kind === 'value') return stated.value;
  return null;
}

function generatedRow(world: RowWorld, wish: EntityWish, table: RowRules, row: number, keys: KeyMaker): Map<string, Wire> | null {
  const { entity } = wish;
  const values = new Map<string, Wire>();
  const makers: Maker[] = [];
  for (const field of settable(entity.fields)) {
    const column = field.column.value;
    if (field.key) {
      values.set(column, keys.make(wish, row));
      if (field.type.kind !== 'integer' && field.type.kind !== 'bigint')
        makers.push({ columns: [column], make: () => values.set(column, keys.make(wish, row)) });
      continue;
    }
    if (wish.parents.some((relation) => relation.columns.some(({ value }) => value === column))) continue;
    const make = (attempt: number) => {
      const making = {
        chance: chanceFor(entity.name, field.name, row, attempt),
        now: world.now,
        hints: table.hintsFor(field.name),
        generator: wish.generators.get(field.name),
        row,
      };
      values.set(column, makeValue(field, making));
    };
    makers.push({ columns: [column], make });
  }
  const owned = new Set<string>();
  for (const relation of wish.parents) {
    const assigned = wish.assigned.get(relation.name)?.[row - 1]?.key;
    const columns = relation.columns.map((column) => column.value);
    // A column that an earlier relation holds, too, is set once, by that one.
    const shared = columns.filter((column) => owned.has(column));
    for (const column of columns) owned.add(column);
    const make = (attempt: number) => {
      const known = columns.map((column) => (shared.includes(column) ? (values.get(column) ?? null) : undefined));
      const key = assigned ?? makeKey(world, wish, relation, row, attempt, known);
      setKey(world, relation, key, values, (column) => !shared.includes(column));
    };
    makers.push({ columns, make });
  }
  for (const held of wish.polymorphic) {
    const { relation } = held;
    const assigned = wish.assigned.get(relation.name)?.[row - 1];
    const make = (attempt: number) => setParent(world, held, assigned ?? makeParent(world, wish, relation, row, attempt), values);
    makers.push({ columns: heldBy(world.model, relation, relation.child).map(({ name }) => name), make });
  }
  for (const { make } of makers) make(0);
  for (const relation of wish.parents) {
    const role = relation.childRole ?? relation.columns.map((column) => column.value).join(', ');
    if (relation.required && relation.columns.some((column) => (values.get(column.value) ?? null) === null)) {
      world.shortfalls.add(entity.name, `${role} needs ${withArticle(relation.parent)}, and there is none`);
      return null;
    }
  }
  for (const { relation } of wish.polymorphic) {
    const filled = heldBy(world.model, relation, relation.child).some(({ name }) => (values.get(name) ?? null) !== null);
    if (!relation.required || filled) continue;
    const targets = relation.targets.map((target) => withArticle(target.entity)).join(' or ');
    world.shortfalls.add(entity.name, `${relation.childRole ?? relation.name} needs ${targets}, and there is none`);
    return null;
  }
  for (let attempt = 1; attempt <= MOST_TRIES; attempt++) {
    const broken = table.broken(values);
    if (broken === null) return values;
    const before = new Map(values);
    const touched = new Set(broken.columns);
    for (const { columns, make } of makers) {
      if (!columns.some((column) => touched.has(column))) continue;
      for (const column of columns) touched.add(column);
      make(attempt);
    }
    // Two fields that stand the wrong way round are as good as made, once they change places.
    if (broken.check !== null && broken.columns.length === 2 && attempt % 2 === 1)
      swap(before, broken.columns, values, entity.fields);
    if (attempt === MOST_TRIES) world.shortfalls.add(entity.name, broken.name);
  }
  return null;
}

/** The fields that a row gives values for; what the database generates is none of them. */
export function settable(fields: readonly Field[]): readonly Field[] {
  return fields.filter((field) => field.physical.generated === null);
}

/** What makes the values of some columns of a row. */
interface Maker {
  readonly columns: readonly string[];
  readonly make: (attempt: number) => void;
}

/** Puts another row's key into the columns of a relation. */
function setKey(
  world: RowWorld,
  relation: KeyRelation,
  key: Wire,
  values: Map<string, Wire>,
  settable: (column: string) => boolean = () => true,
): void {
  const parts = splitKey(entityOf(world.model, relation.parent).key.type, key);
  for (const [index, { value: column }] of relation.columns.entries())
    if (settable(column)) values.set(column, parts[index] ?? null);
}

/** The keys of the parents that agree with the parts that are known; a part that is null or undefined is free. */
function fitting(world: RowWorld, relation: KeyRelation, known: readonly (Wire | undefined)[]): readonly Wire[] {
  const keys = world.keysOf(relation.parent);
  const free = (part: Wire | undefined) => part === undefined || part === null;
  if (known.every(free)) return keys;
  const { type } = entityOf(world.model, relation.parent).key;
  return keys.filter((key) => {
    const parts = splitKey(type, key);
    return known.every((part, index) => free(part) || part === parts[index]);
  });
}

/**
 * The keys that leave a parent for each other relation that a column is shared with: a row that is filled over one of them
 * must have a row to point at over the next.
 */
function agreeing(world: RowWorld, wish: EntityWish, relation: KeyRelation, keys: readonly Wire[]): readonly Wire[] {
  const own = relation.columns.map(({ value }) => value);
  const type = (parent: string) => entityOf(world.model, parent).key.type;
  return wish.parents.reduce<readonly Wire[]>((left, other) => {
    const shared = other.columns.flatMap(({ value }, index) => {
      const at = own.indexOf(value);
      return at < 0 ? [] : [{ at, index }];
    });
    if (other === relation || shared.length === 0) return left;
    const there = new Set(
      world.keysOf(other.parent).map((key) => {
        const parts = splitKey(type(other.parent), key);
        return JSON.stringify(shared.map(({ index }) => parts[index] ?? null));
      }),
    );
    const fit = left.filter((key) => {
      const parts = splitKey(type(relation.parent), key);
      return there.has(JSON.stringify(shared.map(({ at }) => parts[at] ?? null)));
    });
    return fit.length > 0 || other.required ? fit : left;
  }, keys);
}

function swap(
  before: ReadonlyMap<string, Wire>,
  columns: readonly string[],
  values: Map<string, Wire>,
  fields: readonly Field[],
): void {
  const [a = '', b = ''] = columns;
  const [first, second] = [a, b].map((column) => fields.find((field) => field.column.value === column));
  if (first?.type.kind !== second?.type.kind) return;
  values.set(a, before.get(b) ?? null);
  values.set(b, before.get(a) ?? null);
}

function makeParent(
  world: RowWorld,
  wish: EntityWish,
  relation: PolymorphicRelation,
  row: number,
  attempt: number,
): Parent | null {
  const chance = chanceFor(wish.entity.name, relation.name, row, attempt);
  const generator = relation.childRole === null ? undefined : wish.generators.get(relation.childRole)?.generator;
  const any = generator?.kind === 'any' ? generator : null;
  const nullShare = any?.nullShare ?? (relation.required ? 0 : EMPTY_ROLE_SHARE);
  if (!relation.required && chance.percent(nullShare)) return null;
  const only = any?.target.root.kind === 'row' ? any.target.root.entity.text : undefined;
  return anyTarget(world, relation, chance, only);
}

/** A row of one of the entities that a relation leads to, each as likely as the others. */
export function anyTarget(
  world: Pick<RowWorld, 'model' | 'keysOf' | 'kindOf'>,
  { targets }: Pick<PolymorphicRelation, 'targets'>,
  chance: Chance,
  only: string | undefined,
): Parent | null {
  const names = only === undefined ? targets.map((target) => target.entity) : [only];
  const some = names.filter((name) => world.keysOf(name).length > 0);
  const name = chance.pick(some);
  const key = name === undefined ? undefined : chance.pick(world.keysOf(name));
  return name === undefined || key === undefined ? null : { entity: world.kindOf(name, key), key };
}

/** The cells of a polymorphic key that points at a row; of one that points at none they are all null. */
export function polymorphicCells(model: Model, keys: readonly StoredKey[], parent: Parent | null): ReadonlyMap<string, Wire> {
  const cells = new Map<string, Wire>();
  for (const { columns, mark } of keys) {
    if (mark !== null) cells.set(mark.column, null);
    for (const { value } of columns) cells.set(value, null);
  }
  if (parent === null) return cells;
  const above = lineage(model, parent.entity).map(({ name }) => name);
  const key = keys.find(({ target }) => above.includes(target));
  const column = key?.columns[0]?.value;
  if (key === undefined || column === undefined) return cells;
  if (key.mark !== null) {
    const { marks, means } = key.mark;
    const said = marks.length === 1 ? marks[0] : marks[means.indexOf(parent.entity)];
    if (said === undefined) return cells;
    cells.set(key.mark.column, said);
  }
  return cells.set(column, key.heldAs?.kind === 'text' ? String(parent.key) : parent.key);
}

function setParent(world: RowWorld, { targetKeys }: PolymorphicParent, parent: Parent | null, values: Map<string, Wire>): void {
  for (const [column, value] of polymorphicCells(world.model, targetKeys, parent)) values.set(column, value);
}

function makeKey(
  world: RowWorld,
  wish: EntityWish,
  relation: KeyRelation,
  row: number,
  attempt: number,
  known: readonly (Wire | undefined)[],
): Wire {
  const { entity } = wish;
  const chance = chanceFor(entity.name, relation.name, row, attempt);
  const generator = relation.childRole === null ? undefined : wish.generators.get(relation.childRole)?.generator;
  const nullShare = generator?.kind === 'any' ? generator.nullShare : relation.required ? 0 : EMPTY_ROLE_SHARE;
  if (!relation.required && chance.percent(nullShare)) return null;
  const keys = agreeing(world, wish, relation, fitting(world, relation, known));
  // Each parent serves one child only; going through them in turn finds those that are left.
  if (relation.form === 'one-to-one') return keys[(row - 1 + attempt) % Math.max(1, keys.length)] ?? null;
  return chance.pick(keys) ?? null;
}
