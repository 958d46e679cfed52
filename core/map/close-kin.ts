import { layoutAs } from './layout.js';
import type { MapLabel, MapLayout, MapStem } from './map.js';
import { type EntityLabel, type ModelMap, sized } from './model-map.js';

/** Whose close kin are laid out, and how far. */
export interface CloseKin {
  /** The entities in the middle: the one that is selected, or those of a relation. */
  readonly centres: readonly string[];
  /** Those whose own kin are shown as well. */
  readonly opened: readonly string[];
  /** Those whose kin are shown to the last, however many. */
  readonly whole: readonly string[];
}

export interface KinMap {
  readonly entities: readonly EntityLabel[];
  readonly layout: MapLayout;
  /** How many of an entity's kin are not shown; only of those that have some. */
  readonly further: ReadonlyMap<string, number>;
  /** The generation of the middle: less is further up. */
  readonly middle: number;
}

/** An entity with many kin shows so many of them on each side at first: the one in the middle, and one that is opened. */
const MOST_ON_A_SIDE = { middle: 12, opened: 5 };

/** Room beside a name for the count of kin that are not shown. */
const COUNT_WIDTH = 34;

type Side = -1 | 0 | 1;

/** What one entity is to another: above it by a key or as its base, below it, or beside it over pairs. */
interface Link {
  readonly other: string;
  readonly side: Side;
  readonly stems: readonly MapStem[];
}

/**
 * The close kin of what is selected, laid out by themselves: it stands in the middle, parents and bases above, children
 * and kinds below, partners over pairs at its sides. Only the stems of those whose kin are shown are drawn.
 */
export function closeKinMap({ labels, stems, entities }: Pick<ModelMap, 'labels' | 'stems' | 'entities'>, kin: CloseKin): KinMap {
  const links = linksOf(labels, stems);
  const centres = kin.centres.filter((name) => entities.some(({ id }) => id === name));
  const level = levelsOf(centres, links, kin);
  const shows = new Set([...centres, ...kin.opened].filter((name) => level.has(name)));
  const drawn = new Map<string, MapStem>();
  for (const name of shows)
    for (const link of links.get(name) ?? [])
      if (level.has(link.other)) for (const stem of link.stems) drawn.set(stem.id, { ...stem, hub: false });
  const further = new Map<string, number>();
  for (const name of level.keys()) {
    const left = new Set((links.get(name) ?? []).flatMap(({ other }) => (level.has(other) ? [] : [other]))).size;
    if (left > 0) further.set(name, left);
  }
  const own = drawnLabels(labels, entities, { level, shows, drawn, further });
  const highest = Math.min(0, ...level.values());
  const generation = new Map(Array.from(level, ([name, at]) => [name, at - highest]));
  return {
    entities: own.entities,
    layout: layoutAs(own.labels, upright(own.labels, Array.from(drawn.values()), generation), {
      generation,
      middle: centres[0] ?? null,
    }),
    further,
    middle: -highest,
  };
}

/** Where each entity stands that is shown: 0 is the middle, -1 a generation above it. The nearest to the middle decides. */
function levelsOf(
  centres: readonly string[],
  links: ReadonlyMap<string, readonly Link[]>,
  { opened, whole }: CloseKin,
): Map<string, number> {
  const level = new Map<string, number>();
  const [first] = centres;
  if (first !== undefined) level.set(first, 0);
  // Of a relation's entities the later ones stand as they do to the first.
  for (const name of centres)
    if (!level.has(name)) level.set(name, links.get(first ?? '')?.find(({ other }) => other === name)?.side ?? 0);
  const wide = new Set([...centres, ...opened]);
  for (const name of level.keys()) {
    if (!wide.has(name)) continue;
    const most = whole.includes(name) ? Number.POSITIVE_INFINITY : MOST_ON_A_SIDE[centres.includes(name) ? 'middle' : 'opened'];
    const counts = new Map<Side, number>();
    for (const { other, side } of links.get(name) ?? []) {
      if (level.has(other)) continue;
      const count = counts.get(side) ?? 0;
      if (count >= most) continue;
      counts.set(side, count + 1);
      level.set(other, (level.get(name) ?? 0) + side);
    }
  }
  return level;
}

