import { type BrowseRequest, browse, countsByRole, isRow, type Via, walkable } from '../core/browse/index.js';
import type { Design } from '../core/design/index.js';
import { bind } from '../core/load/index.js';
import { type Entity, entityOf, type Query } from '../core/model/index.js';
import type { Finding } from '../core/notation/index.js';
import { type PlanOptions, planQuery, type QueryPlan } from '../core/plan/index.js';
import { parseWire, type ValueType, type Wire } from '../core/values/index.js';
import { weave } from '../core/walls/index.js';
import type { Engine } from '../engines/index.js';
import { nowOf } from './clock.js';

/** What a person wants to look through; conditions and order as the notation writes them. */
export interface RowsRequest {
  readonly entity: string;
  readonly where: string;
  readonly orderBy: string;
  readonly via: { readonly entity: string; readonly key: string; readonly role: string } | null;
  /** One row alone, by its key. */
  readonly key?: string | undefined;
}

/** The database that is looked through. */
export interface Browsed {
  readonly design: Design;
  readonly engine: Engine;
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  readonly madeHere: boolean;
  /** The relations of which the database keeps itself that every row has its other row, where not all do. */
  readonly kept?: ReadonlySet<string>;
}

/** All rows asked for, as their keys in order. */
export interface RowOrder {
  readonly keys: readonly Wire[];
  /** There are more than are kept. */
  readonly cut: boolean;
  /** The statement that found them, as a person would write it. */
  readonly sql: string;
  readonly milliseconds: number;
}

export type RowsOutcome<T> =
  | { readonly ok: true; readonly value: T }
  | { readonly ok: false; readonly findings: readonly RowsFinding[]; readonly problems: readonly string[] };

/** A finding in the filter or in the order, with its place there. */
export interface RowsFinding {
  readonly part: 'where' | 'order by';
  readonly message: string;
  readonly start: number;
  readonly end: number;
}

export type AnswerRow = Readonly<Record<string, unknown>>;

/** How many rows a look keeps in order; a grid cannot show more. */
export const MOST_KEYS = 1_000_000;

/** Finds which rows are asked for, and in what order. */
export async function rowOrder(browsed: Browsed, request: RowsRequest): Promise<RowsOutcome<RowOrder>> {
  const asked = readRequest(browsed, request);
  if (!asked.ok) return asked;
  const { design, engine, madeHere } = browsed;
  const { keys } = browse(design.model, asked.value, MOST_KEYS, optionsOf(browsed));
  const bound = bindings(browsed, keys.plan);
  if (!bound.ok) return bound;
  const started = performance.now();
  const options = { typesHold: madeHere, rowLimit: MOST_KEYS };
  const read = await engine.fetch({ query: keys.select, outputs: keys.outputs, parameters: bound.value, options });
  if (!read.ok) return failed(read.problem.message);
  const milliseconds = performance.now() - started;
  const sql = design.dialect.printQuery(weave(keys.plan).select);
  return { ok: true, value: { keys: read.value.cells.at(-1) ?? [], cut: read.value.cut, sql, milliseconds } };
}

/**
 * A window of the rows, in order: own fields, and below each to-one role the title of the row it leads to.
 *
 * @param keys of the rows in it
 * @param from the place of the first in the order
 */
export async function rowWindow(
  browsed: Browsed,
  request: RowsRequest,
  keys: readonly Wire[],
  from: number,
): Promise<RowsOutcome<readonly AnswerRow[]>> {
  if (keys.length === 0) return { ok: true, value: [] };
  const asked = readRequest(browsed, request);
  if (!asked.ok) return asked;
  const { design, engine, madeHere } = browsed;
  const entity = entityOf(design.model, request.entity);
  const { rows, placed, pivotFields } = browse(design.model, asked.value, MOST_KEYS, optionsOf(browsed));
  if (!keys.every((key) => isKey(entity, key))) return placedRows(browsed, placed(from, keys.length), keys.length);
  const bound = bindings(browsed, rows);
  if (!bound.ok) return bound;
  const loaded = await engine.load({
    woven: weave(rows),
    parameters: { ...bound.value, keys: design.dialect.values.bindKeys(entity.key.type, keys) },
    options: { typesHold: madeHere, rowLimit: keys.length },
  });
  if (!loaded.ok) return failed(loaded.problem.message);
  const found = JSON.parse(loaded.value.text) as AnswerRow[];
  const pivots = pivotFields(keys);
  const ownPivot = pivots === null ? new Map<string, AnswerRow>() : await pivotRows(browsed, pivots, entity, request);
  const byKey = new Map(found.map((row) => [String(row[entity.key.name]), row]));
  return {
    ok: true,
    value: keys.flatMap((key) => {
      const row = byKey.get(String(key));
      return row === undefined ? [] : [{ ...row, ...ownPivot.get(String(key)) }];
    }),
  };
}

