import type { ReachableRows } from '../audit/index.js';
import type { Dialect } from '../dialects/index.js';
import { entityOf, hasTable, type Model } from '../model/index.js';
import {
  allOf,
  anyOf,
  columnsOf,
  type Select,
  type SqlExpression,
  selectOf,
  type TableName,
  tableSource,
  withGiven,
} from '../sql/index.js';

/** A wall on the rows of one entity, as SQL in which what it asks of whoever is at work are parameters. */
export interface WallAsSql {
  /** It keeps rows from being read; else from being changed alone. */
  readonly reads: boolean;
  /** The keys of the rows that its lines let through. */
  readonly keys: Select;
  /** It asks who is at work, so that it lets nothing through where nobody is. */
  readonly asksWho: boolean;
  /** The keys of the actors that are free of it, one select for each condition. */
  readonly free: readonly Select[];
}

/** What a parameter of those selects is: the actor's key, or a value over the actor's row, as a select of all such rows. */
export type AskedAsSql = { readonly kind: 'key' } | { readonly kind: 'value'; readonly select: Select };

/** The walls of a text, each as SQL. */
export interface WallsAsSql {
  /** By the entity that they stand on. */
  readonly walls: ReadonlyMap<string, readonly WallAsSql[]>;
  /** What they ask of the actor, by the names of their parameters. */
  readonly asked: ReadonlyMap<string, AskedAsSql>;
}

const ROWS = 'rows_of';

/**
 * The keys of the rows that whoever is at work in a session reaches, of each entity that walls stand on; null where a session
 * cannot say who it is, by a key of one field.
 *
 * @param wanted to read rows, or to change them, which asks for more
 */
export function reachedInSession(
  model: Model,
  dialect: Dialect,
  { walls, asked }: WallsAsSql,
  wanted: 'read' | 'change',
): ReachableRows | null {
  const actor = model.actor === null ? null : entityOf(model, model.actor);
  if (actor === null || actor.key.fields.length !== 1) return null;
  const who = dialect.values.fromText(actor.key.type, { kind: 'written', sql: dialect.atWork.asked });
  const somebody: SqlExpression = { kind: 'is null', operand: who, negated: true };
  const given = new Map(
    Array.from(asked, ([name, one]): [string, SqlExpression] => [
      name,
      one.kind === 'key' ? who : { kind: 'scalar', select: ofActor(one.select, actor.key.columns, who) },
    ]),
  );
  const letsThrough = ({ keys, asksWho, free }: WallAsSql, key: SqlExpression): SqlExpression => {
    const among: SqlExpression = { kind: 'in select', operand: key, select: withGiven(keys, given) };
    const lets = asksWho ? (allOf([somebody, among]) ?? among) : among;
    const frees = free.map((select): SqlExpression => ({ kind: 'in select', operand: who, select: withGiven(select, given) }));
    return anyOf([lets, ...frees]) ?? lets;
  };
  return new Map(
    Array.from(walls).flatMap(([name, all]) => {
      const own = all.filter(({ reads }) => reads || wanted === 'change');
      if (own.length === 0) return [];
      const entity = entityOf(model, name);
      const table = hasTable(entity) ? entity : entityOf(model, entity.kinds?.root ?? name);
      const columns = entity.key.columns.map((column) => ({ expression: columnsOf(ROWS, [column]), as: column }));
      const where = allOf(own.map((wall) => letsThrough(wall, columnsOf(ROWS, entity.key.columns))));
      return [[name, { keys: selectOf(tableSource(table.table.value, ROWS), { columns, where }), parameters: {} }] as const];
    }),
  );
}

/** The same of the actor's own row alone. */
function ofActor(select: Select, key: readonly string[], who: SqlExpression): Select {
  const isActor: SqlExpression = { kind: 'binary', operator: '=', left: columnsOf(select.from.alias, key), right: who };
  return { ...select, orderBy: [], where: allOf([select.where, isActor]) };
}

/** A script that a database holds walls by. */
export interface ScriptOfWalls {
  /** Statements in their order, none with its end. */
  readonly statements: readonly string[];
  /** What it cannot say, in words. */
  readonly notes: readonly string[];
  /** What is read in the place of each table of which it keeps rows, by the table's place. */
  readonly reads: ReadonlyMap<string, TableName>;
}

export const NO_SESSION: ScriptOfWalls = {
  statements: [],
  reads: new Map(),
  notes: ['A session can say who is at work by a key of one field alone.'],
};

/** What neither views nor policies can say of walls. */
export function notesOnWalls({ walls, queries }: Model, { atWork }: Dialect): readonly string[] {
  const pins = Array.from(walls.values())
    .filter(({ pins: own }) => own.size > 0)
    .map(({ name }) => name);
  const lifts = Array.from(queries.values()).filter(({ lifts: own }) => own.length > 0);
  return [
    `A session says who is at work: ${atWork.said}. Whoever may say it may say anybody: let the application say it, and nobody else.`,
    ...(pins.length > 0 ? [`Nothing is pinned, as ${pins.join(', ')} would have it.`] : []),
    ...(lifts.length > 0 ? [`Nothing is seen over a wall, as ${lifts.map(({ name }) => name).join(', ')} would have it.`] : []),
  ];
}
