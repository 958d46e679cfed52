import { column, conjunctsOf, itemsOf, renamed, type SqlExpression, type TableName, type TriggerAction } from '../sql/index.js';
import { columnsIn } from './columns.js';

/**
 * What becomes of a row when the one that it points at is deleted. *refuses at the end*: of the statement, when the rows that go along
 * are gone. *stays*: nothing in the database looks after it, and it goes on pointing at what is no more.
 */
export type DeleteEffect = 'goes along' | 'is emptied' | 'gets its default' | 'refuses' | 'refuses at the end' | 'stays';

/** What a delete in one table does to the rows of another, or of the same. */
export interface DeleteEdge {
  /** The table whose row is deleted, and the one whose rows point at it. */
  readonly parent: TableName;
  readonly child: TableName;
  readonly effect: DeleteEffect;
  /** The child's columns that point. */
  readonly columns: readonly string[];
  /** What has to be the same for a row of the child to be meant: of its own columns, and of those of the parent's row, `old`. */
  readonly pairs: readonly { readonly held: SqlExpression; readonly key: SqlExpression }[];
  /** What else has to hold of the child's row, without a word on the parent's. */
  readonly where: readonly SqlExpression[];
  /** The name of the constraint or the trigger that does it; empty where it has none. */
  readonly by: string;
}

/** The source by which a condition of an edge speaks of the parent's row. */
export const PARENT = 'old';

/** An edge's condition taken apart; null where it is not of the form that a set of keys can answer. */
export function takenApart(condition: SqlExpression, child: TableName): Pick<DeleteEdge, 'pairs' | 'where'> | null {
  const pairs: { held: SqlExpression; key: SqlExpression }[] = [];
  const where: SqlExpression[] = [];
  for (const part of conjunctsOf(renamed(condition, child.name, null))) {
    const speaksOfParent = (one: SqlExpression) => columnsIn(one).some(({ source }) => source === PARENT);
    if (!speaksOfParent(part)) where.push(part);
    else {
      if (part.kind !== 'binary' || part.operator !== '=') return null;
      const [held, key] = speaksOfParent(part.left) ? [part.right, part.left] : [part.left, part.right];
      if (speaksOfParent(held) || columnsIn(key).some(({ source }) => source !== PARENT)) return null;
      pairs.push({ held, key });
    }
  }
  return pairs.length === 0 ? null : { pairs, where };
}

/** The edges that an action of a trigger on delete makes; null where what it does cannot be told beforehand. */
export function edgesOfAction(parent: TableName, action: TriggerAction, by: string): readonly DeleteEdge[] | null {
  const whole = action.kind === 'run' && action.change.kind === 'delete' ? action.change : null;
  const { where } = whole ?? { where: null };
  const { from } = where?.kind === 'in select' ? where.select.from : { from: null };
  if (whole === null || where?.kind !== 'in select' || from?.kind !== 'table') {
    const edge = edgeOfAction(parent, action, by);
    return edge === null ? null : [edge];
  }
  // The whole rows go of which a part, in a table of its own, points.
  const change = { kind: 'delete', from: from.table, where: where.select.where } as const;
  const part = edgeOfAction(parent, { kind: 'run', change }, by);
  const key = itemsOf(where.operand).flatMap((item) => (item.kind === 'column' ? [item.column] : []));
  const pairs = key.map((name) => ({ held: column(null, name), key: column(PARENT, name) }));
  const rest: DeleteEdge = { parent: from.table, child: whole.from, effect: 'goes along', columns: key, pairs, where: [], by };
  return part === null ? null : [part, rest];
}

function edgeOfAction(parent: TableName, action: TriggerAction, by: string): DeleteEdge | null {
  const edge = (child: TableName, effect: DeleteEffect, condition: SqlExpression | null): DeleteEdge | null => {
    const apart = condition === null ? null : takenApart(condition, child);
    if (apart === null) return null;
    const columns = apart.pairs.flatMap(({ held }) => columnsIn(held).map(({ column }) => column));
    return { parent, child, effect, columns, ...apart, by };
  };
  if (action.kind === 'refuse') {
    const { when } = action;
    if (when.kind !== 'exists' || when.negated || when.select.from.from.kind !== 'table') return null;
    return edge(when.select.from.from.table, 'refuses', when.select.where);
  }
  const { change } = action;
  if (change.kind === 'delete') {
    const { where } = change;
    // Where a table leads to itself, all that go are sought at once: one step of it is what the edge is.
    const step = where?.kind === 'in reach' ? where.reach.first.where : where;
    return edge(change.from, 'goes along', step);
  }
  const empties = change.set.every(({ value }) => value.kind === 'null');
  return edge(change.table, empties ? 'is emptied' : 'gets its default', change.where);
}
