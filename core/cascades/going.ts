import {
  allOf,
  anyOf,
  type CommonTable,
  column,
  columnsOf,
  derived,
  number,
  placeOf,
  renamed,
  type Select,
  type SqlExpression,
  selectOf,
  type TableName,
  tableSource,
  tupleOf,
  withColumn,
} from '../sql/index.js';
import { columnsIn } from './columns.js';
import { type DeleteEdge, PARENT } from './edges.js';
import type { DeleteGraph } from './graph.js';

/** Rows of one table that are to be deleted: the condition on its columns. */
export interface Roots {
  readonly table: TableName;
  readonly where: SqlExpression;
}

/** The tables of a delete that reaches others, with the rows that go from each as tables of one statement. */
export interface Going {
  /** In the order in which each speaks of those before it alone. */
  readonly tables: readonly CommonTable[];
  /** How the rows that go from a table are called, by the table's place; those from which none can go are missing. */
  readonly names: ReadonlyMap<string, string>;
  /** How many deletes are between the rows that were meant and those of a table: 0 for their own. */
  readonly generations: ReadonlyMap<string, number>;
}

/** What it takes to say which rows go. */
interface Site {
  readonly graph: DeleteGraph;
  readonly roots: readonly Roots[];
  /** A step may speak of what it adds to once only. */
  readonly once: boolean;
  readonly names: ReadonlyMap<string, string>;
}

const ROW = 'row_of';
const KIND = 'of_table';

/**
 * The rows that go when others are deleted, table by table, as tables of one statement. Where rows of tables take each other along,
 * in a circle, they are sought step by step until there are no more.
 *
 * @param once whether the engine lets such a step speak once only of what it adds to (PostgreSQL, “WITH Queries”)
 */
export function goingFrom(graph: DeleteGraph, roots: readonly Roots[], once: boolean): Going {
  const along = graph.edges.filter(({ effect }) => effect === 'goes along');
  const generations = reached(along, roots);
  const places = Array.from(generations.keys());
  const names = new Map<string, string>();
  for (const place of places) names.set(place, freeAmong(names, `gone_${place.replace(/^\./, '').replace(/\W/g, '_')}`));
  const inner = along.filter(({ parent, child }) => generations.has(placeOf(parent)) && generations.has(placeOf(child)));
  const site: Site = { graph: { ...graph, edges: inner }, roots, once, names };
  const tables = circles(places, inner).flatMap((circle) => {
    const isCircle = inner.some(({ parent, child }) => circle.includes(placeOf(parent)) && circle.includes(placeOf(child)));
    const [only, ...more] = circle;
    if (only === undefined) return [];
    if (!isCircle) return [plain(site, graph, only)];
    return more.length === 0 ? [ofItself(site, graph, only)] : together(site, graph, circle);
  });
  return { tables, names, generations };
}

/** The tables that a delete reaches, each with how far away it is. */
function reached(edges: readonly DeleteEdge[], roots: readonly Roots[]): ReadonlyMap<string, number> {
  const generations = new Map(roots.map(({ table }) => [placeOf(table), 0]));
  for (const [place, generation] of generations)
    for (const { parent, child } of edges)
      if (placeOf(parent) === place && !generations.has(placeOf(child))) generations.set(placeOf(child), generation + 1);
  return generations;
}

function freeAmong(taken: ReadonlyMap<string, string>, wish: string): string {
  const names = new Set(taken.values());
  let name = wish.slice(0, 50);
  for (let count = 2; names.has(name); count++) name = `${wish.slice(0, 50)}_${count}`;
  return name;
}

/** Tables that reach each other, together; those that reach others stand before them. */
function circles(places: readonly string[], edges: readonly DeleteEdge[]): readonly (readonly string[])[] {
  const below = new Map(places.map((place) => [place, reachedFrom(place, edges)]));
  const isBelow = (one: string, other: string) => below.get(one)?.has(other) === true;
  // With itself a table reaches more than any that it leads to and that does not lead back.
  const sizeFrom = (place: string) => new Set([place, ...(below.get(place) ?? [])]).size;
  const groups: string[][] = [];
  for (const place of places) {
    const same = groups.find(([first = '']) => isBelow(first, place) && isBelow(place, first));
    if (same === undefined) groups.push([place]);
    else same.push(place);
  }
  return groups.toSorted(([one = ''], [other = '']) => sizeFrom(other) - sizeFrom(one));
}

function reachedFrom(place: string, edges: readonly DeleteEdge[]): ReadonlySet<string> {
  const found = new Set<string>();
  const waiting = [place];
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop())
    for (const { parent, child } of edges)
      if (placeOf(parent) === next && !found.has(placeOf(child))) {
        found.add(placeOf(child));
        waiting.push(placeOf(child));
      }
  return found;
}

