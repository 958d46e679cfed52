import {
  type AnyPivotRelation,
  type Expression,
  entityOf,
  fieldOf,
  type Hop,
  isNarrowed,
  type Load,
  lineage,
  type Model,
  type Order,
  pivotOf,
  type Query,
  type Role,
  someExpression,
  type Wall,
} from '../model/index.js';
import { daysBetween, moved } from './moments.js';
import { asDouble, compareNumbers, computed, exactIn, isExact, type Numeric, withScale, writtenExact } from './numbers.js';
import { folded, isLike, lettersFrom, lettersOf } from './texts.js';

/** A stored value in wire form. */
export type Cell = unknown;

export type OracleRow = ReadonlyMap<string, Cell>;

/** All rows there are, as they are meant: by the entity that each is of, and the pairs of each pivot. No tables. */
export interface World {
  readonly rows: ReadonlyMap<string, readonly OracleRow[]>;
  readonly pairs: ReadonlyMap<string, readonly OracleRow[]>;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  /** The values of a query's parameters, in wire form; null for one that is left empty. */
  readonly parameters?: ReadonlyMap<string, Cell>;
  /** Whoever looks: the key of a row of the actor's entity, or nobody; left out, the system, which sees all rows. */
  readonly actor?: { readonly key: Cell } | 'nobody';
}

/** A row with what it is, and the pair over which it was reached. */
interface Item {
  readonly kind: string;
  readonly row: OracleRow;
  readonly pair: OracleRow | null;
}

/** A row of the answer: what it is, its key and stored fields, and what was loaded with it, in order. */
export interface OracleAnswer {
  readonly kind: string;
  readonly fields: Readonly<Record<string, Cell>>;
  /** Its derived fields in wire form, but for those that it does not evaluate. */
  readonly derived: Readonly<Record<string, Cell>>;
  readonly loads: Readonly<Record<string, readonly OracleAnswer[]>>;
  /** The loaded roles to one row of which the row may not be seen. */
  readonly hidden: readonly string[];
}

/** Something that the naive evaluator does not know: what engines may do each in their own way, or refuse. */
export class Beyond extends Error {}

/**
 * The answer to a query by looking at every row, one after the other: no SQL, no keys handed on, no tables. To test the
 * others against. Rows stand in order where the query says one.
 *
 * @throws Beyond for expressions that it does not evaluate
 */
export function answerNaively(model: Model, world: World, query: Query): OracleAnswer[] {
  const oracle = new Oracle(model, world).walled(query.lifts);
  const rows = oracle
    .all(query.entity)
    .filter((item) => query.where.every((condition) => oracle.value(condition, item) === true));
  const entity = entityOf(model, query.entity);
  const sorted = oracle.sorted(rows, stated(query.orderBy, entity.orderBy));
  return windowed(sorted, query).map((item) => oracle.answer(item, query.loads));
}

/** A line of a flat answer: its values in wire form, by the names of their columns. */
export type OracleLine = Readonly<Record<string, Cell>>;

/**
 * The flat answer to a query that shows expressions over its rows, or over groups of them, in order.
 *
 * @throws Beyond for expressions that it does not evaluate
 */
export function linesNaively(model: Model, world: World, query: Query): OracleLine[] {
  const oracle = new Oracle(model, world).walled(query.lifts);
  const items = oracle
    .all(query.entity)
    .filter((item) => query.where.every((condition) => oracle.value(condition, item) === true));
  const { groupBy, having, distinct } = query;
  const own = query.orderBy.length > 0 || distinct ? query.orderBy : entityOf(model, query.entity).orderBy;
  const lines =
    groupBy === null
      ? oracle.sorted(items, own).map((item): Line => ({ item, group: null }))
      : oracle.grouped(items, groupBy).filter((line) => having === null || oracle.ofLine(having, line) === true);
  const shown = lines.map((line) => ({
    line,
    cells: (query.show ?? []).map(({ expression }) => oracle.ofLine(expression, line)),
  }));
  const kept = distinct ? once(shown, ({ cells }) => JSON.stringify(cells, inDigits)) : shown;
  const ordered = groupBy === null && !distinct ? kept : [...kept].sort((a, b) => oracle.orderOfLines(query, a, b));
  return windowed(ordered, query).map(({ cells }) =>
    Object.fromEntries(
      (query.show ?? []).map(({ name, expression }, index) => [name, wireOf(model, cells[index] ?? null, expression.type)]),
    ),
  );
}

