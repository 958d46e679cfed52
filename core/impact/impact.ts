import { type DeleteEdge, type DeleteGraph, type Going, goesItself, goingFrom, meantBy, type Roots } from '../cascades/index.js';
import type { Dialect } from '../dialects/index.js';
import { type Computation, fetch, type LogEntry, type Output } from '../load/index.js';
import { type ActorName, type CommandRows, entityOf, type Model } from '../model/index.js';
import {
  allOf,
  anyOf,
  type CommonTable,
  column,
  number,
  placeOf,
  type Select,
  type SqlExpression,
  selectOf,
  type TableName,
  tableSource,
} from '../sql/index.js';
import { type BoundParameter, joinKey, type ValueType, type Wire } from '../values/index.js';
import { type CommandInputs, deleteRoots, type RowAt, rowsMeant } from '../write/index.js';
import { type Names, namesOf } from './names.js';
import type { ImpactEffect, ImpactGroup, ImpactLook, ImpactOutcome } from './told.js';

/** What is asked before rows are deleted. */
export interface ImpactInput {
  readonly model: Model;
  readonly graph: DeleteGraph;
  /** The rows that are to be deleted. */
  readonly rows: readonly CommandRows[];
  readonly inputs: CommandInputs;
  /** How many rows of each group are shown by their keys. */
  readonly looks: number;
  /** On whose behalf they are: rows that they may not see are none of them. */
  readonly as: ActorName;
}

/** A group before it is counted. */
interface Sought extends Omit<ImpactGroup, 'rows' | 'ways' | 'table'> {
  readonly entity: string | null;
  readonly table: TableName;
  /** The condition on the table's columns that a row is one of the group. */
  readonly where: SqlExpression;
  readonly ways: readonly { readonly over: string; readonly where: SqlExpression }[];
}

/** Tells what a delete reaches, by a few statements over all rows at once; none of them touches any. */
export function* impactOf(dialect: Dialect, { model, graph, rows, inputs, looks, as }: ImpactInput): Computation<ImpactOutcome> {
  const meant = new Map<string, RowAt>();
  for (const one of rows) {
    const found = yield* rowsMeant(dialect, model, one, inputs, as);
    if (!found.ok) return found;
    for (const row of found.rows) meant.set(`${row.entity} ${String(row.key)}`, row);
  }
  const { roots, parameters, counts } = deleteRoots(dialect, model, Array.from(meant.values()));
  const told = { rows: counts, groups: [], unforeseen: [], log: [] };
  if (roots.length === 0) return { ok: true, impact: told, looks: [] };
  const going = goingFrom(graph, roots, dialect.recursesOnce);
  const names = namesOf(model);
  const sought = soughtIn(dialect, { graph, going, roots, names });
  const asked = { dialect, tables: going.tables, parameters };
  const [counted, entry] = yield* countAll(
    asked,
    sought.flatMap(({ table, where, ways }) => [{ table, where }, ...ways.map((way) => ({ table, where: way.where }))]),
  );
  let at = 0;
  const next = () => counted[at++] ?? 0;
  const groups = sought.map((one) => ({ one, rows: next(), ways: one.ways.map(({ over }) => ({ over, rows: next() })) }));
  const there = groups.filter((group) => group.rows > 0).toSorted((a, b) => a.one.generation - b.one.generation);
  const looked: (ImpactLook | null)[] = [];
  for (const { one } of looks > 0 ? there : []) looked.push(yield* lookAt(asked, model, one, looks));
  return {
    ok: true,
    looks: looked,
    impact: {
      rows: counts,
      groups: there.map(({ one, rows: found, ways }) => {
        const { effect, generation, of, over, columns, by, table } = one;
        const several = ways.filter((way) => way.rows > 0);
        return {
          effect,
          generation,
          of,
          over: several.length === 1 ? several.map((way) => way.over) : over,
          table: table.name,
          columns,
          rows: found,
          ways: several.length > 1 ? several : [],
          by,
        };
      }),
      unforeseen: graph.unforeseen
        .filter(({ table }) => going.names.has(placeOf(table)))
        .map(({ table, trigger }) => ({ table: table.name, trigger })),
      log: entry === null ? [] : [entry],
    },
  };
}

interface Site {
  readonly graph: DeleteGraph;
  readonly going: Going;
  readonly roots: readonly Roots[];
  readonly names: Names;
}

/** The groups that there may be. */
function soughtIn(dialect: Dialect, site: Site): readonly Sought[] {
  const { graph, going, names } = site;
  const reached = graph.edges.filter(({ parent }) => going.names.has(placeOf(parent)));
  const along = new Map<string, DeleteEdge[]>();
  for (const edge of reached)
    if (edge.effect === 'goes along' && !names.isSameRow(edge))
      along.set(placeOf(edge.child), [...(along.get(placeOf(edge.child)) ?? []), edge]);
  return [
    ...Array.from(along.values(), (edges) => goingAlong(site, edges)).flatMap((one) => one ?? []),
    ...reached.flatMap((edge) => touched(dialect, site, edge)),
  ];
}

