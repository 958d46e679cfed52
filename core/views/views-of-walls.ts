import { type ColumnsOfTables, partsWithinReach } from '../audit/index.js';
import type { Dialect } from '../dialects/index.js';
import type { Model } from '../model/index.js';
import { type Select, selectOf, type TableName, tableSource } from '../sql/index.js';
import { NO_SESSION, notesOnWalls, reachedInSession, type ScriptOfWalls, type WallsAsSql } from './walls-as-sql.js';

/** What the name of each view begins with; what is behind it is the table's. */
export const VIEW_PREFIX = 'seen_';

/**
 * A view for each table of which walls keep rows, or that holds keys of such rows: what a session may see of it that has said who is
 * at work. No weaving is needed where only the views are read.
 */
export function viewsOfWalls(model: Model, dialect: Dialect, tables: ColumnsOfTables, walls: WallsAsSql): ScriptOfWalls {
  const reachable = reachedInSession(model, dialect, walls, 'read');
  if (reachable === null) return NO_SESSION;
  const parts = partsWithinReach(model, tables, reachable, 'declared ones stay');
  const views = Array.from(
    parts.values(),
    (select) => `${dialect.atWork.view} ${nameOf(dialect, viewOf(tableIn(select)))} as\n${dialect.printQuery(select)}`,
  );
  const reads = new Map(Array.from(parts, ([place, select]) => [place, viewOf(tableIn(select))]));
  return { statements: [...dialect.atWork.made, ...views], notes: notesOf(model, dialect), reads };
}

/** The view of a table: beside it, under a name of its own. */
function viewOf({ schema, name }: TableName): TableName {
  return { schema, name: `${VIEW_PREFIX}${name}` };
}

function tableIn({ from }: Select): TableName {
  if (from.from.kind !== 'table') throw new Error('a view is of a table');
  return from.from.table;
}

/** A table's name as SQL has it: where it stands behind `from`. */
export function nameOf(dialect: Dialect, table: TableName): string {
  return dialect.printQuery(selectOf(tableSource(table))).replace(/^select\s+from\s+/, '');
}

/** What a view cannot say of walls. */
function notesOf(model: Model, dialect: Dialect): readonly string[] {
  const onWrite = Array.from(model.walls.values()).filter(({ reads }) => !reads);
  return [
    ...notesOnWalls(model, dialect),
    'Views are read instead of the tables: give rights on them, and none on the tables, to those who are to be kept.',
    'A row that a wall hides and one that is not there are the same to a view: its key is empty where a role leads to it, and a key that is declared as a field stays.',
    'What is written is not kept by a view: neither what may be changed, nor what it may become.',
    ...(onWrite.length > 0 ? [`Walls on write alone are left out: ${onWrite.map(({ name }) => name).join(', ')}.`] : []),
  ];
}