/** What each entity is linked to directly, over keys, kinds, knots and pivots. */
function linksOf(labels: readonly MapLabel[], stems: readonly MapStem[]): ReadonlyMap<string, readonly Link[]> {
  const between = new Set(labels.filter(({ kind }) => kind !== 'entity').map(({ id }) => id));
  const isPivot = new Set(labels.filter(({ kind }) => kind === 'pivot').map(({ id }) => id));
  const links = new Map<string, Link[]>();
  const add = (name: string, link: Link) => {
    const list = links.get(name);
    if (list === undefined) links.set(name, [link]);
    else list.push(link);
  };
  const meeting = new Map<string, MapStem[]>();
  for (const stem of stems) {
    const middle = [stem.from, stem.to].find((end) => between.has(end));
    if (middle !== undefined) meeting.set(middle, [...(meeting.get(middle) ?? []), stem]);
    else {
      add(stem.from, { other: stem.to, side: 1, stems: [stem] });
      if (stem.from !== stem.to) add(stem.to, { other: stem.from, side: -1, stems: [stem] });
    }
  }
  for (const [middle, around] of meeting) {
    const entityOf = (stem: MapStem) => (stem.from === middle ? stem.to : stem.from);
    // The targets of a knot are no kin of each other, nor are those on the several sides of pairs.
    const lone = isPivot.has(middle)
      ? (around.find(({ kind }) => kind === 'pivot') ?? around[0])
      : around.find(({ from }) => from === middle);
    if (lone === undefined) continue;
    for (const stem of around) {
      if (stem === lone) continue;
      const both = [stem, lone];
      const [side, back]: readonly [Side, Side] = isPivot.has(middle) ? [0, 0] : [1, -1];
      add(entityOf(stem), { other: entityOf(lone), side, stems: both });
      if (entityOf(stem) !== entityOf(lone)) add(entityOf(lone), { other: entityOf(stem), side: back, stems: both });
    }
  }
  return links;
}

/** The labels that are drawn: those in the middle with all their keys, others with the keys whose stems are drawn. */
function drawnLabels(
  labels: readonly MapLabel[],
  entities: readonly EntityLabel[],
  {
    level,
    shows,
    drawn,
    further,
  }: {
    readonly level: ReadonlyMap<string, number>;
    readonly shows: ReadonlySet<string>;
    readonly drawn: ReadonlyMap<string, MapStem>;
    readonly further: ReadonlyMap<string, number>;
  },
): { readonly labels: readonly MapLabel[]; readonly entities: readonly EntityLabel[] } {
  const relations = new Set(Array.from(drawn.values(), ({ relation }) => relation));
  const middles = new Set(Array.from(drawn.values()).flatMap(({ from, to }) => [from, to]));
  const kin = entities
    .filter(({ id }) => level.has(id))
    .map((entity) =>
      shows.has(entity.id)
        ? entity
        : { ...entity, lines: entity.lines.filter(({ relation }) => relation !== null && relations.has(relation)) },
    );
  return {
    entities: kin,
    labels: [
      ...kin.map((entity) => {
        const label = sized(entity);
        return further.has(entity.id) ? { ...label, width: label.width + COUNT_WIDTH } : label;
      }),
      ...labels.filter(({ id, kind }) => kind !== 'entity' && middles.has(id)),
    ],
  };
}

/** A pivot's stems turned so that they lead downwards from where its entities stand here. */
function upright(
  labels: readonly MapLabel[],
  stems: readonly MapStem[],
  generation: ReadonlyMap<string, number>,
): readonly MapStem[] {
  const pivots = new Set(labels.filter(({ kind }) => kind === 'pivot').map(({ id }) => id));
  const deepest = new Map<string, { least: number; most: number }>();
  const parts = (stem: MapStem) => (pivots.has(stem.from) ? [stem.from, stem.to] : [stem.to, stem.from]) as [string, string];
  for (const stem of stems) {
    const [pivot, entity] = parts(stem);
    if (!pivots.has(pivot)) continue;
    const at = generation.get(entity) ?? 0;
    const known = deepest.get(pivot) ?? { least: at, most: at };
    deepest.set(pivot, { least: Math.min(known.least, at), most: Math.max(known.most, at) });
  }
  return stems.map((stem) => {
    const [pivot, entity] = parts(stem);
    const range = deepest.get(pivot);
    if (range === undefined) return stem;
    const below = range.least < range.most && generation.get(entity) === range.most;
    return below
      ? { ...stem, from: pivot, to: entity, fromEnd: 'none', toEnd: 'many' }
      : { ...stem, from: entity, to: pivot, fromEnd: 'many', toEnd: 'none' };
  });
}