/** The rows, or lines, that a query's limit and offset let through. */
function windowed<T>(all: readonly T[], { limit, offset, cardinality }: Query): readonly T[] {
  if ([limit, offset].some((amount) => amount !== null && amount.kind !== 'value')) throw new Beyond('a limit that is no number');
  const from = offset?.kind === 'value' ? Number(offset.value) : 0;
  const most = limit?.kind === 'value' ? Number(limit.value) : all.length;
  return all.slice(from, from + (cardinality === 'first' ? Math.min(1, most) : most));
}

function inDigits(_: string, value: unknown): unknown {
  return typeof value === 'bigint' ? String(value) : value;
}

/** A row that is shown, or a group of them with what they have in common. */
interface Line {
  readonly item: Item | null;
  readonly group: { readonly terms: readonly Cell[]; readonly items: readonly Item[] } | null;
}

/** The first of some orders that says anything. */
function stated(...orders: readonly (readonly Order[])[]): readonly Order[] {
  return orders.find((order) => order.length > 0) ?? [];
}

class Oracle {
  constructor(
    private readonly model: Model,
    private readonly world: World,
    private readonly group: Line['group'] = null,
    /** The walls that stand. */
    private readonly walls: readonly Wall[] = [],
  ) {}

  all(name: string): Item[] {
    const entity = entityOf(this.model, name);
    const kinds = entity.kinds?.concrete.map((kind) => kind.entity) ?? [name];
    const rows = kinds.flatMap((kind) => (this.world.rows.get(kind) ?? []).map((row) => ({ kind, row, pair: null })));
    return this.walls.length === 0 ? rows : rows.filter((item) => this.isSeen(item));
  }

  /** Whether a row stands on this side of all walls: each line for what it is has to be true, past all walls. */
  private isSeen(item: Item): boolean {
    const past = new Oracle(this.model, this.world);
    return this.walls.every(({ conditions }) =>
      (conditions.get(item.kind) ?? []).every(({ kinds, holds }) => {
        if (kinds !== null && !kinds.includes(item.kind)) return true;
        if (this.world.actor === 'nobody' && someExpression(holds, ({ kind }) => kind === 'me')) return false;
        return past.value(holds, item) === true;
      }),
    );
  }

  /** The row of whoever looks, past all walls; null for nobody. */
  private actor(): Item | null {
    const { actor } = this.world;
    if (actor === undefined || actor === 'nobody') return null;
    const past = new Oracle(this.model, this.world);
    const entity = this.model.actor ?? '';
    const key = this.given(actor.key, { kind: 'row', entity });
    return past.all(entity).find((item) => compare(past.keyParts(item), key) === 0) ?? null;
  }

  /** The same with the walls that stand for whoever looks, but for those that a query lifts. */
  walled(lifts: readonly string[]): Oracle {
    if (this.world.actor === undefined) return this;
    const me = this.actor();
    const stands = ({ name, reads, unless }: Wall) =>
      reads && !lifts.includes(name) && !unless.some((condition) => me !== null && this.value(condition, me) === true);
    return new Oracle(this.model, this.world, this.group, Array.from(this.model.walls.values()).filter(stands));
  }

