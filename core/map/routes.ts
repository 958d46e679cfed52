import type { MapLabel, MapStem, Point } from './map.js';
import { GAP, type MapRow } from './rows.js';

const LANE = 12;
const CHANNEL_PADDING = 17;
const SLOT = 9;
/** How near to a label a stem may pass. */
const EDGE = 12;

interface Box {
  readonly row: number;
  readonly x: number;
  readonly label: MapLabel;
}

/** A horizontal stretch of a stem in the channel below a row. */
interface Bus {
  readonly channel: number;
  least: number;
  most: number;
  lane: number;
}

/** A stem on its way down: where it is, and the corners so far as (x, channel or label edge). */
interface Way {
  readonly stem: MapStem;
  readonly corners: { x: number; at: { kind: 'foot' | 'head'; row: number } | { kind: 'lane'; bus: Bus } }[];
}

export interface Routed {
  readonly rowY: readonly number[];
  readonly height: number;
  readonly points: ReadonlyMap<string, readonly Point[]>;
}

/**
 * Leads each stem from a parent's foot to a child's head along right angles: across in the channel between two rows,
 * down through the gaps between labels, so that none crosses a label. Stems of one parent share a trunk.
 */
export function route(rows: readonly MapRow[], x: ReadonlyMap<string, number>, stems: readonly MapStem[], width: number): Routed {
  const boxes = new Map<string, Box>();
  rows.forEach((row, index) => {
    for (const label of row.labels) boxes.set(label.id, { row: index, x: x.get(label.id) ?? 0, label });
  });
  const ports = headPorts(stems, boxes);
  const buses: Buses = new Map();
  const corridors = new Corridors(rows, x, width);
  const ways: Way[] = [];
  for (const stem of stems) {
    const from = boxes.get(stem.from);
    const to = boxes.get(stem.to);
    if (from === undefined || to === undefined || stem.from === stem.to) continue;
    ways.push(
      to.row > from.row ? down(stem, from, to, ports, corridors, buses) : around(stem, from, to, ports, corridors, buses),
    );
  }
  const lanes = assignLanes(Array.from(buses.values()), rows.length);
  const rowY: number[] = [];
  const channelY: number[] = [];
  let y = 24 + (lanes.above === 0 ? 0 : lanes.above * LANE + 12);
  rows.forEach((row, index) => {
    rowY.push(y);
    y += Math.max(...row.labels.map((label) => label.height));
    channelY.push(y);
    y += CHANNEL_PADDING * 2 + Math.max(0, (lanes.below[index] ?? 0) - 1) * LANE;
  });
  const points = new Map(
    ways.map(({ stem, corners }) => [
      stem.id,
      straightened(
        corners.map(({ x: at, at: place }) => {
          if (place.kind === 'lane') {
            const above = place.bus.channel < 0;
            return { x: at, y: (above ? 10 : (channelY[place.bus.channel] ?? 0) + CHANNEL_PADDING) + place.bus.lane * LANE };
          }
          const id = place.kind === 'foot' ? stem.from : stem.to;
          const top = rowY[place.row] ?? 0;
          return { x: at, y: place.kind === 'foot' ? top + (boxes.get(id)?.label.height ?? 0) : top };
        }),
      ),
    ]),
  );
  return { rowY, height: y, points };
}

/** Stems enter a head side by side, in the order of where they come from. */
function headPorts(stems: readonly MapStem[], boxes: ReadonlyMap<string, Box>): ReadonlyMap<string, number> {
  const entering = new Map<string, MapStem[]>();
  for (const stem of stems) if (stem.from !== stem.to) entering.set(stem.to, [...(entering.get(stem.to) ?? []), stem]);
  const ports = new Map<string, number>();
  for (const [id, list] of entering) {
    const box = boxes.get(id);
    if (box === undefined) continue;
    const sorted = [...list].sort((a, b) => middleOf(boxes.get(a.from)) - middleOf(boxes.get(b.from)));
    sorted.forEach((stem, index) => {
      if (box.label.kind !== 'entity') ports.set(stem.id, footOf(box) + (index - (sorted.length - 1) / 2) * 8);
      else ports.set(stem.id, box.x + (box.label.width * (index + 1)) / (sorted.length + 1));
    });
  }
  return ports;
}

