import { generationsOf } from './generations.js';
import type { MapLabel, MapLayout, MapStem, PlacedLabel, Point } from './map.js';
import { route } from './routes.js';
import { GAP, type MapRow, makeRows, placeAcross } from './rows.js';

const MARGIN = 44;
/** Generations wider than this may wrap. */
const LEAST_WIDTH = 900;
/** Up to this many labels several widths are tried. */
const MOST_TRIED = 150;
/** How much wider than high the sheet is that the map is looked at on. */
const SHEET = 1.6;
/** Room at the right of a label for the loops of stems that come back to it. */
const LOOP = 34;
const MANY_LABELS = 60;
const FAR_ROWS = 4;
const FAR_ACROSS = 1400;

/**
 * Where labels and stems stand: generations from top to bottom, each entity below all those whose key it holds.
 * Wide generations wrap where the whole is then seen the largest. The same input gives the same picture.
 */
export function layoutMap(labels: readonly MapLabel[], stems: readonly MapStem[]): MapLayout {
  const entities = labels.filter((label) => label.kind === 'entity');
  return layoutAs(labels, stems, { generation: generationsOf(entities, stems).generation, middle: null });
}

/** An arrangement of labels: the generation of each, and the label that stands in the middle of its row. */
export interface Arrangement {
  readonly generation: ReadonlyMap<string, number>;
  readonly middle: string | null;
}

/** As `layoutMap`, with the generations given. */
export function layoutAs(labels: readonly MapLabel[], stems: readonly MapStem[], arrangement: Arrangement): MapLayout {
  const area = labels.reduce((sum, label) => sum + (label.width + GAP) * (label.height + 90), 0);
  const balanced = Math.max(LEAST_WIDTH, Math.sqrt(area * 1.9));
  if (labels.length > MOST_TRIED) return layoutWithin(labels, stems, arrangement, balanced);
  const tried = [0.6, 0.8, 1, 1.3, 1.6].map((share) => layoutWithin(labels, stems, arrangement, balanced * share));
  const scale = ({ width, height }: MapLayout) => Math.min(SHEET / width, 1 / height);
  return tried.reduce((best, layout) => (scale(layout) > scale(best) * 1.02 ? layout : best));
}

/** The picture with generations no wider than this, where they can be wrapped. */
function layoutWithin(
  labels: readonly MapLabel[],
  stems: readonly MapStem[],
  { generation, middle }: Arrangement,
  widest: number,
): MapLayout {
  const loops = new Map<string, MapStem[]>();
  for (const stem of stems) if (stem.from === stem.to) loops.set(stem.from, [...(loops.get(stem.from) ?? []), stem]);
  const rows = makeRows(labels, stems, generation, widest).map((row) => withMiddle(row, middle));
  const widths = rows.map((row) => row.labels.reduce((sum, label) => sum + label.width + GAP, -GAP));
  const across = Math.max(0, ...widths);
  const x = new Map(Array.from(placeAcross(rows, stems, across), ([id, left]) => [id, MARGIN + left]));
  const short = shortened(rows, x, stems);
  const drawn = stems.filter((stem) => !short.has(stem.id));
  const { rowY, height, points } = route(rows, x, drawn, MARGIN + across);
  const placed: PlacedLabel[] = rows.flatMap((row, index) =>
    row.labels.map((label) => ({ ...label, x: x.get(label.id) ?? 0, y: rowY[index] ?? 0, generation: row.generation })),
  );
  const hubs = new Map<string, MapStem[]>();
  for (const stem of stems) if (short.has(stem.id)) hubs.set(stem.to, [...(hubs.get(stem.to) ?? []), stem]);
  const byId = new Map(placed.map((label) => [label.id, label]));
  const placedStems = stems.flatMap((stem) => {
    const corners = short.has(stem.id)
      ? stub(byId.get(stem.to), (hubs.get(stem.to) ?? []).indexOf(stem))
      : stem.from === stem.to
        ? loopPoints(byId.get(stem.from), (loops.get(stem.from) ?? []).indexOf(stem))
        : points.get(stem.id);
    return corners === undefined ? [] : [{ ...stem, points: corners, short: short.has(stem.id) }];
  });
  const right = placedStems.reduce(
    (most, { points: corners }) => corners.reduce((far, point) => Math.max(far, point.x), most),
    MARGIN + across,
  );
  const firstOfGeneration = new Map<number, number>();
  for (const label of placed)
    if (label.kind === 'entity' && !firstOfGeneration.has(label.generation)) firstOfGeneration.set(label.generation, label.y);
  return {
    labels: placed,
    stems: placedStems,
    width: right + MARGIN,
    height,
    generations: Array.from(firstOfGeneration, ([number, y]) => ({ number, y })),
  };
}

/** The row with a label in its middle, and the others at its sides in their order. */
function withMiddle(row: MapRow, middle: string | null): MapRow {
  const label = row.labels.find(({ id }) => id === middle);
  if (label === undefined) return row;
  const others = row.labels.filter((other) => other !== label);
  const half = Math.floor(others.length / 2);
  return { ...row, labels: [...others.slice(0, half), label, ...others.slice(half)] };
}

/** Where there are many labels, stems that would run across the sheet are drawn by their ends, as those of hubs are. */
function shortened(rows: readonly MapRow[], x: ReadonlyMap<string, number>, stems: readonly MapStem[]): ReadonlySet<string> {
  const rowOf = new Map(rows.flatMap((row, index) => row.labels.map((label) => [label.id, index] as const)));
  const many = rowOf.size > MANY_LABELS;
  const isFar = ({ from, to }: MapStem) =>
    Math.abs((rowOf.get(from) ?? 0) - (rowOf.get(to) ?? 0)) > FAR_ROWS ||
    Math.abs((x.get(from) ?? 0) - (x.get(to) ?? 0)) > FAR_ACROSS;
  return new Set(stems.filter((stem) => stem.hub || (many && isFar(stem))).map(({ id }) => id));
}

/** The end of a stem whose way is not drawn: it enters at the right of the head, where no other does. */
function stub(label: PlacedLabel | undefined, index: number): Point[] | undefined {
  if (label === undefined) return undefined;
  const x = label.x + label.width - 10 - index * 9;
  return [
    { x, y: label.y - 14 },
    { x, y: label.y },
  ];
}

/** A stem that comes back to its own label leaves on the right and comes in a little lower. */
function loopPoints(label: PlacedLabel | undefined, index: number): Point[] | undefined {
  if (label === undefined) return undefined;
  const right = label.x + label.width;
  const top = label.y + 16 + index * 34;
  return [
    { x: right, y: top },
    { x: right + LOOP, y: top },
    { x: right + LOOP, y: top + 26 },
    { x: right, y: top + 26 },
  ];
}