  answer(item: Item, loads: readonly Load[]): OracleAnswer {
    const { kind, row } = item;
    const entity = entityOf(this.model, kind);
    const fields = entity.fields.filter(({ hidden }) => !hidden);
    const loaded: Record<string, readonly OracleAnswer[]> = {};
    const hidden: string[] = [];
    const past = new Oracle(this.model, this.world);
    for (const load of loads) {
      if (!this.isA(kind, load.role.entity)) continue;
      const pointsAt = load.role.way.kind === 'key' && !isNarrowed(this.model, load.role);
      if (pointsAt && past.behind(load.role, item).length > this.behind(load.role, item).length) hidden.push(load.role.name);
      const kin = this.behind(load.role, item).filter((other) => load.where === null || this.value(load.where, other) === true);
      const target = entityOf(this.model, load.role.target);
      const ordered = this.sorted(kin, stated(load.orderBy, load.role.orderBy, target.orderBy));
      const { limit } = load;
      if (limit !== null && limit.kind !== 'value') throw new Beyond('a limit that is no number');
      const most = limit === null ? ordered.length : Number(limit.value);
      const answers = ordered.slice(0, most).map((other) => this.answer(other, load.loads));
      loaded[load.role.name] = [...(load.branch ? (loaded[load.role.name] ?? []) : []), ...answers];
    }
    return {
      kind,
      fields: Object.fromEntries(fields.map((field) => [field.name, row.get(field.column.value) ?? null])),
      derived: Object.fromEntries(entity.derived.flatMap(({ name, expression }) => this.evaluated(name, expression, item))),
      loads: loaded,
      hidden,
    };
  }

  /** Rows that have the same of each term, together; all of them as one group where there are no terms. */
  grouped(items: readonly Item[], groupBy: readonly Expression[]): Line[] {
    const groups = new Map<string, { terms: readonly Cell[]; items: Item[] }>();
    if (groupBy.length === 0) groups.set('', { terms: [], items: [] });
    for (const item of items) {
      const terms = groupBy.map((term) => this.value(term, item));
      const name = groupBy.length === 0 ? '' : JSON.stringify(terms, inDigits);
      const known = groups.get(name) ?? { terms, items: [] };
      known.items.push(item);
      groups.set(name, known);
    }
    return Array.from(groups.values(), (group): Line => ({ item: null, group }));
  }

  /** The value of an expression over a line. */
  ofLine(expression: Expression, { item, group }: Line): Cell {
    if (group === null) return item === null ? null : this.value(expression, item);
    const [some = NO_ITEM] = group.items;
    return new Oracle(this.model, this.world, group, this.walls).value(expression, some);
  }

  /** The order of lines that are groups, or stand there once: as is said, then by the terms, or by what is shown. */
  orderOfLines(
    { orderBy, groupBy, distinct }: Query,
    a: { readonly line: Line; readonly cells: readonly Cell[] },
    b: { readonly line: Line; readonly cells: readonly Cell[] },
  ): number {
    for (const { expression, descending } of orderBy) {
      const order = compare(this.ofLine(expression, a.line), this.ofLine(expression, b.line));
      if (order !== 0) return descending ? -order : order;
    }
    const [one, other] =
      groupBy !== null && !distinct ? [a.line.group?.terms ?? [], b.line.group?.terms ?? []] : [a.cells, b.cells];
    return one.reduce<number>((order, cell, index) => order || compare(cell, other[index] ?? null), 0);
  }

  private evaluated(name: string, expression: Expression, item: Item): [string, Cell][] {
    try {
      return [[name, wireOf(this.model, this.value(expression, item), expression.type)]];
    } catch (error) {
      if (error instanceof Beyond) return [];
      throw error;
    }
  }

  sorted(items: readonly Item[], orders: readonly Order[]): Item[] {
    return [...items].sort((a, b) => {
      for (const { expression, descending } of orders) {
        const order = compare(this.value(expression, a), this.value(expression, b));
        if (order !== 0) return descending ? -order : order;
      }
      return compare(this.keyParts(a), this.keyParts(b)) || compare(pairNumber(a), pairNumber(b));
    });
  }