function middleOf(box: Box | undefined): number {
  return box === undefined ? 0 : box.x + box.label.width / 2;
}

/** A lozenge, or a knot, stands at the left of its name. */
function footOf(box: Box): number {
  if (box.label.kind === 'knot') return box.x + 14;
  return box.label.kind === 'pivot' ? box.x + 12 : box.x + box.label.width / 2;
}

type Buses = Map<string, Bus>;

/** The stretch of one owner in one channel, made longer where it has to be. */
function busOf(buses: Buses, owner: string, channel: number, from: number, to: number): Bus {
  const key = `${owner}\n${channel}`;
  const bus = buses.get(key) ?? { channel, least: from, most: from, lane: 0 };
  bus.least = Math.min(bus.least, from, to);
  bus.most = Math.max(bus.most, from, to);
  buses.set(key, bus);
  return bus;
}

/** Where on a foot a stem begins that does not share the trunk of keys. */
function asideOf(stem: MapStem, from: Box): number {
  if (from.label.kind !== 'entity') return 0;
  switch (stem.kind) {
    case 'key':
      return 0;
    case 'kind':
      return from.label.width / 4;
    case 'pivot':
    case 'polymorphic':
      return pivotOffset(stem, from);
  }
}

function down(stem: MapStem, from: Box, to: Box, ports: ReadonlyMap<string, number>, corridors: Corridors, buses: Buses): Way {
  // Stems of keys share their parent's trunk; a pivot's go alone.
  const owner = stem.kind === 'key' || stem.kind === 'kind' ? `${stem.kind} ${stem.from}` : stem.id;
  const end = ports.get(stem.id) ?? middleOf(to);
  const start = footOf(from) + asideOf(stem, from);
  const corners: Way['corners'] = [{ x: start, at: { kind: 'foot', row: from.row } }];
  let here = start;
  for (let channel = from.row; channel < to.row; channel++) {
    const next = channel + 1 === to.row ? end : corridors.through(channel + 1, here, end, owner);
    const bus = busOf(buses, owner, channel, here, next);
    corners.push({ x: here, at: { kind: 'lane', bus } }, { x: next, at: { kind: 'lane', bus } });
    here = next;
  }
  corners.push({ x: end, at: { kind: 'head', row: to.row } });
  return { stem, corners };
}

function pivotOffset(stem: MapStem, from: Box): number {
  const side = stem.id.length % 2 === 0 ? 1 : -1;
  return side * Math.min(28, from.label.width / 4);
}

/** A stem to a label that does not stand below goes out, around, and in from above: a loop that looks like one. */
function around(stem: MapStem, from: Box, to: Box, ports: ReadonlyMap<string, number>, corridors: Corridors, buses: Buses): Way {
  const owner = stem.id;
  const start = footOf(from) + from.label.width / 4;
  const end = ports.get(stem.id) ?? middleOf(to);
  const edge = corridors.outside();
  const low = busOf(buses, owner, from.row, start, edge);
  const high = busOf(buses, `${owner} above`, to.row - 1, edge, end);
  return {
    stem,
    corners: [
      { x: start, at: { kind: 'foot', row: from.row } },
      { x: start, at: { kind: 'lane', bus: low } },
      { x: edge, at: { kind: 'lane', bus: low } },
      { x: edge, at: { kind: 'lane', bus: high } },
      { x: end, at: { kind: 'lane', bus: high } },
      { x: end, at: { kind: 'head', row: to.row } },
    ],
  };
}

