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
  for (let level = 0; level <= deepest; level++) {
    const entities = labels.filter((label) => label.kind === 'entity' && generation.get(label.id) === level);
    rows.push(...wrapped(entities, level, widest));
    const pivots = labels.filter((label) => label.kind === 'pivot' && pivotLevel(label, stems, generation, byId) === level);
    rows.push(...wrapped(pivots, level, widest));
  }
  const filled = rows.filter((row) => row.labels.length > 0);
  sweep(filled, stems);
  return filled;
}

/** A pivot hangs just above the lower of its two entities, or below both where they stand side by side. */
function pivotLevel(
  pivot: MapLabel,
  stems: readonly MapStem[],
  generation: ReadonlyMap<string, number>,
  byId: ReadonlyMap<string, MapLabel>,
): number {
  const ends = stems
    .filter((stem) => stem.from === pivot.id || stem.to === pivot.id)
    .map((stem) => (stem.from === pivot.id ? stem.to : stem.from));
  const levels = ends.filter((end) => byId.get(end)?.kind === 'entity').map((end) => generation.get(end) ?? 0);
  const [low, high] = [Math.min(...levels), Math.max(...levels)];
  return low === high ? high : high - 1;
}

function wrapped(labels: readonly MapLabel[], generation: number, widest: number): MapRow[] {
  const total = labels.reduce((sum, label) => sum + label.width + GAP, 0);
  const count = Math.max(1, Math.ceil(total / widest));
  const rows: MapRow[] = [];
  let row: MapLabel[] = [];
  let width = 0;
  for (const label of labels) {
    if (row.length > 0 && width + label.width > total / count + label.width / 2) {
      rows.push({ generation, labels: row });
      row = [];
      width = 0;
    }
    row.push(label);
    width += label.width + GAP;
  }
  rows.push({ generation, labels: row });
  return rows;
}

function sweep(rows: readonly MapRow[], stems: readonly MapStem[]): void {
  const partners = new Map<string, string[]>();
  for (const { from, to } of stems) {
    if (from === to) continue;
    partners.set(from, [...(partners.get(from) ?? []), to]);
    partners.set(to, [...(partners.get(to) ?? []), from]);
  }
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
