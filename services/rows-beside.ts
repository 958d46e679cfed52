import { keyOfRow } from '../core/load/index.js';
import { entityOf } from '../core/model/index.js';
import { TITLE } from '../core/plan/index.js';
import type { Wire } from '../core/values/index.js';
import type { CallOptions } from '../engines/index.js';
import { type AnswerRow, type RowOrder, type RowsOutcome, type RowsRequest, rowWindow } from './browse-rows.js';
import type { LookedAt } from './looked-at.js';

/** A row as two have it who look through the same: each of them sees it or does not. */
export interface RowBeside {
  readonly key: string;
  readonly shown: string;
  readonly one: boolean;
  readonly other: boolean;
  /** Both see it, and not the same of it: rows that it leads to are hidden from one of them. */
  readonly differs: boolean;
}

/** The rows that two find who look through the same. */
export interface RowsBeside {
  readonly both: number;
  readonly onlyOne: number;
  readonly onlyOther: number;
  /** One of them finds more rows than are compared. */
  readonly cut: boolean;
  /** Those that one of them alone sees, the first of them; behind them the first of those that both see. */
  readonly rows: readonly RowBeside[];
}

/** Somebody who looks, and the rows that they found. */
interface Looking {
  readonly looked: LookedAt;
  readonly order: RowOrder;
}

/** As many rows are told one by one that one of them sees, and as many that both do. */
const MOST_TOLD = 200;

/**
 * Holds the rows of two against each other who look through the same.
 *
 * @param bySystem the same database outside of all walls, to tell what hidden rows are shown as
 */
export async function rowsBeside(
  bySystem: LookedAt,
  request: RowsRequest,
  one: Looking,
  other: Looking,
  options: CallOptions = {},
): Promise<RowsOutcome<RowsBeside>> {
  const [seenByOne, seenByOther] = [keysOf(one), keysOf(other)];
  const onlyOne = one.order.keys.filter((key) => !seenByOther.has(String(key)));
  const onlyOther = other.order.keys.filter((key) => !seenByOne.has(String(key)));
  const both = one.order.keys.filter((key) => seenByOther.has(String(key)));
  const apart = [...onlyOne.slice(0, MOST_TOLD), ...onlyOther.slice(0, MOST_TOLD)].slice(0, MOST_TOLD);
  const shared = both.slice(0, MOST_TOLD);
  const of = async (looked: LookedAt, keys: readonly Wire[]) => rowWindow(looked, onlyOf(request), keys, 0, options);
  const titles = await of(bySystem, [...apart, ...shared]);
  if (!titles.ok) return titles;
  const [ofOne, ofOther] = await Promise.all([of(one.looked, shared), of(other.looked, shared)]);
  if (!ofOne.ok) return ofOne;
  if (!ofOther.ok) return ofOther;
  const entity = entityOf(bySystem.design.model, request.entity);
  const byKey = (rows: readonly AnswerRow[]) => new Map(rows.map((row) => [String(keyOfRow(entity, row)), row]));
  const [told, tellsOne, tellsOther] = [byKey(titles.value), byKey(ofOne.value), byKey(ofOther.value)];
  const rows = [...apart, ...shared].map((found): RowBeside => {
    const key = String(found);
    const differs = JSON.stringify(tellsOne.get(key)) !== JSON.stringify(tellsOther.get(key));
    return {
      key,
      shown: String(told.get(key)?.[TITLE] ?? ''),
      one: seenByOne.has(key),
      other: seenByOther.has(key),
      differs,
    };
  });
  const counts = { both: both.length, onlyOne: onlyOne.length, onlyOther: onlyOther.length };
  return { ok: true, value: { ...counts, cut: one.order.cut || other.order.cut, rows } };
}

function keysOf({ order }: Looking): ReadonlySet<string> {
  return new Set(order.keys.map(String));
}

/** The rows by their keys alone, whatever they were walked to over and however they were filtered. */
function onlyOf({ entity }: RowsRequest): RowsRequest {
  return { entity, where: '', orderBy: '', via: null };
}