  /** The rows that a row knows over a role. */
  private behind(role: Role, item: Item): Item[] {
    const { way } = role;
    if (!this.isA(item.kind, role.entity)) return [];
    const own = this.keyOf(item);
    switch (way.kind) {
      case 'key': {
        if (way.mark !== null && !way.mark.values.includes(String(item.row.get(way.mark.column)))) return [];
        const sought = joined(item.row, way.columns);
        return sought === null ? [] : this.all(role.target).filter((other) => this.keyOf(other) === sought);
      }
      case 'child':
        return this.all(role.target).filter(
          ({ row }) =>
            joined(row, way.columns) === own && (way.mark === null || way.mark.values.includes(String(row.get(way.mark.column)))),
        );
      case 'pivot': {
        const over = (from: readonly string[], to: readonly string[]) =>
          this.pairsOf(pivotOf(this.model, role.relation))
            .filter((pair) => joined(pair, from) === own)
            .filter((pair) => way.mark === null || way.mark.values.includes(String(pair.get(way.mark.column))))
            .flatMap((pair) =>
              this.all(role.target)
                .filter((other) => this.keyOf(other) === joined(pair, to))
                .map((other) => ({ ...other, pair })),
            );
        return [...over(way.near, way.far), ...(way.symmetric ? over(way.far, way.near) : [])];
      }
      case 'path': {
        const ends = once(this.walk(way.hops, item), (end) => `${end.kind} ${this.keyOf(end)}`);
        const reached = way.first ? this.sorted(ends, role.orderBy).slice(0, 1) : ends;
        return reached.filter((end) => this.isA(end.kind, role.target));
      }
    }
  }

  private walk(hops: readonly Hop[], start: Item): Item[] {
    return hops.reduce<Item[]>(
      (here, { role, filter }) =>
        here.flatMap((item) => this.behind(role, item)).filter((item) => filter === null || this.value(filter, item) === true),
      [start],
    );
  }

  private pairsOf(relation: AnyPivotRelation): readonly OracleRow[] {
    if (relation.entity !== null) return this.all(relation.entity).map(({ row }) => row);
    return this.world.pairs.get(relation.name) ?? [];
  }

  private isA(kind: string, entity: string): boolean {
    return lineage(this.model, kind).some(({ name }) => name === entity);
  }

  private keyOf({ kind, row }: Item): string | null {
    return joined(row, entityOf(this.model, kind).key.columns);
  }

  /** The parts of a key, each as what it is. */
  private keyParts({ kind, row }: Item): readonly Cell[] {
    return entityOf(this.model, kind).key.fields.map((field) => typed(row.get(field.column.value) ?? null, field.type.kind));
  }

  /** What stands behind to-one hops; null where there is nothing. */
  private one(hops: readonly Role[], item: Item): Item | null {
    return hops.reduce<Item | null>((here, role) => (here === null ? null : (this.behind(role, here)[0] ?? null)), item);
  }

