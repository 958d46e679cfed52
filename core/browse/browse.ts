import {
  type Entity,
  type Expression,
  entityOf,
  type Hop,
  type Load,
  loadOf,
  type Model,
  type Order,
  queryOf,
  type Role,
  someExpression,
} from '../model/index.js';
import { planQuery, type QueryPlan, TITLE, unfolded } from '../plan/index.js';
import { parseWire, type Wire } from '../values/index.js';

/** The rows that were walked to: those that a row knows over one of its roles. */
export interface Via {
  readonly entity: string;
  readonly key: Wire;
  readonly role: string;
}

export interface BrowseRequest {
  readonly entity: string;
  readonly where: readonly Expression[];
  readonly orderBy: readonly Order[];
  readonly via: Via | null;
}

export interface Browsing {
  /** The keys of all rows asked for, in order. */
  readonly keys: QueryPlan;
  /** The rows asked for, in order, without what they point at: as a person would ask for them. */
  readonly asked: QueryPlan;
  /** The row that was walked from with those asked for below it, in the order that their pairs give them; null for another order. */
  readonly byPairs: { readonly plan: QueryPlan; readonly role: string } | null;
  /** The rows whose keys are given, with the titles of what they point at. In no certain order. */
  readonly rows: QueryPlan;
  /** The same rows by their places in the order, for a window in which some have no key to be fetched by. */
  placed(from: number, count: number): QueryPlan;
  /** The fields of the pivot that was walked over, for the rows whose keys are given; null where there is none. */
  pivotFields(keys: readonly Wire[]): QueryPlan | null;
}

const NO_SPAN = { start: 0, end: 0 };

/**
 * Plans a look through an entity's rows. The order is found once, as a list of keys; each window is then fetched by
 * its keys, which costs the same at the end of a million rows as at the beginning.
 */
export function browse(model: Model, request: BrowseRequest): Browsing {
  const entity = entityOf(model, request.entity);
  const via = request.via === null ? null : viaRole(model, request.via, entity.name);
  const where = [...request.where, ...(via === null ? [] : [viaCondition(model, via)])];
  const roleOrder = via?.role.orderBy ?? [];
  const usesPivot = via?.role.way.kind === 'pivot';
  const orderBy = request.orderBy.length > 0 ? request.orderBy : usesPivot || roleOrder.length === 0 ? entity.orderBy : roleOrder;
  const wanted = queryOf(entity.name, { where, orderBy });
  const loads = toOneLoads(model, entity);
  return {
    keys: planQuery(model, wanted, { output: 'keys' }),
    asked: planQuery(model, wanted, { titled: true }),
    byPairs: via !== null && usesPivot && request.orderBy.length === 0 ? byPairs(model, via, request.where) : null,
    rows: planQuery(model, queryOf(entity.name, { loads }), { byKeys: true, titled: true }),
    placed: (from, count) => planQuery(model, { ...wanted, loads, limit: amount(count), offset: amount(from) }, { titled: true }),
    pivotFields: (keys) => (via === null || !usesPivot ? null : pivotPlan(model, via, entity, keys)),
  };
}

function amount(value: number): Expression {
  return { kind: 'value', value, type: { kind: 'integer' }, span: NO_SPAN };
}

/** The condition that holds for the row of this key alone; for none where the key is null. */
export function isRow({ name }: Entity, key: Wire): Expression {
  const row = { kind: 'row' as const, entity: name };
  return {
    kind: 'binary',
    operator: '=',
    left: { kind: 'role', hops: [], type: row, span: NO_SPAN },
    right: { kind: 'value', value: key, type: row, span: NO_SPAN },
    type: { kind: 'boolean' },
    span: NO_SPAN,
  };
}

/** For each to-many role, how many rows each of some owners knows over it: a load for each role, of which the number is asked. */
export function countsByRole(model: Model, name: string): QueryPlan {
  const entity = entityOf(model, name);
  const loads = rolesOf(model, entity)
    .filter(({ role }) => role.knows === 'many')
    .map(({ role, branch }) => loadOf(role, { branch }));
  return planQuery(model, queryOf(entity.name, { loads }), { counted: true, byKeys: true, titled: true });
}

/** How many rows an entity has. */
export function countOf(model: Model, name: string): QueryPlan {
  return planQuery(model, queryOf(name, { cardinality: 'count' }));
}

/**
 * The rows of an entity to choose from, in its order, each with its title.
 *
 * @param sought what the title or the key of each has in it; empty for all rows
 */
export function choicesOf(model: Model, name: string, most: number, sought = ''): QueryPlan {
  const entity = entityOf(model, name);
  const where = sought.trim() === '' ? [] : [isSought(entity, sought.trim())];
  return planQuery(model, queryOf(entity.name, { where, orderBy: entity.orderBy, limit: amount(most) }), { titled: true });
}

