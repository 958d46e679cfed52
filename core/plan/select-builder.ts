import { entityOf, type Model, type Role } from '../model/index.js';
import {
  allOf,
  column,
  columnsOf,
  equal,
  type Join,
  type Query,
  type Select,
  type Source,
  type SqlExpression,
} from '../sql/index.js';

/** Names for sources, none used twice in a statement. */
export class Aliases {
  private readonly taken = new Set<string>();

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

/**
 * Gathers one select. A to-one hop that several conditions walk is joined once; no row is ever lost over a hop,
 * so a hop is an inner join only where the database keeps that its target is there.
 */
export class SelectBuilder {
  readonly conditions: (SqlExpression | null)[] = [];
  private readonly joins: Join[] = [];
  private readonly hopAliases = new Map<string, { alias: string; sure: boolean }>();

  constructor(
    readonly model: Model,
    readonly aliases: Aliases,
    private readonly from: Source,
    private readonly keysHold: boolean,
  ) {}

  join(join: Join): void {
    this.joins.push(join);
  }

  /** The alias of the row behind the hops, and whether there surely is one. */
  walk(start: string, hops: readonly Role[]): { alias: string; sure: boolean } {
    let here = { alias: start, sure: true };
    let path = start;
    for (const role of hops) {
      path = `${path}.${role.name}`;
      const known = this.hopAliases.get(path);
      if (known !== undefined) {
        here = known;
        continue;
      }
      const target = entityOf(this.model, role.target);
      const alias = this.aliases.claim(target.table.value.name, role.name, `${here.alias}_${role.name}`);
      const sure = here.sure && this.keysHold && role.knows === 'one' && role.way.kind === 'key';
      this.joins.push({
        kind: sure ? 'inner' : 'left',
        source: tableSource(this.model, role.target, alias),
        on: hopCondition(this.model, role, here.alias, alias),
      });
      here = { alias, sure };
      this.hopAliases.set(path, here);
    }
    return here;
  }

  build(parts: Pick<Select, 'columns' | 'orderBy' | 'limit' | 'offset'>): Select {
    return { kind: 'select', ...parts, from: this.from, joins: this.joins, where: allOf(this.conditions) };
  }
}

/** An entity's table under an alias. */
export function tableSource(model: Model, entity: string, alias: string): Source {
  return { from: { kind: 'table', table: entityOf(model, entity).table.value }, alias, entity };
}

/**
 * A pivot as a source: its table, or for a symmetric one both readings of each pair, as two index searches. Without a
 * condition to seek by, all pairs are read.
 */
export function pivotSource(
  role: Role,
  alias: string,
  fields: readonly string[],
  seek: ((near: SqlExpression) => SqlExpression) | null,
): { source: Source; sought: boolean } {
  if (role.way.kind !== 'pivot') throw new Error(`${role.name} leads over no pivot`);
  const { table, near, far, symmetric } = role.way;
  if (!symmetric) return { source: { from: { kind: 'table', table }, alias, entity: null }, sought: false };
  const reading = (one: readonly string[], other: readonly string[]): Select => ({
    kind: 'select',
    columns: [
      ...one.map((name, index) => ({ expression: column(null, name), as: near[index] ?? name })),
      ...other.map((name, index) => ({ expression: column(null, name), as: far[index] ?? name })),
      ...fields.map((field) => ({ expression: column(null, field), as: field })),
    ],
    from: { from: { kind: 'table', table }, alias: table.name, entity: null },
    joins: [],
    where: seek === null ? null : seek(columnsOf(null, one)),
    orderBy: [],
    limit: null,
    offset: null,
  });
  const select: Query = { kind: 'union all', selects: [reading(near, far), reading(far, near)] };
  return { source: { from: { kind: 'select', select }, alias, entity: null }, sought: seek !== null };
}

/** The condition under which a row is the target of another over a key column. */
export function hopCondition(model: Model, role: Role, from: string, to: string): SqlExpression {
  const target = entityOf(model, role.target);
  const owner = entityOf(model, role.entity);
  switch (role.way.kind) {
    case 'key':
      return equal(columnsOf(to, target.key.columns), columnsOf(from, role.way.columns));
    case 'child':
      return equal(columnsOf(to, role.way.columns), columnsOf(from, owner.key.columns));
    case 'pivot':
      throw new Error(`${role.name} leads over a pivot, which needs a source of its own`);
  }
}