  value(expression: Expression, item: Item): Cell {
    const value = (inner: Expression) => this.value(inner, item);
    switch (expression.kind) {
      case 'value':
        return this.given(expression.value, expression.type);
      case 'clock':
        return expression.which === 'now' ? this.world.now : this.world.now.slice(0, 10);
      case 'parameter':
        return this.given(this.world.parameters?.get(expression.name) ?? null, expression.type);
      case 'me': {
        const me = this.actor();
        return me === null ? null : new Oracle(this.model, this.world).value(expression.value, me);
      }
      case 'field': {
        const there = this.one(expression.hops, item);
        if (there === null) return null;
        const field = fieldOf(entityOf(this.model, expression.entity).fields, expression.field);
        return typed(there.row.get(field.column.value) ?? null, field.type.kind);
      }
      case 'pivot field': {
        const field = fieldOf(pivotOf(this.model, expression.relation).fields, expression.field);
        return typed(item.pair?.get(field.column.value) ?? null, field.type.kind);
      }
      case 'role': {
        const there = this.one(expression.hops, item);
        return there === null ? null : this.keyParts(there);
      }
      case 'named': {
        const there = this.one(expression.hops, item);
        return there === null ? null : this.value(expression.expression, there);
      }
      case 'is kind': {
        const there = this.one(expression.hops, item);
        return (there !== null && expression.kinds.includes(there.kind)) !== expression.negated;
      }
      case 'points at': {
        const there = this.one(expression.hops, item);
        const points = there !== null && expression.branches.some((branch) => this.behind(branch, there).length > 0);
        return points !== expression.negated;
      }
      case 'same row': {
        const there = this.one(expression.hops, item);
        const [target] = there === null ? [] : expression.branches.flatMap((branch) => this.behind(branch, there));
        if (target === undefined) return null;
        if (!this.isA(target.kind, expression.branch.target)) return false;
        const row = value(expression.row);
        return row === null ? null : compare(this.keyParts(target), row) === 0;
      }
      case 'quantified':
        return this.quantified(expression, item);
      case 'aggregated': {
        const ends = this.walk(expression.hops, item);
        const each = expression.value.kind === 'pivot field' ? ends : once(ends, (end) => `${end.kind} ${this.keyOf(end)}`);
        return aggregateOf(
          expression.aggregate,
          each.map((end) => this.value(expression.value, end)),
          expression.type,
        );
      }
      case 'group term':
        return this.group?.terms[expression.term] ?? null;
      case 'of group': {
        const { value: each, aggregate } = expression;
        const items = this.group?.items ?? [];
        if (each === null) return { units: BigInt(items.length), scale: 0 };
        const row = new Oracle(this.model, this.world, null, this.walls);
        return aggregateOf(
          aggregate,
          items.map((one) => row.value(each, one)),
          expression.type,
        );
      }
      case 'in': {
        const among = expression.items
          .map((other) => holds('=', value(expression.operand), value(other)))
          .reduce<Truth>((one, other) => either(one, other), false);
        return among === null ? null : among !== expression.negated;
      }
      case 'between': {
        const [operand, low, high] = [value(expression.operand), value(expression.low), value(expression.high)];
        const inside = both(holds('>=', operand, low), holds('<=', operand, high));
        return inside === null ? null : inside !== expression.negated;
      }
      case 'like': {
        const [text, pattern] = [value(expression.operand), value(expression.pattern)];
        if (text === null || pattern === null) return null;
        return isLike(String(text), String(pattern)) !== expression.negated;
      }
      case 'case': {
        const branch = expression.branches.find(({ when }) => value(when) === true);
        const chosen = branch?.then ?? expression.otherwise;
        return chosen === null ? null : asType(value(chosen), expression.type);
      }
      case 'function':
        return asType(applied(expression, value), expression.type);
      case 'binary':
        return this.binary(expression, value);
      case 'not': {
        const inner = value(expression.operand);
        return inner === null ? null : inner !== true;
      }
      case 'negate': {
        const inner = value(expression.operand);
        if (isExact(inner)) return { ...inner, units: -inner.units };
        return inner === null ? null : 0 - Number(inner);
      }
      case 'is null':
        return (value(expression.operand) === null) !== expression.negated;
      case 'interval':
      case 'sample row':
        throw new Beyond(expression.kind);
    }
  }

  /** A value that does not come from a row; of a row's key its parts. */
  private given(value: Cell, type: Expression['type']): Cell {
    if (type.kind !== 'row' || value === null) return typed(value, type.kind);
    const { fields } = entityOf(this.model, type.entity).key;
    const parts = fields.length === 1 ? [value] : (JSON.parse(String(value)) as Cell[]);
    return fields.map((field, index) => typed(parts[index] ?? null, field.type.kind));
  }

  private binary(
    { operator, left, right, type }: Extract<Expression, { kind: 'binary' }>,
    value: (inner: Expression) => Cell,
  ): Cell {
    const one = value(left);
    if (right.kind === 'interval')
      return one === null ? null : moved(String(one), (operator === '-' ? -1 : 1) * Number(right.amount), right.unit);
    const other = value(right);
    if (operator === 'and') return both(truth(one), truth(other));
    if (operator === 'or') return either(truth(one), truth(other));
    if (one === null || other === null) return null;
    switch (operator) {
      case '||':
        return `${textOf(one, left.type)}${textOf(other, right.type)}`;
      case '+':
      case '-':
      case '*':
      case '/':
      case '%':
        if (left.type.kind === 'date') return { units: BigInt(daysBetween(String(one), String(other))), scale: 0 };
        return asType(computed(operator, numeric(one), numeric(other), isWhole(type)), type);
      default: {
        const moments = [left.type.kind, right.type.kind].includes('timestamp');
        return moments ? holds(operator, asMoment(one), asMoment(other)) : holds(operator, one, other);
      }
    }
  }