function goingAlong({ going, names, roots }: Site, edges: readonly DeleteEdge[]): Sought | null {
  const [first] = edges;
  if (first === undefined) return null;
  const { child: table } = first;
  const notMeant = roots
    .filter((root) => placeOf(root.table) === placeOf(table))
    .map(({ where }): SqlExpression => ({ kind: 'not', operand: where }));
  const by = (some: readonly DeleteEdge[]) =>
    allOf([anyOf(some.map((edge) => meantBy(edge, goneAs(going, edge.parent)))), ...notMeant]) ?? ALL;
  return {
    ...calledBy(names, first),
    effect: 'goes along',
    generation: 1 + Math.min(...edges.map(({ parent }) => going.generations.get(placeOf(parent)) ?? 0)),
    over: Array.from(new Set(edges.map(names.over))),
    columns: [],
    where: by(edges),
    ways: edges.length > 1 ? edges.map((edge) => ({ over: names.over(edge), where: by([edge]) })) : [],
    by: edges.flatMap((edge) => (edge.by === '' ? [] : [edge.by])).join(', '),
  };
}

const ALL: SqlExpression = { kind: 'boolean', value: true };

function calledBy(names: Names, { child: table }: DeleteEdge): Pick<Sought, 'of' | 'entity' | 'table'> {
  const { name, entity } = names.of(table);
  return { of: name, entity, table };
}

function goneAs(going: Going, table: TableName): string {
  return going.names.get(placeOf(table)) ?? '';
}

/** The rows of an edge that stay in the table, emptied or in the way; and those in the way that go along themselves. */
function touched(dialect: Dialect, { graph, going, roots, names }: Site, edge: DeleteEdge): readonly Sought[] {
  const { effect, child, parent, by } = edge;
  if (effect === 'goes along') return [];
  const meant = meantBy(edge, goneAs(going, parent));
  const goes = goesItself(graph, going, roots, child);
  const sought = (told: ImpactEffect, also: SqlExpression | null): Sought => ({
    ...calledBy(names, edge),
    effect: told,
    generation: 1 + (going.generations.get(placeOf(parent)) ?? 0),
    over: [names.over(edge)],
    columns: edge.columns,
    where: allOf([meant, also]) ?? meant,
    ways: [],
    by,
  });
  const stays = goes === null ? null : ({ kind: 'not', operand: goes } as const);
  // Where keys are looked at row by row, a rule that waits for the statement's end does not.
  const atOnce = effect === 'refuses' || (effect === 'refuses at the end' && !dialect.defers);
  const first = sought(effect === 'refuses at the end' ? 'refuses' : effect, stays);
  return atOnce && goes !== null ? [first, sought('may refuse', goes)] : [first];
}

interface Asked {
  readonly dialect: Dialect;
  readonly tables: readonly CommonTable[];
  readonly parameters: Readonly<Record<string, BoundParameter>>;
}

const INTEGER: ValueType = { kind: 'integer' };

/** Counts the rows of several conditions in one statement. */
function* countAll(
  { dialect, tables, parameters }: Asked,
  counted: readonly { readonly table: TableName; readonly where: SqlExpression }[],
): Computation<readonly [readonly number[], LogEntry | null]> {
  if (counted.length === 0) return [[], null];
  const selects = counted.map(
    ({ table, where }, at): Select =>
      selectOf(tableSource(table), {
        columns: [
          { expression: number(at), as: 'place' },
          { expression: { kind: 'count rows' }, as: 'found' },
        ],
        where,
      }),
  );
  const query = { kind: 'with', tables, query: { kind: 'union all', selects } } as const;
  const outputs = [outputOf('place', INTEGER), outputOf('found', INTEGER)];
  const options = { madeHere: true, rowLimit: counted.length };
  const { cells, entry } = yield* fetch(dialect, { query, outputs, parameters, options });
  const [places = [], found = []] = cells;
  const counts = new Array<number>(counted.length).fill(0);
  places.forEach((place, row) => {
    counts[Number(place)] = Number(found[row]);
  });
  return [counts, entry];
}

/** The keys of a few rows of a group; null for one whose rows are of no entity. */
function* lookAt(
  { dialect, tables, parameters }: Asked,
  model: Model,
  { entity, table, where }: Sought,
  most: number,
): Computation<ImpactLook | null> {
  if (entity === null) return null;
  const { key } = entityOf(model, entity);
  const columns = key.fields.map((field, at) => ({ field, as: `key_${at + 1}` }));
  const select = selectOf(tableSource(table), {
    columns: columns.map(({ field, as }) => ({ expression: column(null, field.column.value), as })),
    where,
    orderBy: columns.map(({ field }) => ({ expression: column(null, field.column.value), descending: false, nulls: false })),
    limit: number(most),
  });
  const outputs = columns.map(({ field, as }) => outputOf(as, field.type));
  const options = { madeHere: false, rowLimit: most };
  const { cells } = yield* fetch(dialect, { query: { kind: 'with', tables, query: select }, outputs, parameters, options });
  const keys = (cells[0] ?? []).map(
    (_, row): Wire =>
      joinKey(
        key.type,
        cells.map((one) => one[row] ?? null),
      ),
  );
  return { entity, keys };
}

function outputOf(as: string, type: ValueType): Output {
  return { as, parts: null, type, name: as, pivot: null, kinds: null };
}