/** The condition that what a row is shown as has a text in it, whatever its case, or that it is the row's key. */
function isSought({ name, key, shownAs }: Entity, sought: string): Expression {
  const text = { kind: 'text', length: null } as const;
  const shown = shownAs.value;
  const found: Expression[] = [];
  if (shown.type.kind === 'text' || shown.type.kind === 'choice') {
    // What means any letter in a pattern means itself, too.
    const pattern = `%${sought.toLowerCase().replaceAll('\\', '_')}%`;
    const lower: Expression = { kind: 'function', name: 'lower', args: [shown], type: text, span: NO_SPAN };
    const value: Expression = { kind: 'value', value: pattern, type: text, span: NO_SPAN };
    found.push({ kind: 'like', operand: lower, pattern: value, negated: false, type: { kind: 'boolean' }, span: NO_SPAN });
  }
  const [only, ...more] = key.fields;
  const parsed = only === undefined || more.length > 0 ? null : parseWire(only.type, sought);
  if (only !== undefined && parsed?.ok === true) {
    const value: Expression = { kind: 'value', value: parsed.value, type: only.type, span: NO_SPAN };
    const own: Expression = { kind: 'field', hops: [], entity: name, field: only.name, type: only.type, span: NO_SPAN };
    found.push(same(own, value));
  }
  const never: Expression = { kind: 'value', value: false, type: { kind: 'boolean' }, span: NO_SPAN };
  return found.reduce<Expression | null>((left, right) => (left === null ? right : either(left, right)), null) ?? never;
}

function either(left: Expression, right: Expression): Expression {
  return { kind: 'binary', operator: 'or', left, right, type: { kind: 'boolean' }, span: NO_SPAN };
}

function toOneLoads(model: Model, entity: Entity): Load[] {
  return rolesOf(model, entity)
    .filter(({ role }) => role.knows !== 'many' && model.entities.has(role.target))
    .map(({ role, branch }) => loadOf(role, { branch, fields: [TITLE] }));
}

/** Every role that rows of an entity can have: its own, a branch for each entity behind a polymorphic one, those of its kinds; and paths. */
function rolesOf(model: Model, entity: Entity): { readonly role: Role; readonly branch: boolean }[] {
  const own = (one: Entity, declared: (role: { readonly entity: string }) => boolean) => [
    ...one.roles.filter(declared).map((role) => ({ role, branch: false })),
    ...one.polymorphic.filter(declared).flatMap(({ branches }) => branches.map((role) => ({ role, branch: true }))),
    ...one.paths.filter(declared).map((role) => ({ role, branch: false })),
  ];
  const below = (kind: Entity): Entity[] =>
    (kind.kinds?.kinds ?? []).flatMap((name) => {
      const inner = entityOf(model, name);
      return [inner, ...below(inner)];
    });
  return [...own(entity, () => true), ...below(entity).flatMap((kind) => own(kind, (role) => role.entity === kind.name))];
}

interface WalkedRole {
  readonly role: Role;
  readonly owner: Entity;
  readonly key: Wire;
}

/** The role over which rows of an entity can be walked to from a row of another; null where there is none. */
export function walkable(model: Model, owner: string, name: string, target: string): Role | null {
  const entity = model.entities.get(owner);
  if (entity === undefined) return null;
  const found = rolesOf(model, entity).find(({ role }) => role.name === name && role.target === target)?.role ?? null;
  return found === null || backwards(model, found) === null ? null : found;
}

function viaRole(model: Model, via: Via, target: string): WalkedRole {
  const owner = entityOf(model, via.entity);
  const role = walkable(model, via.entity, via.role, target);
  if (role === null) throw new Error(`no role ${via.entity}.${via.role}`);
  return { role, owner, key: via.key };
}

/** The condition on the target under which the owner knows it: the role, read backwards. */
function viaCondition(model: Model, { role, owner, key }: WalkedRole): Expression {
  const ownerRow = { kind: 'row' as const, entity: owner.name };
  const value: Expression = { kind: 'value', value: key, type: ownerRow, span: NO_SPAN };
  const ownKey: Expression = { kind: 'role', hops: [], type: ownerRow, span: NO_SPAN };
  const isOwner = same(ownKey, value);
  const hops = backwards(model, role);
  if (hops === null) throw new Error(`${role.name} cannot be walked backwards`);
  const [first, ...more] = hops.ways;
  // The key that stands in the row itself is compared as it is.
  if (first?.role.way.kind === 'key' && more.length === 0 && hops.filter === null)
    return same({ kind: 'role', hops: [first.role], type: ownerRow, span: NO_SPAN }, value);
  const last = hops.ways.length - 1;
  const ways = hops.ways.map((hop, index) => (index === last ? { ...hop, filter: both(hop.filter, isOwner) } : hop));
  const any: Expression = {
    kind: 'quantified',
    quantifier: 'any',
    hops: ways,
    test: null,
    type: { kind: 'boolean' },
    span: NO_SPAN,
  };
  return both(hops.filter, any) ?? any;
}