  private quantified({ quantifier, hops, test }: Extract<Expression, { kind: 'quantified' }>, item: Item): Cell {
    const ends = once(this.walk(hops, item), (end) => `${end.kind} ${this.keyOf(end)}`);
    switch (quantifier) {
      case 'any':
        return ends.length > 0;
      case 'none':
        return ends.length === 0;
      case 'count':
        return { units: BigInt(ends.length), scale: 0 };
      case 'all':
        return ends.every((end) => test === null || this.value(test, end) === true);
    }
  }
}

/** A group of no rows has no row at hand. */
const NO_ITEM: Item = { kind: '', row: new Map(), pair: null };

type Aggregated = Extract<Expression, { kind: 'of group' }>['aggregate'];

/** What comes of values by an aggregate; of those that are null nothing comes. */
function aggregateOf(name: Aggregated, cells: readonly Cell[], type: Expression['type']): Cell {
  const given = cells.filter((cell) => cell !== null);
  const [first, ...others] = given;
  if (name === 'count') return { units: BigInt(given.length), scale: 0 };
  if (first === undefined) return null;
  switch (name) {
    case 'min':
      return others.reduce((least, one) => (compare(one, least) < 0 ? one : least), first);
    case 'max':
      return others.reduce((most, one) => (compare(one, most) > 0 ? one : most), first);
    case 'sum':
      return asType(
        others.reduce<Numeric>((sum, one) => computed('+', sum, numeric(one), false) ?? 0, numeric(first)),
        type,
      );
    case 'avg':
      return given.reduce<number>((sum, one) => sum + asDouble(numeric(one)), 0) / given.length;
  }
}

/** What tells the pairs apart over which one row is reached several times. */
function pairNumber({ pair }: Item): Cell {
  return Number(pair?.get('id') ?? 0);
}

/** The parts of a key as one text; null where one of them is. */
function joined(row: OracleRow, columns: readonly string[]): string | null {
  const parts = columns.map((column) => row.get(column) ?? null);
  return parts.includes(null) ? null : parts.map(String).join('\u0001');
}

function once<T>(items: readonly T[], key: (item: T) => string): T[] {
  return Array.from(new Map(items.map((item) => [key(item), item])).values());
}

type Truth = boolean | null;

function truth(value: Cell): Truth {
  return value === null ? null : value === true;
}

/** SQL's `and`: false decides, then unknown. */
function both(left: Truth, right: Truth): Truth {
  if (left === false || right === false) return false;
  return left === null || right === null ? null : true;
}

/** SQL's `or`: true decides, then unknown. */
function either(left: Truth, right: Truth): Truth {
  if (left === true || right === true) return true;
  return left === null || right === null ? null : false;
}

/** A value as it is computed with: whole numbers and decimals exact, whether they travel as numbers or as texts. */
function typed(value: Cell, type: string): Cell {
  if (value === null || value === undefined) return null;
  if (type === 'real') return Number(value);
  return type === 'decimal' || type === 'bigint' || type === 'integer' ? (exactIn(String(value)) ?? value) : value;
}

function numeric(value: Cell): Numeric {
  return isExact(value) ? value : Number(value);
}

function isWhole({ kind }: Expression['type']): boolean {
  return kind === 'integer' || kind === 'bigint';
}

/** As many bits as a whole number of each type has, but for its sign. */
const BITS = { integer: 31n, bigint: 63n } as const;

/** A number as its type has it. @throws Beyond where the type cannot hold it, which engines refuse */
function asType(value: Cell, type: Expression['type']): Cell {
  if (typeof value !== 'number' && !isExact(value)) return value;
  switch (type.kind) {
    case 'integer':
    case 'bigint': {
      const whole = isExact(value) ? withScale(value, 0) : value;
      if (isExact(whole) && (whole.units >= 1n << BITS[type.kind] || whole.units < -(1n << BITS[type.kind])))
        throw new Beyond(`${writtenExact(whole)} as ${type.kind}`);
      return whole;
    }
    case 'decimal':
      return isExact(value) ? withScale(value, type.scale) : value;
    case 'real':
      return asDouble(value);
    default:
      return value;
  }
}

