import {
  type BrowseRequest,
  type Browsing,
  browse,
  countOf,
  countsByRole,
  isRow,
  type Via,
  walkable,
} from '../core/browse/index.js';
import type { Design } from '../core/design/index.js';
import { keyOfRow, type Prepared, writtenSql } from '../core/load/index.js';
import { type Entity, entityOf } from '../core/model/index.js';
import type { Finding } from '../core/notation/index.js';
import type { QueryPlan } from '../core/plan/index.js';
import type { Counts } from '../core/runs/index.js';
import { parseWire, type Wire } from '../core/values/index.js';
import { SYSTEM, type WovenFor } from '../core/walls/index.js';
import type { CallOptions } from '../engines/index.js';
import { type LookedAt, preparedFor } from './looked-at.js';

/** The question of a grid; conditions and order as the notation writes them. */
export interface RowsRequest {
  readonly entity: string;
  readonly where: string;
  readonly orderBy: string;
  readonly via: { readonly entity: string; readonly key: string; readonly role: string } | null;
  /** One row alone, by its key. */
  readonly key?: string | undefined;
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

/** A row as the text of an answer has it, in values of JSON. */
export type AnswerRow = Readonly<Record<string, unknown>>;

/** How many rows a look keeps in order; a grid cannot show more. */
export const MOST_KEYS = 1_000_000;

/** Finds which rows are asked for, and in what order. */
export async function rowOrder(lookedAt: LookedAt, request: RowsRequest, options?: CallOptions): Promise<RowsOutcome<RowOrder>> {
  const asked = readRequest(lookedAt, request);
  if (!asked.ok) return asked;
  const { design, engine } = lookedAt;
  const plans = browse(design.model, asked.value);
  const keys = ready(lookedAt, plans.keys);
  if (!keys.ok) return keys;
  const rows = ready(lookedAt, plans.asked);
  if (!rows.ok) return rows;
  const started = performance.now();
  if (plans.byPairs !== null) return orderByPairs(lookedAt, request.entity, plans.byPairs, options);
  const read = await engine.run('order', { prepared: keys.value, most: MOST_KEYS }, options);
  if (!read.ok) return failed(read.problem.message);
  const milliseconds = performance.now() - started;
  return { ok: true, value: { ...read.value, sql: writtenSql(rows.value, design.dialect), milliseconds } };
}

/** The rows below one, in the order that their pairs give them. */
async function orderByPairs(
  lookedAt: LookedAt,
  name: string,
  { plan, role }: NonNullable<Browsing['byPairs']>,
  options?: CallOptions,
): Promise<RowsOutcome<RowOrder>> {
  const prepared = ready(lookedAt, plan);
  if (!prepared.ok) return prepared;
  const started = performance.now();
  const read = await lookedAt.engine.run('load', { prepared: prepared.value, rowLimit: MOST_KEYS, explained: 'not' }, options);
  if (!read.ok) return failed(read.problem.message);
  const entity = entityOf(lookedAt.design.model, name);
  const [owner] = JSON.parse(read.value.text) as readonly AnswerRow[];
  const below = (owner?.[role] ?? []) as readonly AnswerRow[];
  // Two pairs of the same rows show that row once, where the first of them has it.
  const keys = new Map<string, Wire>();
  for (const row of below) {
    const own = keyOfRow(entity, row);
    if (!keys.has(String(own))) keys.set(String(own), own);
  }
  const sql = writtenSql(prepared.value, lookedAt.design.dialect);
  const cut = read.value.cuts.length > 0;
  return { ok: true, value: { keys: Array.from(keys.values()), cut, sql, milliseconds: performance.now() - started } };
}

/**
 * A window of the rows, in order: own fields, and below each to-one role the title of the row it leads to.
 *
 * @param keys of the rows in it
 * @param from the place of the first in the order
 */
export async function rowWindow(
  lookedAt: LookedAt,
  request: RowsRequest,
  keys: readonly Wire[],
  from: number,
  options?: CallOptions,
): Promise<RowsOutcome<readonly AnswerRow[]>> {
  if (keys.length === 0) return { ok: true, value: [] };
  const asked = readRequest(lookedAt, request);
  if (!asked.ok) return asked;
  const { design, engine } = lookedAt;
  const entity = entityOf(design.model, request.entity);
  const { rows, placed, pivotFields } = browse(design.model, asked.value);
  // A row without a key, or whose key does not fit its type, is found by its place alone.
  const byKeys = keys.every((key) => isKey(entity, key));
  const window = ready(lookedAt, byKeys ? rows : placed(from, keys.length));
  if (!window.ok) return window;
  const pairPlan = byKeys ? pivotFields(keys) : null;
  const pairs = pairPlan === null ? null : ready(lookedAt, pairPlan);
  const input = {
    prepared: window.value,
    keys: byKeys ? keys : null,
    keyType: entity.key.type,
    keyName: entity.key.name,
    rowLimit: keys.length,
    pairs: pairs?.ok === true ? { prepared: pairs.value, role: request.via?.role ?? '' } : null,
  };
  const found = await engine.run('page', input, options);
  return found.ok ? { ok: true, value: JSON.parse(found.value.text) as AnswerRow[] } : failed(found.problem.message);
}

/** Whether a row can be fetched by it again. */
function isKey({ key }: Entity, found: Wire): boolean {
  if (found === null || typeof found === 'object') return false;
  // Of several fields it is their list; one that does not fit its type stands there as an object.
  return key.type.kind !== 'composite' || (JSON.parse(String(found)) as unknown[]).every((part) => typeof part !== 'object');
}

/** For each to-many role, how many rows each of these knows; a row that is missing knows none. */
export async function roleCounts(
  lookedAt: LookedAt,
  name: string,
  keys: readonly Wire[],
  options?: CallOptions,
): Promise<Counts> {
  const { design, engine } = lookedAt;
  const prepared = ready(lookedAt, countsByRole(design.model, name));
  if (!prepared.ok) return {};
  const { key } = entityOf(design.model, name);
  const isWalled = lookedAt.actor !== undefined && lookedAt.actor !== SYSTEM;
  const owners = { keys, keyType: key.type, keyName: isWalled ? key.name : null };
  const read = await engine.run('counts', { prepared: prepared.value, ...owners }, options);
  return read.ok ? read.value : {};
}

/**
 * How many rows each entity has, as far as whoever looks may see them, or write them; one whose table cannot be counted is missing.
 *
 * @param names the entities that are asked for; left out, all
 */
export async function entityCounts(
  { design, engine, actor = SYSTEM }: Pick<LookedAt, 'design' | 'engine' | 'actor'>,
  options?: CallOptions,
  names: Iterable<string> = design.model.entities.keys(),
  wanted: WovenFor = 'read',
): Promise<Readonly<Record<string, number>>> {
  const counted = Array.from(names).flatMap((name) => {
    const prepared = preparedFor({ design, madeHere: false, sampleKeys: {}, actor }, countOf(design.model, name), { wanted });
    return prepared.ok ? [{ name, prepared: prepared.prepared }] : [];
  });
  const read = await engine.run('sizes', counted, options);
  return read.ok ? read.value : {};
}

/** A key as a person or an address writes it; null where it does not fit the entity's key. */
export function keyOf(design: Design, entity: string, written: string): Wire {
  const parsed = parseWire(entityOf(design.model, entity).key.type, written);
  return parsed.ok ? parsed.value : null;
}

function ready(lookedAt: LookedAt, plan: QueryPlan): RowsOutcome<Prepared> {
  const outcome = preparedFor(lookedAt, plan);
  return outcome.ok ? { ok: true, value: outcome.prepared } : { ok: false, findings: [], problems: outcome.problems };
}

function failed(problem: string): { ok: false; findings: []; problems: readonly string[] } {
  return { ok: false, findings: [], problems: [problem] };
}

/** The request with its condition and order resolved; the places of findings are those in what was typed. */
export function readRequest({ design }: Pick<LookedAt, 'design'>, request: RowsRequest): RowsOutcome<BrowseRequest> {
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