/** A row without a key, or whose key does not fit its type, is found by its place alone. */
async function placedRows(browsed: Browsed, plan: QueryPlan, count: number): Promise<RowsOutcome<readonly AnswerRow[]>> {
  const bound = bindings(browsed, plan);
  if (!bound.ok) return bound;
  const options = { typesHold: browsed.madeHere, rowLimit: count };
  const loaded = await browsed.engine.load({ woven: weave(plan), parameters: bound.value, options });
  return loaded.ok ? { ok: true, value: JSON.parse(loaded.value.text) as AnswerRow[] } : failed(loaded.problem.message);
}

/** Whether a row can be fetched by it again. */
function isKey({ key }: Entity, found: Wire): boolean {
  if (found === null || typeof found === 'object') return false;
  // Of several fields it is their list; one that does not fit its type stands there as an object.
  return key.type.kind !== 'composite' || (JSON.parse(String(found)) as unknown[]).every((part) => typeof part !== 'object');
}

async function pivotRows(
  browsed: Browsed,
  plan: QueryPlan,
  entity: Entity,
  { via }: RowsRequest,
): Promise<ReadonlyMap<string, AnswerRow>> {
  const bound = bindings(browsed, plan);
  const options = { typesHold: browsed.madeHere, rowLimit: 10_000 };
  const loaded = bound.ok ? await browsed.engine.load({ woven: weave(plan), parameters: bound.value, options }) : null;
  if (loaded?.ok !== true) return new Map();
  const [owner] = JSON.parse(loaded.value.text) as AnswerRow[];
  const children = owner?.[via?.role ?? ''];
  if (!Array.isArray(children)) return new Map();
  return new Map(
    (children as AnswerRow[]).map((row) => {
      const { [entity.key.name]: key, ...pivot } = row;
      return [String(key), Object.fromEntries(Object.entries(pivot).filter(([, value]) => isObject(value)))];
    }),
  );
}