/** A value as an answer has it; of a row its key. */
function wireOf(model: Model, value: Cell, type: Expression['type']): Cell {
  const held = asType(value, type);
  if (type.kind === 'row' && Array.isArray(held)) {
    const { fields } = entityOf(model, type.entity).key;
    const parts = fields.map((field, index) => wireOf(model, held[index] ?? null, field.type));
    if (parts.length === 1) return parts[0];
    const isNumber = (index: number) => ['bigint', 'decimal'].includes(fields[index]?.type.kind ?? '');
    const written = parts.map((part, index) => (isNumber(index) ? String(part) : JSON.stringify(part)));
    return parts.includes(null) ? null : `[${written.join(',')}]`;
  }
  if (!isExact(held)) return held;
  return type.kind === 'bigint' || type.kind === 'decimal' ? writtenExact(held) : Number(writtenExact(held));
}

/** A value as text. How many digits of a double are written is left to each engine. */
function textOf(value: Cell, type: Expression['type']): string {
  if (type.kind === 'row' || type.kind === 'bytes' || type.kind === 'json') throw new Beyond(`text of ${type.kind}`);
  const held = asType(value, type);
  if (typeof held === 'number') throw new Beyond('text of a double');
  return isExact(held) ? writtenExact(held) : String(held);
}

/** A date beside a timestamp is its first moment. */
function asMoment(value: Cell): Cell {
  return typeof value === 'string' && value.length === 10 ? `${value}T00:00:00.000000Z` : value;
}

/** The value of a function; null where one of its arguments is, but for `coalesce`. */
function applied({ name, args }: Extract<Expression, { kind: 'function' }>, value: (inner: Expression) => Cell): Cell {
  const given = args.map(value);
  if (name === 'coalesce') return given.find((one) => one !== null) ?? null;
  if (given.includes(null)) return null;
  const [first = null, second = null, third = null] = given;
  const count = (one: Cell) => Number(isExact(one) ? writtenExact(one) : one);
  switch (name) {
    case 'lower':
    case 'upper':
      return folded(String(first), name);
    case 'length':
      return { units: BigInt(lettersOf(String(first)).length), scale: 0 };
    case 'trim':
      return String(first).replace(/^ +| +$/g, '');
    case 'abs':
      if (isExact(first)) return { ...first, units: first.units < 0n ? -first.units : first.units };
      return Math.abs(Number(first));
    case 'round':
      if (!isExact(first)) throw new Beyond('round of a double');
      return withScale(first, Math.max(0, second === null ? 0 : count(second)));
    case 'least':
      return given.reduce((least, one) => (compare(one, least) < 0 ? one : least), first);
    case 'greatest':
      return given.reduce((most, one) => (compare(one, most) > 0 ? one : most), first);
    case 'substr':
      return lettersFrom(String(first), count(second), third === null ? null : count(third));
    case 'replace':
      return String(second) === '' ? first : String(first).replaceAll(String(second), () => String(third));
  }
}

function holds(operator: string, left: Cell, right: Cell): Truth {
  if (left === null || right === null) return null;
  const order = compare(left, right);
  switch (operator) {
    case '=':
      return order === 0;
    case '<>':
      return order !== 0;
    case '<':
      return order < 0;
    case '<=':
      return order <= 0;
    case '>':
      return order > 0;
    case '>=':
      return order >= 0;
    default:
      throw new Beyond(operator);
  }
}

/** Nulls first; numbers by size, texts by code point, false before true. */
function compare(a: Cell, b: Cell): number {
  const [one, other] = [a ?? null, b ?? null];
  if (one === null || other === null) return one === other ? 0 : one === null ? -1 : 1;
  if (Array.isArray(one) && Array.isArray(other))
    return one.reduce<number>((order, part, index) => order || compare(part, other[index]), 0);
  if ((isExact(one) || typeof one === 'number') && (isExact(other) || typeof other === 'number'))
    return compareNumbers(one, other);
  const [left, right] = [lettersOf(String(one)), lettersOf(String(other))];
  for (let at = 0; at < Math.min(left.length, right.length); at++) {
    const order = (left[at]?.codePointAt(0) ?? 0) - (right[at]?.codePointAt(0) ?? 0);
    if (order !== 0) return order;
  }
  return left.length - right.length;
}
