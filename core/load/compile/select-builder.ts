import { entityOf, isNarrowed, type Mark, type Model, type Role } from '../../model/index.js';
import type { Access, AccessId, PlannedExpression } from '../../plan/index.js';
import {
  allOf,
  column,
  columnsOf,
  derived,
  equal,
  firstItemOf,
  type Join,
  lettingThrough,
  type Query,
  type Select,
  type Source,
  type SqlExpression,
  selectOf,
  tableSource,
  tupleOf,
} from '../../sql/index.js';
import type { EngineValues } from '../../values/index.js';
import { among, type Reading, readingOf, sameKey } from './readings.js';

/** Names for sources, none used twice in a statement. */
export class Aliases {
  private taken = new Set<string>();

  /** What is made with names of its own; where it comes to nothing, they are free again. */
  attempt<Made>(make: () => Made | null): Made | null {
    const before = new Set(this.taken);
    const made = make();
    if (made === null) this.taken = before;
    return made;
  }

  /** The first of the wishes that is free, or the last with a number behind it. */
  claim(...wishes: readonly string[]): string {
    const free = wishes.find((wish) => !this.taken.has(wish.toLowerCase()));
    let name = free ?? wishes.at(-1) ?? 'row';
    const stem = name;
    for (let number = 2; this.taken.has(name.toLowerCase()); number++) name = `${stem}_${number}`;
    this.taken.add(name.toLowerCase());
    return name;
  }
}

/** The part of a plan's context that a select is built with. */
export interface BuilderSite {
  readonly model: Model;
  readonly values: EngineValues;
  readonly madeHere: boolean;
  readonly kept: ReadonlySet<string>;
  access(id: AccessId): Access;
  /** Whether walls stand on the rows of an access. */
  isWalled(id: AccessId): boolean;
  /** The condition of the walls on a row that is joined to others; null where there is none. */
  wallOn(builder: SelectBuilder, access: Access, alias: string): SqlExpression | null;
  /** The key of the one row that a path leads to, from a row at hand. */
  firstKey(builder: SelectBuilder, alias: string, access: RoleAccess): SqlExpression;
}

/** An access to the rows behind a role. */
export type RoleAccess = Access & { readonly over: Extract<Access['over'], { kind: 'role' }> };

/** An access that surely is one over a role. */
export function overRole(access: Access): RoleAccess {
  const { over } = access;
  if (over.kind !== 'role') throw new Error(`access ${access.id} is over no role`);
  return { ...access, over };
}

/** Where the rows of an access stand in a select. */
export interface JoinedRows {
  readonly alias: string;
  /** The database keeps that there is such a row. */
  readonly sure: boolean;
}

type From = { readonly reading: Reading } | { readonly source: Source };

/**
 * Gathers one select. A to-one hop that several conditions walk is joined once; no row is ever lost over a hop,
 * so a hop is an inner join only where the database keeps that its target is there.
 */
export class SelectBuilder {
  readonly conditions: (SqlExpression | null)[] = [];
  /** What is counted for the rows of this select, by the part of the plan that counts it. */
  readonly counts = new Map<PlannedExpression, SqlExpression>();
  private from: From | null = null;
  private readonly joins: { kind: Join['kind']; from: From; on: SqlExpression; isList?: boolean }[] = [];
  private readonly places = new Map<AccessId, JoinedRows>();
  private readonly besides = new Map<string, string>();
  private readonly readings = new Map<string, Reading>();
  private readonly sure = new Map<string, boolean>();

  constructor(
    readonly site: BuilderSite,
    readonly aliases: Aliases,
  ) {}

  get model(): Model {
    return this.site.model;
  }

  /** Reads an entity's rows first; what keeps out rows of other kinds is a condition. */
  readFrom(entity: string, alias: string, anchor: string = entity): void {
    const reading = this.open(entity, alias, anchor, true);
    this.from = { reading };
    if (reading.condition !== null) this.conditions.push(reading.condition());
  }