function isObject(value: unknown): boolean {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** For each to-many role, how many rows each of these knows; a row that is missing knows none. */
export async function roleCounts(
  browsed: Browsed,
  name: string,
  keys: readonly Wire[],
): Promise<Readonly<Record<string, Readonly<Record<string, number>>>>> {
  const { design, engine } = browsed;
  const entity = entityOf(design.model, name);
  const { values } = design.dialect;
  const counts: Record<string, Record<string, number>> = {};
  const options = { typesHold: browsed.madeHere, rowLimit: keys.length };
  for (const { role, plan, select, outputs, keyType } of countsByRole(design.model, name, optionsOf(browsed))) {
    const held = keyType.kind === entity.key.type.kind ? keys : keys.map((key) => asHeld(keyType, key));
    const list = values.bindKeys(keyType, held);
    const bound = bindings(browsed, plan);
    const read = bound.ok
      ? await engine.fetch({ query: select, outputs, parameters: { ...bound.value, keys: list }, options })
      : null;
    if (read?.ok !== true) continue;
    const [numbers = []] = read.value.cells;
    const owners = read.value.cells.at(-1) ?? [];
    counts[role] = Object.fromEntries(owners.map((owner, row) => [String(owner), Number(numbers[row])]));
  }
  return counts;
}

/** A key as another column holds it, which has keys of several types. */
function asHeld(type: ValueType, key: Wire): Wire {
  const parsed = parseWire(type, String(key));
  return parsed.ok ? parsed.value : null;
}

/** How many rows each entity has; one whose table cannot be counted is missing. */
export async function entityCounts({ design, engine }: Pick<Browsed, 'design' | 'engine'>): Promise<Record<string, number>> {
  const counts: Record<string, number> = {};
  const options = { dialect: design.dialect, keysHold: false };
  for (const { name } of design.model.entities.values()) {
    const plan = planQuery(design.model, countOf(name), options);
    const read = await engine.fetch({ query: weave(plan).select, outputs: plan.outputs, parameters: {}, options: COUNTED });
    if (read.ok) counts[name] = Number(read.value.cells[0]?.[0] ?? 0);
  }
  return counts;
}

const COUNTED = { typesHold: false, rowLimit: 1 };

/** The query that counts an entity's rows. */
function countOf(entity: string): Query {
  const span = { start: 0, end: 0 };
  const none = { name: null, parameters: [], where: [], orderBy: [], limit: null, offset: null, loads: [], note: null, span };
  return { ...none, entity, cardinality: 'count' };
}

/** A key as a person or an address writes it; null where it does not fit the entity's key. */
export function keyOf(design: Design, entity: string, written: string): Wire {
  const parsed = parseWire(entityOf(design.model, entity).key.type, written);
  return parsed.ok ? parsed.value : null;
}

function optionsOf({ design, madeHere, kept }: Browsed): PlanOptions {
  return { dialect: design.dialect, keysHold: madeHere, ...(kept === undefined ? {} : { kept }) };
}

function bindings(browsed: Browsed, plan: QueryPlan): RowsOutcome<Parameters<Engine['read']>[1]> {
  const { design, sampleKeys, madeHere } = browsed;
  const inputs = { parameters: {}, now: nowOf(design.model, madeHere), sampleKeys };
  const bound = bind(plan.bindings, inputs, design.dialect.values);
  return bound.ok ? { ok: true, value: bound.parameters } : { ok: false, findings: [], problems: bound.problems };
}

function failed(problem: string): { ok: false; findings: []; problems: readonly string[] } {
  return { ok: false, findings: [], problems: [problem] };
}

/** The request with its condition and order resolved; the places of findings are those in what was typed. */
function readRequest({ design }: Browsed, request: RowsRequest): RowsOutcome<BrowseRequest> {
  const entity = design.model.entities.get(request.entity);
  if (entity === undefined) return failed(`There is no entity ${request.entity} in the text.`);
  let via: Via | null = null;
  if (request.via !== null) {
    const owner = design.model.entities.get(request.via.entity);
    const role = walkable(design.model, request.via.entity, request.via.role, entity.name);
    const key = owner === undefined ? null : keyOf(design, owner.name, request.via.key);
    if (role === null || key === null)
      return failed(`There is no way to ${entity.name} over ${request.via.entity}.${request.via.role}.`);
    via = { entity: request.via.entity, key, role: role.name };
  }
  const from = `from ${entity.name}\n`;
  const where = request.where.trim() === '' ? '' : `where ${lineOf(request.where)}\n`;
  const order = request.orderBy.trim() === '' ? '' : `order by ${lineOf(request.orderBy)}\n`;
  const { query, findings } = design.queryOf(`${from}${where}${order}`);
  if (query === null)
    return {
      ok: false,
      findings: findings.map((finding) => placed(finding, from.length, where.length)),
      problems: [],
    };
  const one = request.key === undefined ? [] : [isRow(entity, keyOf(design, entity.name, request.key))];
  return { ok: true, value: { entity: entity.name, where: [...query.where, ...one], orderBy: query.orderBy, via } };
}

/** What was typed, on one line. */
function lineOf(typed: string): string {
  return typed.replace(/\s*\n\s*/g, ' ').trim();
}

function placed({ message, span }: Finding, from: number, where: number): RowsFinding {
  const inOrder = span.start >= from + where;
  const base = inOrder ? from + where + 'order by '.length : from + 'where '.length;
  return {
    part: inOrder ? 'order by' : 'where',
    message: message.replace(/^the query: /, ''),
    start: Math.max(0, span.start - base),
    end: Math.max(0, span.end - base),
  };
}
