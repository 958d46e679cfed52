import { type ColumnsOfTables, partsWithinReach, type Reachable } from '../audit/index.js';
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
  readonly wall: string;
  /** The keys of the rows that its lines let through. */
  readonly keys: Select;
  /** It asks who is at work, so that it lets nothing through where nobody is. */
  readonly asksWho: boolean;
  /** The keys of the actors that are free of it, one select for each condition. */
  readonly free: readonly Select[];
}

/** What a parameter of those selects is: the actor's key, or a value over the actor's row, as a select of all such rows. */
export type AskedAsSql = { readonly kind: 'key' } | { readonly kind: 'value'; readonly select: Select };

/** The walls of a text as views. */
export interface ViewsOfWalls {
  /** Statements in their order, none with its end. */
  readonly statements: readonly string[];
  /** What the views cannot say, in words. */
  readonly notes: readonly string[];
}

/** What the name of each view begins with; what is behind it is the table's. */
export const VIEW_PREFIX = 'seen_';

/**
 * A view for each table of which walls keep rows, or that holds keys of such rows: what a session may see of it that has said who is
 * at work. No weaving is needed where only the views are read.
 *
 * @param walls by the entity that they stand on
 * @param asked what walls ask of the actor, by the names of their parameters
 */
export function viewsOfWalls(
  model: Model,
  dialect: Dialect,
  tables: ColumnsOfTables,
  walls: ReadonlyMap<string, readonly WallAsSql[]>,
  asked: ReadonlyMap<string, AskedAsSql>,
): ViewsOfWalls {
  const actor = model.actor === null ? null : entityOf(model, model.actor);
  if (actor === null || actor.key.fields.length !== 1)
    return { statements: [], notes: ['A session can say who is at work by a key of one field alone.'] };
  const who = dialect.values.fromText(actor.key.type, { kind: 'written', sql: dialect.atWork.asked });
  const given = new Map(
    Array.from(asked, ([name, one]): [string, SqlExpression] => [
      name,
      one.kind === 'key' ? who : { kind: 'scalar', select: ofActor(one.select, actor.key.columns, who) },
    ]),
  );
  const reachable = new Map<string, Reachable>();
  for (const [name, own] of walls) {
    const entity = entityOf(model, name);
    const conditions = own.map(({ keys, asksWho, free }): SqlExpression => {
      const among: SqlExpression = {
        kind: 'in select',
        operand: columnsOf(ROWS, entity.key.columns),
        select: withGiven(keys, given),
      };
      const somebody: SqlExpression = { kind: 'is null', operand: who, negated: true };
      const lets = asksWho ? (allOf([somebody, among]) ?? among) : among;
      const frees = free.map((select): SqlExpression => ({ kind: 'in select', operand: who, select: withGiven(select, given) }));
      return anyOf([lets, ...frees]) ?? lets;
    });
    const root = hasTable(entity) ? entity : entityOf(model, entity.kinds?.root ?? name);
    const columns = entity.key.columns.map((column) => ({
      expression: columnsOf(ROWS, [column]),
      as: column,
    }));
    reachable.set(name, {
      keys: selectOf(tableSource(root.table.value, ROWS), { columns, where: allOf(conditions) }),
      parameters: {},
    });
  }
  const parts = partsWithinReach(model, tables, reachable, 'declared ones stay');
  const views = Array.from(parts.values(), (select) => {
    const table = tableIn(select);
    return `${dialect.atWork.view} ${dialect.printQuery(selectOf(tableSource(viewOf(table)))).replace(/^select\s+from\s+/, '')} as\n${dialect.printQuery(select)}`;
  });
  return { statements: [...dialect.atWork.made, ...views], notes: notesOf(model, dialect) };
}

const ROWS = 'rows_of';

/** The view of a table: beside it, under a name of its own. */
function viewOf({ schema, name }: TableName): TableName {
  return { schema, name: `${VIEW_PREFIX}${name}` };
}

function tableIn({ from }: Select): TableName {
  if (from.from.kind !== 'table') throw new Error('a view is of a table');
  return from.from.table;
}

/** The same of the actor's own row alone. */
function ofActor(select: Select, key: readonly string[], who: SqlExpression): Select {
  const isActor: SqlExpression = { kind: 'binary', operator: '=', left: columnsOf(select.from.alias, key), right: who };
  return { ...select, orderBy: [], where: allOf([select.where, isActor]) };
}

/** What a view cannot say of walls. */
function notesOf({ walls, queries }: Model, { atWork }: Dialect): readonly string[] {
  const all = Array.from(walls.values());
  const onWrite = all.filter(({ reads }) => !reads).map(({ name }) => name);
  const pins = all.filter(({ pins: own }) => own.size > 0).map(({ name }) => name);
  const lifts = Array.from(queries.values()).filter(({ lifts: own }) => own.length > 0);
  return [
    `A session says who is at work: ${atWork.said}. Whoever may say it may say anybody: let the application say it, and nobody else.`,
    'Views are read instead of the tables: give rights on them, and none on the tables, to those who are to be kept.',
    'A row that a wall hides and one that is not there are the same to a view: its key is empty where a role leads to it, and a key that is declared as a field stays.',
    'What is written is not kept by a view: neither what may be changed, nor what it may become.',
    ...(onWrite.length > 0 ? [`Walls on write alone are left out: ${onWrite.join(', ')}.`] : []),
    ...(pins.length > 0 ? [`Nothing is pinned: ${pins.join(', ')} would.`] : []),
    ...(lifts.length > 0
      ? [
          `No view sees over a wall, as ${lifts.map(({ name }) => name).join(', ')} do${lifts.length === 1 ? 'es' : ''}: ask the tables there.`,
        ]
      : []),
  ];
}