  /** Reads rows first in a way of their own. */
  readAs(reading: Reading): void {
    this.readings.set(reading.alias, reading);
    this.sure.set(reading.alias, true);
    this.from = { reading };
    if (reading.condition !== null) this.conditions.push(reading.condition());
  }

  /** Reads another source first: a pivot, or a select. */
  startFrom(source: Source): void {
    this.from = { source };
  }

  /** Whether anything is joined to what is read first. */
  get joinsAny(): boolean {
    return this.joins.length > 0;
  }

  get started(): boolean {
    return this.from !== null;
  }

  /**
   * Joins an entity's rows.
   *
   * @param on the condition, once the alias stands for the entity
   */
  joinEntity(
    kind: Join['kind'],
    entity: string,
    alias: string,
    on: () => SqlExpression,
    { anchor = entity, sure = kind === 'inner' }: { readonly anchor?: string; readonly sure?: boolean } = {},
  ): void {
    const reading = this.open(entity, alias, anchor, sure);
    // First the condition: what it needs beside other rows has to be joined before.
    const own = on();
    this.joins.push({ kind, from: { reading }, on: allOf([own, reading.condition?.() ?? null]) ?? own });
  }

  join(kind: Join['kind'], source: Source, on: SqlExpression): void {
    this.joins.push({ kind, from: { source }, on });
  }

  /** Joins a list that each row has, or none: it takes no row away, and brings none. */
  joinList(source: Source, on: SqlExpression): void {
    this.joins.push({ kind: 'left', from: { source }, on, isList: true });
  }

  /** Columns that an entity declares, of the row under an alias. */
  columns(alias: string | null, owner: string, names: readonly string[]): SqlExpression {
    const reading = alias === null ? undefined : this.readings.get(alias);
    if (reading === undefined) return columnsOf(alias, names);
    return tupleOf(names.map((name) => reading.column(owner, name)));
  }

  column(alias: string | null, owner: string, name: string): SqlExpression {
    return this.columns(alias, owner, [name]);
  }

  reading(alias: string): Reading {
    const reading = this.readings.get(alias);
    if (reading === undefined) throw new Error(`nothing is read as ${alias}`);
    return reading;
  }

  /** The key of the row under an alias. */
  key(alias: string): SqlExpression {
    const { entity } = this.reading(alias);
    const { key, kinds } = entityOf(this.model, entity);
    const anchor = this.readings.get(alias);
    const owner = kinds?.storage.kind === 'separate tables' ? kinds.root : null;
    return owner === null || anchor === undefined ? columnsOf(alias, key.columns) : this.columns(alias, owner, key.columns);
  }

  /** The condition that the row under an alias is of one of these kinds. */
  isKind(alias: string, kinds: readonly string[]): SqlExpression {
    const reading = this.reading(alias);
    const all = entityOf(this.model, reading.entity).kinds;
    const root = all === null ? null : entityOf(this.model, all.root);
    const wanted = (root?.kinds?.concrete ?? []).filter(({ entity }) => kinds.includes(entity));
    const mark = reading.mark?.() ?? null;
    if (mark !== null && mark.kind !== 'string') return among(mark, reading.marksOf(wanted));
    // Of one kind alone, whatever is there is of it; but there may be nothing.
    if (mark !== null && !reading.marksOf(wanted).includes(mark.value)) return { kind: 'boolean', value: false };
    return { kind: 'is null', operand: firstItemOf(this.key(alias)), negated: true };
  }

  /** States where the rows of an access stand. */
  put(access: Access, alias: string): void {
    this.places.set(access.id, { alias, sure: true });
  }

