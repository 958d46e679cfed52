import type { Dialect, Policies } from '../dialects/index.js';
import { entityOf, hasTable, isPivot, type Model, type PivotEnd } from '../model/index.js';
import { placeOf, type TableName } from '../sql/index.js';
import { NO_SESSION, notesOnWalls, reachedInSession, type ScriptOfWalls, type WallsAsSql } from './walls-as-sql.js';

/**
 * Policies by which the database itself keeps rows: of each table that walls stand on, which rows are seen, which may be changed and
 * deleted, and what may become of them. Whoever owns the tables is not kept.
 */
export function policiesOfWalls(model: Model, dialect: Dialect, policies: Policies, walls: WallsAsSql): ScriptOfWalls {
  const seen = reachedInSession(model, dialect, walls, 'read');
  const changed = reachedInSession(model, dialect, walls, 'change');
  if (seen === null || changed === null) return NO_SESSION;
  const statements: string[] = [...dialect.atWork.made];
  const reads = new Map<string, TableName>();
  for (const [name, { keys }] of changed) {
    const entity = entityOf(model, name);
    if (!hasTable(entity)) continue;
    const columns = entity.key.fields.map(({ column, type }) => ({
      name: column.value,
      type: dialect.values.columnType(type),
    }));
    const read = seen.get(name)?.keys ?? null;
    const queries = { seen: read === null ? null : dialect.printQuery(read), changed: dialect.printQuery(keys) };
    statements.push(...policies.ofTable(entity.table.value, columns, queries));
    reads.set(placeOf(entity.table.value), entity.table.value);
  }
  for (const relation of model.relations.values()) {
    if (!isPivot(relation) || relation.entity !== null || relation.given) continue;
    const ends = (relation.kind === 'pivot' ? relation.ends : [relation.near]).flatMap((end) => seenEnd(model, seen, end));
    if (ends.length === 0) continue;
    statements.push(...policies.ofPairs(relation.table.value, ends));
    reads.set(placeOf(relation.table.value), relation.table.value);
  }
  return { statements, notes: notesOf(model, dialect), reads };
}

/** An end of pairs of which not all rows are seen: the columns that hold its key, and the table whose rows they are. */
function seenEnd(
  model: Model,
  seen: ReadonlyMap<string, unknown>,
  { entity: name, columns }: PivotEnd,
): readonly { readonly columns: readonly string[]; readonly of: TableName }[] {
  const entity = entityOf(model, name);
  const stored = hasTable(entity) ? entity : entityOf(model, entity.kinds?.root ?? name);
  if (!seen.has(stored.name)) return [];
  return [{ columns: columns.map(({ value }) => value), of: stored.table.value }];
}

/** What policies cannot say of walls. */
function notesOf(model: Model, dialect: Dialect): readonly string[] {
  return [
    ...notesOnWalls(model, dialect),
    'Whoever owns the tables is not kept by policies, nor is a superuser: let the application work as a role that has rights on the tables and owns none.',
    'A row that a policy hides and one that is not there are the same; a key that leads to it stays, and a foreign key tells whether there is such a row.',
    'What a delete takes along, or empties, by the rules of relations is not kept: the database does it for whoever deletes.',
    'A unique that a hidden row has is refused in the words of the database, with its values.',
  ];
}