/** The gaps between labels, through which stems pass a row. */
class Corridors {
  private readonly used = new Map<string, number>();
  private readonly chosen = new Map<string, number>();
  private readonly gapsOf = new Map<number, readonly { readonly left: number; readonly right: number }[]>();
  private loops = 0;

  constructor(
    private readonly rows: readonly MapRow[],
    private readonly x: ReadonlyMap<string, number>,
    private readonly width: number,
  ) {}

  /** Where a stem passes a row: the gap nearest to its straight way, a little aside for each that passes there already. */
  through(row: number, from: number, to: number, owner: string): number {
    const key = `${owner}\n${row}`;
    const known = this.chosen.get(key);
    if (known !== undefined) return known;
    const straight = Math.abs(to - from) < 2 * GAP ? to : (from + to) / 2;
    const way = (x: number) => Math.abs(x - from) + Math.abs(x - to) + Math.abs(x - straight) / 8;
    const gaps = this.gaps(row).map(({ left, right }) => {
      const inside = Math.round(Math.min(right - EDGE, Math.max(left + EDGE, straight)) / SLOT) * SLOT;
      return { left, right, x: Math.min(right - EDGE, Math.max(left + EDGE, inside)) };
    });
    const [first = { left: straight, right: straight, x: straight }] = gaps;
    const best = gaps.reduce((nearest, gap) => (way(gap.x) < way(nearest.x) ? gap : nearest), first);
    const place = `${row} ${best.x}`;
    const count = this.used.get(place) ?? 0;
    this.used.set(place, count + 1);
    const aside = count === 0 ? 0 : Math.ceil(count / 2) * SLOT * (count % 2 === 0 ? 1 : -1);
    const chosen = Math.max(best.left + EDGE / 2, Math.min(best.right - EDGE / 2, best.x + aside));
    this.chosen.set(key, chosen);
    return chosen;
  }

  outside(): number {
    this.loops += 1;
    return this.width + 10 + this.loops * SLOT;
  }

  private gaps(row: number): readonly { readonly left: number; readonly right: number }[] {
    const known = this.gapsOf.get(row);
    if (known !== undefined) return known;
    const labels = this.rows[row]?.labels ?? [];
    const edges = labels.map((label) => ({ left: this.x.get(label.id) ?? 0, width: label.width }));
    const gaps = edges.map(({ left, width }, index) => {
      const next = edges[index + 1];
      return { left: left + width, right: next === undefined ? left + width + GAP : next.left };
    });
    const [first] = edges;
    const all = first === undefined ? gaps : [{ left: first.left - GAP, right: first.left }, ...gaps];
    this.gapsOf.set(row, all);
    return all;
  }
}

/** Lanes for the stretches in each channel: two that overlap never share one. Gives the number of lanes by channel, and above the first row. */
function assignLanes(buses: readonly Bus[], channels: number): { above: number; below: readonly number[] } {
  const below = new Array<number>(channels).fill(0);
  let above = 0;
  for (let channel = -1; channel < channels; channel++) {
    const own = buses.filter((bus) => bus.channel === channel).sort((a, b) => a.least - b.least || a.most - b.most);
    const ends: number[] = [];
    for (const bus of own) {
      if (bus.least === bus.most) continue;
      let lane = ends.findIndex((end) => end + 8 < bus.least);
      if (lane < 0) lane = ends.length;
      ends[lane] = bus.most;
      bus.lane = lane;
    }
    if (channel >= 0) below[channel] = ends.length;
    else above = ends.length;
  }
  return { above, below };
}

function straightened(points: readonly Point[]): Point[] {
  return points.filter((point, index) => {
    const before = points[index - 1];
    const after = points[index + 1];
    if (before === undefined || after === undefined) return true;
    const vertical = before.x === point.x && point.x === after.x;
    const horizontal = before.y === point.y && point.y === after.y;
    return !vertical && !horizontal;
  });
}