/** The columns of a table that its rows are told apart by, and that others point at. */
function columnsOfGone(graph: DeleteGraph, place: string): readonly string[] {
  const pointed = graph.edges
    .filter(({ parent }) => placeOf(parent) === place)
    .flatMap(({ pairs }) => pairs.flatMap(({ key }) => columnsIn(key).map(({ column: name }) => name)));
  return distinctNames([...(graph.keys[place] ?? []), ...pointed]);
}

/** Names, each once: engines take two that differ in case for one. */
function distinctNames(names: readonly string[]): readonly string[] {
  return names.filter((name, at) => names.findIndex((other) => other.toLowerCase() === name.toLowerCase()) === at);
}

/** The condition on a child's columns that its row goes, or is touched, with one of those that go. */
export function meantBy({ pairs, where }: DeleteEdge, gone: string): SqlExpression {
  const keys = pairs.map(({ key }) => ({ expression: renamed(key, PARENT, null), as: null }));
  const select = selectOf(tableSource({ schema: null, name: gone }), { columns: keys });
  const operand = tupleOf(pairs.map(({ held }) => held));
  const among: SqlExpression = { kind: 'in select', operand, select };
  return allOf([among, ...where]) ?? among;
}

/** The selects that give the rows of a table which go by what is known before. */
function firstOf({ graph, roots, names }: Site, columns: readonly string[], place: string, circle: readonly string[]): Select[] {
  const entering = graph.edges.filter(
    ({ parent, child }) => placeOf(child) === place && !circle.includes(placeOf(parent)) && names.has(placeOf(parent)),
  );
  const conditions = [
    ...roots.filter(({ table }) => placeOf(table) === place).map(({ table, where }) => ({ table, where })),
    ...entering.map((edge) => ({ table: edge.child, where: meantBy(edge, names.get(placeOf(edge.parent)) ?? '') })),
  ];
  const [first] = conditions;
  if (first === undefined) return [];
  const shown = columns.map((name) => ({ expression: column(null, name), as: null }));
  // Without a key rows are told apart by standing in one select alone.
  if ((graph.keys[place] ?? []).length === 0 && conditions.length > 1) {
    const where = anyOf(conditions.map((condition) => condition.where));
    return [selectOf(tableSource(first.table), { columns: shown, where })];
  }
  return conditions.map(({ table, where }) => selectOf(tableSource(table), { columns: shown, where }));
}

function plain(site: Site, whole: DeleteGraph, place: string): CommonTable {
  const columns = shownOf(whole, place);
  return { name: site.names.get(place) ?? '', columns, first: firstOf(site, columns, place, []), next: [] };
}

/** Where nothing is asked of a row but that it goes, its first column stands for it. */
function shownOf(graph: DeleteGraph, place: string): readonly string[] {
  const columns = columnsOfGone(graph, place);
  if (columns.length > 0) return columns;
  const held = graph.edges.filter(({ child }) => placeOf(child) === place).flatMap((edge) => edge.columns);
  return distinctNames(held).slice(0, 1);
}

/** One step: the rows that point, over an edge, at those that are called `gone`. */
function stepOver(edge: DeleteEdge, columns: readonly string[], gone: string, marked: SqlExpression | null): Select {
  const { child, pairs, where } = edge;
  const on = allOf([
    marked,
    ...pairs.map(
      ({ held, key }): SqlExpression => ({
        kind: 'binary',
        operator: '=',
        left: renamed(held, null, ROW),
        right: renamed(key, PARENT, gone),
      }),
    ),
    ...where.map((one) => renamed(one, null, ROW)),
  ]);
  return selectOf(tableSource({ schema: null, name: gone }), {
    columns: columns.map((name) => ({ expression: column(ROW, name), as: null })),
    joins: [{ kind: 'inner', source: tableSource(child, ROW), on: on ?? { kind: 'boolean', value: true } }],
  });
}

/** A table whose rows take each other along. */
function ofItself(site: Site, whole: DeleteGraph, place: string): CommonTable {
  const { graph, names, once } = site;
  const name = names.get(place) ?? '';
  const columns = shownOf(whole, place);
  const own = graph.edges.filter(({ parent, child }) => placeOf(parent) === place && placeOf(child) === place);
  const steps = own.map((edge) => stepOver(edge, columns, name, null));
  return { name, columns, first: firstOf(site, columns, place, [place]), next: once ? inOne(steps, own, columns, name) : steps };
}