function same(left: Expression, right: Expression): Expression {
  return { kind: 'binary', operator: '=', left, right, type: { kind: 'boolean' }, span: NO_SPAN };
}

function both(left: Expression | null, right: Expression | null): Expression | null {
  if (left === null || right === null) return left ?? right;
  return { kind: 'binary', operator: 'and', left, right, type: { kind: 'boolean' }, span: NO_SPAN };
}

/**
 * The hops from a role's target back to its owner, and the condition on the target itself. Null where they cannot be
 * turned: behind a path's first row alone, or where a condition speaks of the pivot that was walked over.
 */
function backwards(model: Model, role: Role): { readonly ways: Hop[]; readonly filter: Expression | null } | null {
  const { way } = role;
  const turned = (back: Role['way'], entity: string, target: string): Role => {
    const knows = back.kind === 'key' ? 'at most one' : 'many';
    return { ...role, entity, owner: entity, target, way: back, knows, orderBy: [] };
  };
  switch (way.kind) {
    case 'child':
      return {
        ways: [{ role: turned({ kind: 'key', columns: way.columns, mark: way.mark }, way.holder, role.entity), filter: null }],
        filter: null,
      };
    case 'key': {
      const back = turned({ kind: 'child', holder: role.entity, columns: way.columns, mark: way.mark }, role.target, role.entity);
      return { ways: [{ role: back, filter: null }], filter: null };
    }
    case 'pivot': {
      const marked = way.marked === 'near' ? 'far' : 'near';
      const back = turned({ ...way, near: way.far, far: way.near, marked }, role.target, role.entity);
      return { ways: [{ role: back, filter: null }], filter: null };
    }
    case 'path': {
      if (way.first) return null;
      const hops = unfolded(way.hops);
      const ofPivot = (filter: Expression | null) =>
        filter !== null && someExpression(filter, ({ kind }) => kind === 'pivot field');
      if (hops.some(({ filter }) => ofPivot(filter))) return null;
      const ways: Hop[] = [];
      for (const [index, hop] of Array.from(hops.entries()).reverse()) {
        const back = backwards(model, hop.role);
        const [only, ...more] = back?.ways ?? [];
        if (only === undefined || more.length > 0) return null;
        ways.push({ role: only.role, filter: hops[index - 1]?.filter ?? null });
      }
      return { ways, filter: hops.at(-1)?.filter ?? null };
    }
  }
}

/** The rows behind a role that is ordered by what its pairs hold; null where it is ordered by the rows alone. */
function byPairs(model: Model, { role, owner, key }: WalkedRole, where: readonly Expression[]): Browsing['byPairs'] {
  const ofPair = role.orderBy.some(({ expression }) => someExpression(expression, ({ kind }) => kind === 'pivot field'));
  if (!ofPair) return null;
  const filter = where.reduce<Expression | null>((left, right) => both(left, right), null);
  const load = loadOf(role, { fields: [], pivotFields: [], where: filter });
  return { plan: planQuery(model, queryOf(owner.name, { where: [isRow(owner, key)], loads: [load] })), role: role.name };
}

function pivotPlan(model: Model, { role, owner, key }: WalkedRole, target: Entity, keys: readonly Wire[]): QueryPlan {
  const field = (entity: Entity): Expression => ({
    kind: 'role',
    hops: [],
    type: { kind: 'row', entity: entity.name },
    span: NO_SPAN,
  });
  const literal = (entity: Entity, value: Wire): Expression => ({
    kind: 'value',
    value,
    type: { kind: 'row', entity: entity.name },
    span: NO_SPAN,
  });
  const among: Expression = {
    kind: 'in',
    operand: field(target),
    items: keys.map((item) => literal(target, item)),
    negated: false,
    type: { kind: 'boolean' },
    span: NO_SPAN,
  };
  const isOwner: Expression = {
    kind: 'in',
    operand: field(owner),
    items: [literal(owner, key)],
    negated: false,
    type: { kind: 'boolean' },
    span: NO_SPAN,
  };
  const pivot = model.relations.get(role.relation);
  const isPivot = pivot?.kind === 'pivot' || pivot?.kind === 'polymorphic pivot';
  const pivotFields = isPivot ? pivot.fields.filter(({ hidden }) => !hidden).map(({ name }) => name) : [];
  const load = loadOf(role, { fields: [], pivotFields, where: among });
  return planQuery(model, queryOf(owner.name, { where: [isOwner], loads: [load] }), { titled: true });
}
