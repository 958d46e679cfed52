import { type DeleteEdge, type DeleteGraph, goesItself, goingFrom, meantBy, type Roots } from '../cascades/index.js';
import { fetch, type Output } from '../load/index.js';
import { entityOf, hasTable, type Model } from '../model/index.js';
import {
  allOf,
  anyOf,
  column,
  placeOf,
  type Select,
  type SqlExpression,
  selectOf,
  type TableName,
  tableSource,
} from '../sql/index.js';
import { type BoundParameter, joinKey, type ValueType, type Wire } from '../values/index.js';
import { SYSTEM } from '../walls/index.js';
import { deletedFrom, deleteRoots } from './delete-roots.js';
import { asked, type Doing, MOST_ROWS, refuse } from './doing.js';
import { outOfReach } from './reach.js';
import type { RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';

/**
 * Refuses a delete that would take along, or empty, rows which whoever is at work may not write: the database's own cascades know
 * no actor. It is told how many there are, and never which.
 *
 * @returns the rows that it empties: they have to stay in reach
 */
export function* refuseReachingBehind(
  doing: Doing,
  graph: DeleteGraph | null,
  rows: readonly RowAt[],
): CommandWork<readonly RowAt[]> {
  const { actor, dialect, model } = doing;
  if (actor === SYSTEM || rows.length === 0) return [];
  if (graph === null) throw new Error('whoever deletes on behalf of somebody says what the database does then');
  const { roots, parameters } = deleteRoots(dialect, model, rows);
  const going = goingFrom(graph, roots, dialect.recursesOnce);
  const walled = new Set(actor.walls.flatMap(({ conditions }) => Array.from(conditions.keys())));
  const emptied: RowAt[] = [];
  let behind = 0;
  for (const [place, { table, goes, touched }] of reachedTables(graph, going.names, roots)) {
    const own = goesItself(graph, going, roots, table);
    const stays: readonly SqlExpression[] = own === null ? [] : [{ kind: 'not', operand: own }];
    const along = anyOf(goes.map((edge) => meantBy(edge, goneAs(going.names, edge))));
    const empties = allOf(
      [anyOf(touched.map((edge) => meantBy(edge, goneAs(going.names, edge)))), ...stays].filter((one) => one !== null),
    );
    for (const entity of entitiesIn(model, table)) {
      if (!walled.has(entity)) continue;
      const find = (where: SqlExpression | null) => keysWhere(doing, { entity, table, where, tables: going.tables, parameters });
      const meant = new Set(
        rows.filter((row) => placeOf(deletedFrom(model, row.entity)) === place).map(({ key }) => String(key)),
      );
      const gone = (yield* find(goes.length === 0 ? null : along)).filter((key) => !meant.has(String(key)));
      const left = yield* find(touched.length === 0 ? null : empties);
      behind += (yield* outOfReach(doing, entity, gone)) + (yield* outOfReach(doing, entity, left));
      emptied.push(...left.map((key) => ({ entity, key })));
    }
  }
  if (behind > 0)
    refuse(
      `The delete would reach ${behind === 1 ? '1 row' : `${behind.toLocaleString('en')} rows`} that whoever is at work may not change.`,
      'wall',
    );
  return emptied;
}

function goneAs(names: ReadonlyMap<string, string>, { parent }: DeleteEdge): string {
  return names.get(placeOf(parent)) ?? '';
}

/** A table whose rows a delete takes along, or empties, and by which edges. */
interface Reached {
  readonly table: TableName;
  readonly goes: DeleteEdge[];
  readonly touched: DeleteEdge[];
}

function reachedTables(
  { edges }: DeleteGraph,
  names: ReadonlyMap<string, string>,
  roots: readonly Roots[],
): ReadonlyMap<string, Reached> {
  const tables = new Map<string, Reached>();
  const at = (table: TableName): Reached => {
    const known = tables.get(placeOf(table)) ?? { table, goes: [], touched: [] };
    tables.set(placeOf(table), known);
    return known;
  };
  for (const { table } of roots) at(table);
  for (const edge of edges) {
    if (!names.has(placeOf(edge.parent))) continue;
    if (edge.effect === 'goes along') at(edge.child).goes.push(edge);
    else if (edge.effect === 'is emptied' || edge.effect === 'gets its default') at(edge.child).touched.push(edge);
  }
  return tables;
}

/** The entities whose rows stand in a table as rows of it, and not as parts of rows that stand elsewhere: a base for all its kinds. */
function entitiesIn(model: Model, table: TableName): readonly string[] {
  return Array.from(model.entities.values()).flatMap((entity) => {
    if (!hasTable(entity) || placeOf(entity.table.value) !== placeOf(table)) return [];
    const { kinds, name } = entity;
    return kinds === null || kinds.base === null || kinds.storage.kind === 'separate tables' ? [name] : [];
  });
}

/** The keys of the rows of an entity for which a condition on its table holds. */
function* keysWhere(
  doing: Doing,
  of: {
    readonly entity: string;
    readonly table: TableName;
    /** Null for none. */
    readonly where: SqlExpression | null;
    readonly tables: ReturnType<typeof goingFrom>['tables'];
    readonly parameters: Readonly<Record<string, BoundParameter>>;
  },
): CommandWork<readonly Wire[]> {
  const { dialect, model } = doing;
  if (of.where === null) return [];
  const { key } = entityOf(model, of.entity);
  const columns = key.fields.map((field, at) => ({ field, as: `key_${at + 1}` }));
  const select: Select = selectOf(tableSource(of.table), {
    columns: columns.map(({ field, as }) => ({ expression: column(null, field.column.value), as })),
    where: of.where,
  });
  const outputs = columns.map(({ field, as }) => outputOf(as, field.type));
  const query = { kind: 'with', tables: of.tables, query: select } as const;
  const options = { madeHere: doing.inputs.madeHere, rowLimit: MOST_ROWS + 1 };
  const { cells } = yield* asked(fetch(dialect, { query, outputs, parameters: of.parameters, options }));
  const [first = []] = cells;
  if (first.length > MOST_ROWS)
    refuse(`The delete would reach more than ${MOST_ROWS.toLocaleString('en')} rows of ${of.entity}. Delete some of them first.`);
  return first.map(
    (_, row): Wire =>
      joinKey(
        key.type,
        cells.map((one) => one[row] ?? null),
      ),
  );
}

function outputOf(as: string, type: ValueType): Output {
  return { as, parts: null, type, name: as, pivot: null, kinds: null };
}
