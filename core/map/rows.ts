import type { MapLabel, MapStem } from './map.js';

/** A row of labels, from left to right. */
export interface MapRow {
  readonly generation: number;
  readonly labels: MapLabel[];
}

export const GAP = 48;
const SWEEPS = 8;

/**
 * The rows of a map: each generation, wrapped where it is wide, and below it the pivots that hang between it and the
 * next. Related labels are drawn together by sweeping down and up over the means of their partners.
 */
export function makeRows(
  labels: readonly MapLabel[],
  stems: readonly MapStem[],
  generation: ReadonlyMap<string, number>,
  widest: number,
): MapRow[] {
  const byId = new Map(labels.map((label) => [label.id, label]));
  const deepest = Math.max(0, ...generation.values());
  const rows: MapRow[] = [];
  const levels = new Map(labels.map((label) => [label.id, generation.get(label.id) ?? 0]));
  for (const [id, level] of pivotLevels(stems, generation, byId)) levels.set(id, level);
  for (let level = 0; level <= deepest; level++) {
    for (const between of [false, true]) {
      const here = labels.filter((label) => (label.kind !== 'entity') === between && levels.get(label.id) === level);
      if (here.length > 0) rows.push({ generation: level, labels: here });
    }
  }
  const partners = partnersOf(stems);
  // Related ones are brought together before a wide generation is wrapped, so that they stay together.
  sweep(rows, partners);
  const folded = rows.flatMap((row) => wrapped(row, widest));
  sweep(folded, partners);
  return folded;
}

/** A pivot, or a knot, hangs just above the lowest of its entities, or below both where they stand side by side. */
function pivotLevels(
  stems: readonly MapStem[],
  generation: ReadonlyMap<string, number>,
  byId: ReadonlyMap<string, MapLabel>,
): Map<string, number> {
  const ends = new Map<string, number[]>();
  for (const { from, to } of stems) {
    const [pivot, entity] = byId.get(from)?.kind !== 'entity' ? [from, to] : [to, from];
    if (byId.get(pivot)?.kind === 'entity') continue;
    ends.set(pivot, [...(ends.get(pivot) ?? []), generation.get(entity) ?? 0]);
  }
  return new Map(
    Array.from(ends, ([pivot, levels]) => {
      const [low = 0, high = 0] = [Math.min(...levels), Math.max(...levels)];
      return [pivot, low === high ? high : high - 1];
    }),
  );
}

/** Column by column: labels that stand side by side in the order come to stand above each other. */
function wrapped({ generation, labels }: MapRow, widest: number): MapRow[] {
  const total = labels.reduce((sum, label) => sum + label.width + GAP, 0);
  const count = Math.max(1, Math.ceil(total / widest));
  return Array.from({ length: count }, (_, row) => ({
    generation,
    labels: labels.filter((_label, index) => index % count === row),
  })).filter((row) => row.labels.length > 0);
}

type Partners = ReadonlyMap<string, readonly string[]>;

function partnersOf(stems: readonly MapStem[]): Partners {
  const partners = new Map<string, string[]>();
  const add = (one: string, other: string) => {
    const list = partners.get(one);
    if (list === undefined) partners.set(one, [other]);
    else list.push(other);
  };
  for (const { from, to, hub } of stems) {
    if (from === to || hub) continue;
    add(from, to);
    add(to, from);
  }
  return partners;
}

/**
 * Where each label of the rows stands from left to right: as near as may be to the middle of its partners, in the
 * order of its row, without overlap.
 */
export function placeAcross(rows: readonly MapRow[], stems: readonly MapStem[], width: number): Map<string, number> {
  const partners = partnersOf(stems);
  const middle = new Map<string, number>();
  for (const row of rows) spread(row, middle);
  for (const [id, x] of middle) middle.set(id, x + width / 2);
  for (let round = 0; round < SWEEPS; round++) {
    for (const row of round % 2 === 0 ? rows : [...rows].reverse()) settle(row, partners, middle, width);
  }
  const left = new Map<string, number>();
  for (const row of rows)
    for (const label of row.labels) left.set(label.id, Math.round((middle.get(label.id) ?? 0) - label.width / 2));
  return left;
}

/** The least sum of squared ways from the wishes, by pooling neighbours that would overlap (isotonic regression). */
function settle(row: MapRow, partners: Partners, middle: Map<string, number>, width: number): void {
  const own = new Set(row.labels.map(({ id }) => id));
  const offsets: number[] = [];
  let offset = 0;
  for (const label of row.labels) {
    offsets.push(offset + label.width / 2);
    offset += label.width + GAP;
  }
  const slack = Math.max(0, width - (offset - GAP));
  const pools: { sum: number; count: number }[] = [];
  row.labels.forEach((label, index) => {
    const others = (partners.get(label.id) ?? []).filter((other) => !own.has(other));
    const here = middle.get(label.id) ?? 0;
    const wish = others.length === 0 ? here : others.reduce((sum, other) => sum + (middle.get(other) ?? 0), 0) / others.length;
    let pool = { sum: wish - (offsets[index] ?? 0), count: 1 };
    for (let last = pools.at(-1); last !== undefined && last.sum / last.count > pool.sum / pool.count; last = pools.at(-1)) {
      pool = { sum: pool.sum + last.sum, count: pool.count + last.count };
      pools.pop();
    }
    pools.push(pool);
  });
  let at = 0;
  for (const { sum, count } of pools) {
    const shift = Math.min(slack, Math.max(0, sum / count));
    for (let index = 0; index < count; index++, at++) {
      const label = row.labels[at];
      if (label !== undefined) middle.set(label.id, shift + (offsets[at] ?? 0));
    }
  }
}

function sweep(rows: readonly MapRow[], partners: Partners): void {
  const middle = new Map<string, number>();
  for (const row of rows) spread(row, middle);
  for (let round = 0; round < SWEEPS; round++) {
    const order = round % 2 === 0 ? rows : [...rows].reverse();
    for (const row of order) {
      const own = new Set(row.labels.map(({ id }) => id));
      const wish = new Map(
        row.labels.map(({ id }) => {
          const others = (partners.get(id) ?? []).filter((other) => !own.has(other));
          const mean = others.reduce((sum, other) => sum + (middle.get(other) ?? 0), 0) / others.length;
          return [id, others.length === 0 ? (middle.get(id) ?? 0) : mean];
        }),
      );
      row.labels.sort((a, b) => (wish.get(a.id) ?? 0) - (wish.get(b.id) ?? 0));
      spread(row, middle);
    }
  }
}

function spread(row: MapRow, middle: Map<string, number>): void {
  const total = row.labels.reduce((sum, label) => sum + label.width + GAP, -GAP);
  let x = -total / 2;
  for (const label of row.labels) {
    middle.set(label.id, x + label.width / 2);
    x += label.width + GAP;
  }
}
