import {
  type AnyPivotRelation,
  type Expression,
  entityOf,
  fieldOf,
  type Hop,
  type Load,
  lineage,
  type Model,
  type Order,
  pivotOf,
  type Query,
  type Role,
} from '../model/index.js';

/** A stored value in wire form. */
export type Cell = unknown;

export type OracleRow = ReadonlyMap<string, Cell>;

/** All rows there are, as they are meant: by the entity that each is of, and the pairs of each pivot. No tables. */
export interface World {
  readonly rows: ReadonlyMap<string, readonly OracleRow[]>;
  readonly pairs: ReadonlyMap<string, readonly OracleRow[]>;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
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
  /** Those of its derived fields that can be evaluated here. */
  readonly derived: Readonly<Record<string, Cell>>;
  readonly loads: Readonly<Record<string, readonly OracleAnswer[]>>;
}

/** Something that the naive evaluator does not know. */
export class Beyond extends Error {}

/**
 * The answer to a query by looking at every row, one after the other: no SQL, no keys handed on, no tables. To test the
 * others against. Rows stand in order where the query says one.
 *
 * @throws Beyond for expressions that it does not evaluate
 */
export function answerNaively(model: Model, world: World, query: Query): OracleAnswer[] {
  const oracle = new Oracle(model, world);
  const rows = oracle
    .all(query.entity)
    .filter((item) => query.where.every((condition) => oracle.value(condition, item) === true));
  const entity = entityOf(model, query.entity);
  const sorted = oracle.sorted(rows, stated(query.orderBy, entity.orderBy));
  return sorted.map((item) => oracle.answer(item, query.loads));
}

/** The first of some orders that says anything. */
function stated(...orders: readonly (readonly Order[])[]): readonly Order[] {
  return orders.find((order) => order.length > 0) ?? [];
}

class Oracle {
  constructor(
    private readonly model: Model,
    private readonly world: World,
  ) {}

  all(name: string): Item[] {
    const entity = entityOf(this.model, name);
    const kinds = entity.kinds?.concrete.map((kind) => kind.entity) ?? [name];
    return kinds.flatMap((kind) => (this.world.rows.get(kind) ?? []).map((row) => ({ kind, row, pair: null })));
  }

  answer(item: Item, loads: readonly Load[]): OracleAnswer {
    const { kind, row } = item;
    const entity = entityOf(this.model, kind);
    const fields = entity.fields.filter(({ hidden }) => !hidden);
    const loaded: Record<string, readonly OracleAnswer[]> = {};
    for (const load of loads) {
      if (!this.isA(kind, load.role.entity)) continue;
      const kin = this.behind(load.role, item).filter((other) => load.where === null || this.value(load.where, other) === true);
      const target = entityOf(this.model, load.role.target);
      const ordered = this.sorted(kin, stated(load.orderBy, load.role.orderBy, target.orderBy));
      const answers = ordered.map((other) => this.answer(other, load.loads));
      loaded[load.role.name] = [...(load.branch ? (loaded[load.role.name] ?? []) : []), ...answers];
    }
    return {
      kind,
      fields: Object.fromEntries(fields.map((field) => [field.name, row.get(field.column.value) ?? null])),
      derived: Object.fromEntries(entity.derived.flatMap(({ name, expression }) => this.evaluated(name, expression, item))),
      loads: loaded,
    };
  }

  private evaluated(name: string, expression: Expression, item: Item): [string, Cell][] {
    try {
      return [[name, this.value(expression, item)]];
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
        return typed(expression.value, expression.type.kind);
      case 'clock':
        return expression.which === 'now' ? this.world.now : this.world.now.slice(0, 10);
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
      case 'in': {
        const among = expression.items
          .map((other) => binary('=', value(expression.operand), value(other)))
          .reduce((one, other) => binary('or', one, other), false);
        return among === null ? null : among !== expression.negated;
      }
      case 'case': {
        const branch = expression.branches.find(({ when }) => value(when) === true);
        if (branch !== undefined) return value(branch.then);
        return expression.otherwise === null ? null : value(expression.otherwise);
      }
      case 'binary':
        return binary(expression.operator, value(expression.left), value(expression.right));
      case 'not': {
        const inner = value(expression.operand);
        return inner === null ? null : inner !== true;
      }
      case 'is null':
        return (value(expression.operand) === null) !== expression.negated;
      default:
        throw new Beyond(expression.kind);
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
        return ends.length;
      case 'all':
        return ends.every((end) => test === null || this.value(test, end) === true);
    }
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

/** Numbers that travel as text are compared as numbers. */
function typed(value: Cell, type: string): Cell {
  return (type === 'decimal' || type === 'bigint' || type === 'integer' || type === 'real') && typeof value === 'string'
    ? Number(value)
    : value;
}

function binary(operator: string, left: Cell, right: Cell): Cell {
  if (operator === 'and') return left === false || right === false ? false : left === null || right === null ? null : true;
  if (operator === 'or') return left === true || right === true ? true : left === null || right === null ? null : false;
  if (left === null || right === null) return null;
  switch (operator) {
    case '=':
      return compare(left, right) === 0;
    case '<>':
      return compare(left, right) !== 0;
    case '<':
      return compare(left, right) < 0;
    case '<=':
      return compare(left, right) <= 0;
    case '>':
      return compare(left, right) > 0;
    case '>=':
      return compare(left, right) >= 0;
    case '+':
      return Number(left) + Number(right);
    default:
      throw new Beyond(operator);
  }
}

/** Nulls first; texts by code point. */
function compare(a: Cell, b: Cell): number {
  const [one, other] = [a ?? null, b ?? null];
  if (one === null || other === null) return one === other ? 0 : one === null ? -1 : 1;
  if (Array.isArray(one) && Array.isArray(other))
    return one.reduce<number>((order, part, index) => order || compare(part, other[index]), 0);
  if (typeof one === 'number' && typeof other === 'number') return one - other;
  const [left, right] = [Array.from(String(one)), Array.from(String(other))];
  for (let at = 0; at < Math.min(left.length, right.length); at++) {
    const order = (left[at]?.codePointAt(0) ?? 0) - (right[at]?.codePointAt(0) ?? 0);
    if (order !== 0) return order;
  }
  return left.length - right.length;
}