  /** Where the rows of an access stand; hops to it are joined with the first question for it. */
  at(id: AccessId): JoinedRows {
    const known = this.places.get(id);
    if (known !== undefined) return known;
    const access = overRole(this.site.access(id));
    const { role, from } = access.over;
    const here = this.at(from);
    const target = entityOf(this.model, role.target);
    const alias = this.aliases.claim(target.table.value.name, role.name, `${here.alias}_${role.name}`);
    const sure = here.sure && this.isThere(role) && !this.site.isWalled(id);
    const place = { alias, sure };
    this.places.set(id, place);
    const on = () => {
      const behind = this.behind(access, alias, { builder: this, alias: here.alias });
      return allOf([behind, this.site.wallOn(this, access, alias)]) ?? behind;
    };
    this.joinEntity(sure ? 'inner' : 'left', role.target, alias, on, { anchor: anchorOf(this.model, role), sure });
    return place;
  }

  /** Does the database keep that there is a row behind a role? */
  isThere(role: Role): boolean {
    const { model, madeHere, kept } = this.site;
    if (role.way.kind !== 'key') return false;
    if (madeHere) return role.knows === 'one';
    return kept.has(role.relation) && role.way.mark === null && !isNarrowed(model, role);
  }

  /**
   * The condition under which the row under an alias stands behind a step from another. That one may be of a select around
   * this, which then has what the key stands in.
   */
  behind(step: RoleAccess, alias: string, from: { readonly builder: SelectBuilder; readonly alias: string }): SqlExpression {
    const { role } = step.over;
    const { way } = role;
    switch (way.kind) {
      case 'key':
        return from.builder.pointsTo(role, from.alias, this.key(alias));
      case 'child':
        return this.holds(way, alias, from.builder.keyAsHeld(role, from.alias));
      case 'path':
        return equal(this.key(alias), this.site.firstKey(from.builder, from.alias, step));
      case 'pivot':
        throw new Error(`${role.name} leads over a pivot, which needs a source of its own`);
    }
  }

  /**
   * The key that a row holds over a role; where the column may hold keys of other entities, null unless it is one of the
   * role's target.
   */
  heldKey(role: Role, alias: string): SqlExpression {
    const { way } = role;
    if (way.kind !== 'key') throw new Error(`${role.entity} holds no key over ${role.name}`);
    const held = this.columns(alias, role.entity, way.columns);
    if (way.mark === null) return held;
    return this.marked(way.mark, this.column(alias, role.entity, way.mark.column), role.target, held);
  }

  /** The condition that the row under an alias points over a role at the row of this key. */
  pointsTo(role: Role, alias: string, key: SqlExpression): SqlExpression {
    const { way } = role;
    // Told apart by a condition of its own, the key is found by its index.
    if (way.kind !== 'key' || way.mark === null || way.mark.held !== null) return equal(key, this.heldKey(role, alias));
    const held = equal(key, this.columns(alias, role.entity, way.columns));
    return allOf([held, among(this.column(alias, role.entity, way.mark.column), way.mark.values)]) ?? held;
  }

  /** The condition that the row under an alias holds this key, and says that it is one of the rows that it is sought for. */
  holds({ holder, columns, mark }: Extract<Role['way'], { kind: 'child' }>, alias: string, key: SqlExpression): SqlExpression {
    const held = equal(this.columns(alias, holder, columns), key);
    if (mark === null) return held;
    return allOf([among(this.column(alias, holder, mark.column), mark.values), held]) ?? held;
  }

  /** The key of a role's target on the pivot; null on a pair with a row of another entity. */
  farKey(role: Role, pivot: string): SqlExpression {
    const { way } = role;
    if (way.kind !== 'pivot') throw new Error(`${role.name} leads over no pivot`);
    const held = columnsOf(pivot, way.far);
    if (way.mark === null || way.marked === 'near' || way.mark.held === null) return held;
    return this.marked(way.mark, column(pivot, way.mark.column), role.target, held);
  }

  /** What keeps out the pairs with rows of other entities. */
  pairCondition({ way }: Role, pivot: string): SqlExpression | null {
    return way.kind === 'pivot' && way.mark !== null ? among(column(pivot, way.mark.column), way.mark.values) : null;
  }