/** Several steps as one, which speaks but once of what it adds to. */
function inOne(steps: readonly Select[], edges: readonly DeleteEdge[], columns: readonly string[], gone: string): Select[] {
  if (steps.length < 2) return [...steps];
  const selects = edges.map((edge, at): Select => {
    const step = steps[at];
    const [join] = step?.joins ?? [];
    return selectOf(tableSource(edge.child, ROW), { columns: step?.columns ?? [], where: join?.on ?? null });
  });
  const source = derived({ kind: 'union all', selects }, 'next');
  return [
    selectOf(tableSource({ schema: null, name: gone }), {
      columns: columns.map((name) => ({ expression: column('next', name), as: null })),
      joins: [{ kind: 'each', source, on: { kind: 'boolean', value: true } }],
    }),
  ];
}

/** Tables whose rows take each other along in a circle: all in one, with the columns of each beside each other. */
function together(site: Site, whole: DeleteGraph, circle: readonly string[]): readonly CommonTable[] {
  const { graph, names, once } = site;
  const all = freeAmong(names, 'gone_together');
  const parts = circle.map((place, at) => ({ place, at: at + 1, own: shownOf(whole, place) }));
  const slots = parts.flatMap(({ place, at, own }) => own.map((name) => ({ place, name, as: `${KIND}_${at}_${name}` })));
  const slotsOf = (place: string) => slots.filter((slot) => slot.place === place);
  const tableAt = (place: string): TableName =>
    graph.edges.find(({ child }) => placeOf(child) === place)?.child ??
    site.roots.find(({ table }) => placeOf(table) === place)?.table ?? { schema: null, name: place };
  const numberOf = (place: string) => number(parts.find((part) => part.place === place)?.at ?? 0);
  // What a row of one table leaves empty has the type of the other's column, which the engine takes from the first select.
  const empty = (place: string, name: string): SqlExpression => {
    const none: SqlExpression = { kind: 'binary', operator: '=', left: number(1), right: number(0) };
    const columns = [{ expression: column(null, name), as: null }];
    return { kind: 'scalar', select: selectOf(tableSource(tableAt(place)), { columns, where: none }) };
  };
  const shown = (place: string, source: string | null) => [
    { expression: numberOf(place), as: KIND },
    ...slots.map((slot) => ({
      expression: slot.place === place ? column(source, slot.name) : empty(slot.place, slot.name),
      as: slot.as,
    })),
  ];
  const first = circle.flatMap((place) =>
    firstOf(
      site,
      slotsOf(place).map(({ name }) => name),
      place,
      circle,
    ).map((select) => ({
      ...select,
      columns: shown(place, null),
    })),
  );
  const within = graph.edges.filter(({ parent, child }) => circle.includes(placeOf(parent)) && circle.includes(placeOf(child)));
  const steps = within.map((edge): Select => {
    const parent = placeOf(edge.parent);
    const marked: SqlExpression = { kind: 'binary', operator: '=', left: column(all, KIND), right: numberOf(parent) };
    const pairs = edge.pairs.map(({ held, key }) => ({
      held,
      key: slotsOf(parent).reduce((one, { name, as }) => withColumn(one, name, as), key),
    }));
    return { ...stepOver({ ...edge, pairs }, [], all, marked), columns: shown(placeOf(edge.child), ROW) };
  });
  const columns = [KIND, ...slots.map(({ as }) => as)];
  const next = once ? inOne(steps, within, columns, all) : steps;
  return [
    { name: all, columns, first, next },
    ...parts.map(({ place, own }): CommonTable => {
      const where: SqlExpression = { kind: 'binary', operator: '=', left: column(null, KIND), right: numberOf(place) };
      const selected = slotsOf(place).map(({ as, name }) => ({ expression: column(null, as), as: name }));
      const select = selectOf(tableSource({ schema: null, name: all }), { columns: selected, where });
      return { name: names.get(place) ?? '', columns: own, first: [select], next: [] };
    }),
  ];
}

/** The condition that a row of a table goes itself; null where none of it does. */
export function goesItself(graph: DeleteGraph, going: Going, roots: readonly Roots[], table: TableName): SqlExpression | null {
  const place = placeOf(table);
  const name = going.names.get(place);
  if (name === undefined) return null;
  const key = graph.keys[place] ?? [];
  if (key.length > 0) {
    const columns = key.map((one) => ({ expression: column(null, one), as: null }));
    const select = selectOf(tableSource({ schema: null, name }), { columns });
    return { kind: 'in select', operand: columnsOf(null, key), select };
  }
  const conditions = [
    ...roots.filter((root) => placeOf(root.table) === place).map(({ where }) => where),
    ...graph.edges
      .filter(
        ({ effect, child, parent }) => effect === 'goes along' && placeOf(child) === place && going.names.has(placeOf(parent)),
      )
      .map((edge) => meantBy(edge, going.names.get(placeOf(edge.parent)) ?? '')),
  ];
  return anyOf(conditions);
}