  /** A row's own key, as the rows, or pairs, behind a role hold it. */
  keyAsHeld(role: Role, alias: string): SqlExpression {
    const { way } = role;
    const own = this.key(alias);
    const typed = way.kind === 'child' || (way.kind === 'pivot' && way.marked === 'near');
    if (!typed || way.mark === null || way.mark.held === null) return own;
    return this.site.values.toText(entityOf(this.model, role.entity).key.type, own);
  }

  private marked({ values, held }: Mark, mark: SqlExpression, target: string, key: SqlExpression): SqlExpression {
    const { type } = entityOf(this.model, target).key;
    const then = held === null ? key : this.site.values.fromText(type, key);
    return { kind: 'case', branches: [{ when: among(mark, values), then }], otherwise: null };
  }

  build(
    parts: Pick<Select, 'columns' | 'orderBy' | 'limit' | 'offset'>,
    { lists = true }: { readonly lists?: boolean } = {},
  ): Select {
    const { from } = this;
    if (from === null) throw new Error('a select reads from something');
    const joins = this.joins
      .filter(({ isList }) => lists || isList !== true)
      .map((join) => ({ kind: join.kind, source: sourceOf(join.from), on: join.on }));
    return selectOf(sourceOf(from), {
      ...parts,
      joins,
      where: allOf(this.conditions.map((condition) => condition && lettingThrough(condition))),
    });
  }

  private open(entity: string, alias: string, anchor: string, sure: boolean): Reading {
    const { model, values } = this.site;
    const site = {
      model,
      values,
      madeHere: this.site.madeHere,
      beside: (at: string, name: string, kind: Join['kind']) => this.beside(at, name, kind),
      claim: (wish: string) => this.aliases.claim(wish),
    };
    const reading = readingOf(site, entity, alias, anchor);
    this.readings.set(alias, reading);
    this.sure.set(alias, sure);
    return reading;
  }

  private beside(alias: string, name: string, kind: Join['kind']): string {
    const path = `${alias} beside ${name}`;
    const known = this.besides.get(path);
    if (known !== undefined) return known;
    const entity = entityOf(this.model, name);
    const sure = kind === 'inner' && (this.sure.get(alias) ?? false) && this.site.madeHere;
    const own = this.aliases.claim(entity.table.value.name, `${alias}_${entity.table.value.name}`);
    this.besides.set(path, own);
    this.joins.push({
      kind: sure ? 'inner' : 'left',
      from: { source: tableSource(entity.table.value, own) },
      on: sameKey(entity, own, alias),
    });
    return own;
  }
}

function sourceOf(from: From): Source {
  return 'reading' in from ? from.reading.source() : from.source;
}

/** The entity whose table is joined first for a role's target: the one that holds the columns by which it is sought. */
export function anchorOf(model: Model, { way, target }: Role): string {
  const joined = entityOf(model, target).kinds?.storage.kind === 'joined tables';
  return joined && way.kind === 'child' ? way.holder : target;
}

/**
 * A pivot as a source: its table, or for a symmetric one both readings of each pair, as two index searches. Without a
 * condition to seek by, all pairs are read.
 */
export function pivotSource(
  role: Role,
  alias: string,
  fields: readonly string[],
  seek: ((near: SqlExpression) => SqlExpression | null) | null,
): { source: Source; sought: boolean } {
  if (role.way.kind !== 'pivot') throw new Error(`${role.name} leads over no pivot`);
  const { table, near, far, symmetric } = role.way;
  if (!symmetric) return { source: tableSource(table, alias), sought: false };
  const reading = (one: readonly string[], other: readonly string[]): Select =>
    selectOf(tableSource(table), {
      columns: [
        ...one.map((name, index) => ({ expression: column(null, name), as: near[index] ?? name })),
        ...other.map((name, index) => ({ expression: column(null, name), as: far[index] ?? name })),
        ...fields.map((field) => ({ expression: column(null, field), as: field })),
      ],
      where: seek === null ? null : seek(columnsOf(null, one)),
    });
  const select: Query = { kind: 'union all', selects: [reading(near, far), reading(far, near)] };
  return { source: derived(select, alias), sought: seek !== null };
}
