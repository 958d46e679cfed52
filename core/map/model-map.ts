import {
  type Entity,
  isPivot,
  type Model,
  type PivotRelation,
  type PolymorphicPivotRelation,
  type PolymorphicRelation,
  type Relation,
} from '../model/index.js';
import { typeName } from '../values/index.js';
import { generationsOf } from './generations.js';
import { knotLabel, pivotLabel } from './label-id.js';
import { detailOnMap, nameOnMap } from './label-text.js';
import type { MapLabel, MapStem } from './map.js';

/** A line of an entity's label: a column, and what it is. */
export interface LabelLine {
  readonly text: string;
  readonly sort: 'key' | 'points' | 'field';
  readonly detail: string;
  /** The relation that the column stores; null for a plain field. */
  readonly relation: string | null;
}

export interface EntityLabel {
  readonly id: string;
  readonly name: string;
  readonly table: string;
  /** Further fields, which a closer look shows. */
  readonly more: readonly LabelLine[];
  /** How many entities a fold hides below it; 0 where it is not folded. */
  readonly hidden: number;
  readonly lines: readonly LabelLine[];
}

const NAME_WIDTH = 9.8;
const MONO_WIDTH = 7.3;
/** Names beside a lozenge or a knot stay readable on a map that is seen smaller, so they need more of it. */
const NAME_BESIDE = 1.35 * MONO_WIDTH;
const HEAD_HEIGHT = 48;
const LINE_HEIGHT = 18;
const LEAST_LABEL = 130;
/** Where there are few entities their labels have room for some fields beside the keys. */
const FEW_ENTITIES = 6;
const MOST_FIELDS = 4;
const MOST_LINES = 12;
const MOST_OF_KIND = 3;
/** In a tree of this size an entity that this many point at is a hub. */
const MANY_ENTITIES = 30;
const HUB = 12;

/** The detail of each label, and the entities below which everything is folded away. */
export interface MapOptions {
  readonly lines: 'names' | 'keys' | 'all';
  readonly folded: readonly string[];
}

/** What stands above what: those whose key another holds, and bases above their kinds. */
function keyPairs(model: Model): (readonly [parent: string, child: string])[] {
  const kinds = Array.from(model.entities.values()).flatMap(({ name, kinds: own }) =>
    own === null || own.base === null ? [] : [[own.base, name] as const],
  );
  const keys = Array.from(model.relations.values()).flatMap((relation) => {
    if (relation.kind === 'key') return [[relation.parent, relation.child] as const];
    return relation.kind === 'polymorphic' ? relation.targets.map(({ entity }) => [entity, relation.child] as const) : [];
  });
  return [...keys, ...kinds];
}

/** The entities that nearly everything points at, where there are many. */
function hubsOf(model: Model): ReadonlySet<string> {
  if (model.entities.size < MANY_ENTITIES) return new Set();
  const children = new Map<string, number>();
  for (const [parent] of keyPairs(model)) children.set(parent, (children.get(parent) ?? 0) + 1);
  return new Set(Array.from(children).flatMap(([name, count]) => (count >= HUB ? [name] : [])));
}

/** Everything that stands below the folded entities, over any number of keys. */
function hiddenBy(
  model: Model,
  folded: readonly string[],
): { all: ReadonlySet<string>; below: ReadonlyMap<string, ReadonlySet<string>> } {
  const children = new Map<string, string[]>();
  for (const [parent, child] of keyPairs(model)) children.set(parent, [...(children.get(parent) ?? []), child]);
  const below = new Map<string, ReadonlySet<string>>();
  const all = new Set<string>();
  for (const name of folded) {
    const reached = new Set([name]);
    for (const here of reached) for (const child of children.get(here) ?? []) reached.add(child);
    reached.delete(name);
    below.set(name, reached);
    for (const child of reached) all.add(child);
  }
  // One that is folded itself stays to be unfolded, unless another hides it.
  return { all, below };
}

/** The labels and stems of a map, before they are laid out. */
export interface ModelMap {
  readonly labels: readonly MapLabel[];
  readonly stems: readonly MapStem[];
  readonly entities: readonly EntityLabel[];
  /** What each folded entity hides. */
  readonly folds: ReadonlyMap<string, ReadonlySet<string>>;
}

/** The labels and stems of a model's map, sized for the fonts of the page. */
export function mapOf(model: Model, { lines: detail = 'keys', folded = [] }: Partial<MapOptions> = {}): ModelMap {
  const hidden = hiddenBy(model, folded);
  const hubs = hubsOf(model);
  const labels: MapLabel[] = [];
  const stems: MapStem[] = [];
  const entities: EntityLabel[] = [];
  for (const entity of model.entities.values()) {
    if (hidden.all.has(entity.name)) continue;
    const keys = keyColumnsOf(entity);
    const others = entity.fields.filter(
      (field) =>
        field.owner === entity.name &&
        !entity.key.columns.includes(field.column.value) &&
        !keys.some((key) => key.column === field.column.value) &&
        field.mixin === null,
    );
    const shown: LabelLine[] = others.map((field) => ({
      text: field.column.value,
      sort: 'field',
      detail: typeName(field.type),
      relation: null,
    }));
    // A kind is told from its base by what it has of its own.
    const few = model.entities.size <= FEW_ENTITIES ? MOST_FIELDS : isKind(entity) ? MOST_OF_KIND : 0;
    const count = detail === 'all' ? MOST_LINES : few;
    const keyLines: LabelLine[] = [
      ...(isKind(entity) ? [] : entity.key.columns).map(
        (text): LabelLine => ({ text, sort: 'key', detail: 'key', relation: null }),
      ),
      ...keys
        .filter((key) => !entity.key.columns.includes(key.column))
        .map(({ column, detail: towards, relation }): LabelLine => ({ text: column, sort: 'points', detail: towards, relation })),
    ];
    const lines = detail === 'names' ? [] : [...keyLines, ...shown.slice(0, count)];
    const more = detail === 'names' ? [] : shown.slice(count);
    const label: EntityLabel = {
      id: entity.name,
      name: entity.name,
      table: belowName(entity),
      lines,
      more,
      hidden: hidden.below.get(entity.name)?.size ?? 0,
    };
    entities.push(label);
    labels.push(sized(label));
  }
  const relations = Array.from(model.relations.values()).filter((relation) =>
    entitiesOf(relation).every((name) => !hidden.all.has(name)),
  );
  for (const relation of relations) {
    if (relation.kind !== 'key') continue;
    stems.push({
      id: relation.name,
      relation: relation.name,
      kind: 'key',
      from: relation.parent,
      to: relation.child,
      fromEnd: relation.required ? 'one' : 'at most one',
      toEnd: relation.form === 'one-to-one' ? 'at most one' : 'many',
      hub: relation.child !== relation.parent && hubs.has(relation.parent),
    });
  }
  for (const { name, kinds } of model.entities.values()) {
    if (kinds === null || kinds.base === null || hidden.all.has(name) || hidden.all.has(kinds.base)) continue;
    const ends = { fromEnd: 'none', toEnd: 'none' } as const;
    stems.push({ id: `kind ${name}`, relation: name, kind: 'kind', from: kinds.base, to: name, ...ends, hub: false });
  }
  for (const relation of relations) if (relation.kind === 'polymorphic') addKnot(relation, labels, stems);
  const { generation } = generationsOf(labels, stems);
  for (const relation of relations) {
    // Pairs that an entity holds are seen as that entity.
    if (!isPivot(relation) || relation.entity !== null) continue;
    const pivot = pivotLabel(relation.name);
    const table = relation.table.value.name;
    labels.push({ id: pivot, kind: 'pivot', width: Math.ceil(30 + nameOnMap(table).length * NAME_BESIDE), height: 24 });
    stems.push(
      ...(relation.kind === 'pivot' ? pivotStems(relation, pivot, generation) : typedStems(relation, pivot, generation)),
    );
  }
  return { labels, stems, entities, folds: hidden.below };
}

/** The label of an entity with the size that its lines need. */
export function sized({ id, name, table, lines }: EntityLabel): MapLabel {
  const widest = Math.max(
    ...lines.map(({ text, detail }) => (nameOnMap(text).length + detailOnMap(detail).length + 3) * MONO_WIDTH),
    nameOnMap(table).length * MONO_WIDTH,
    nameOnMap(name).length * NAME_WIDTH,
  );
  return {
    id,
    kind: 'entity',
    width: Math.ceil(Math.max(LEAST_LABEL, widest + 24)),
    height: HEAD_HEIGHT + (lines.length === 0 ? 4 : lines.length * LINE_HEIGHT + 10),
  };
}

function isKind({ kinds }: Entity): boolean {
  return kinds !== null && kinds.base !== null;
}

/** What stands below an entity's name: its table, or of what it is a kind. */
function belowName(entity: Entity): string {
  const { kinds } = entity;
  const table = entity.table.value.name;
  if (entity.given) return `${table}, given`;
  if (kinds === null) return table;
  const shares = kinds.storage.kind === 'single table' || kinds.storage.kind === 'json';
  if (kinds.base !== null && shares) return kinds.abstract ? 'abstract' : `'${kinds.mark}'`;
  if (kinds.storage.kind === 'separate tables' && kinds.abstract) return 'abstract';
  return kinds.abstract ? `${table}, abstract` : table;
}

interface KeyColumnLine {
  readonly column: string;
  readonly detail: string;
  readonly relation: string;
}

/** The columns of an entity's own that hold other rows' keys, with where they lead. */
function keyColumnsOf(entity: Entity): KeyColumnLine[] {
  const lines: KeyColumnLine[] = entity.roles.flatMap((role) =>
    role.way.kind === 'key' && role.entity === entity.name
      ? role.way.columns.map((column) => ({ column, detail: `↑ ${role.target}`, relation: role.relation }))
      : [],
  );
  for (const { branches, relation, entity: owner } of entity.polymorphic) {
    if (owner !== entity.name) continue;
    for (const { way, target } of branches) {
      if (way.kind !== 'key') continue;
      if (way.mark === null) lines.push(...way.columns.map((column) => ({ column, detail: `↑ ${target}`, relation })));
      else if (!lines.some(({ column }) => column === way.mark?.column)) {
        const towards = `↑ one of ${branches.length}`;
        lines.push({ column: way.mark.column, detail: 'type', relation });
        lines.push(...way.columns.map((column) => ({ column, detail: towards, relation })));
      }
    }
  }
  return lines;
}

/** The entities that a relation stands between. */
function entitiesOf(relation: Relation): string[] {
  switch (relation.kind) {
    case 'key':
      return [relation.child, relation.parent];
    case 'pivot':
      return relation.ends.map((end) => end.entity);
    case 'polymorphic':
      return [relation.child, ...relation.targets.map(({ entity }) => entity)];
    case 'polymorphic pivot':
      return [relation.near.entity, ...relation.targets.map(({ entity }) => entity)];
  }
}

/** A knot in which the stems of all targets meet, with one stem from it to the child. */
function addKnot(relation: PolymorphicRelation, labels: MapLabel[], stems: MapStem[]): void {
  const knot = knotLabel(relation.name);
  const word = relation.childRole ?? relation.name;
  labels.push({ id: knot, kind: 'knot', width: Math.ceil(36 + nameOnMap(word).length * NAME_BESIDE), height: 26 });
  const common = { relation: relation.name, kind: 'polymorphic' as const, hub: false };
  const many = relation.targets.every(({ knows }) => knows !== 'many') ? 'at most one' : 'many';
  for (const { entity } of relation.targets) {
    const fromEnd = relation.required ? 'one' : 'at most one';
    stems.push({ ...common, id: `${relation.name} ${entity}`, from: entity, to: knot, fromEnd, toEnd: 'none' });
  }
  stems.push({ ...common, id: `${relation.name} child`, from: knot, to: relation.child, fromEnd: 'none', toEnd: many });
}

/** A pivot's stems, where several entities stand on one side of it. */
function typedStems(relation: PolymorphicPivotRelation, pivot: string, generation: ReadonlyMap<string, number>): MapStem[] {
  const common = { relation: relation.name, kind: 'polymorphic' as const, hub: false };
  const names = [relation.near.entity, ...relation.targets.map(({ entity }) => entity)];
  const deepest = Math.max(...names.map((name) => generation.get(name) ?? 0));
  const lone = names.filter((name) => (generation.get(name) ?? 0) === deepest).length < names.length;
  return names.map((name, index): MapStem => {
    const kind = index === 0 ? 'pivot' : 'polymorphic';
    const id = `${relation.name} ${index} ${name}`;
    const below = lone && (generation.get(name) ?? 0) === deepest;
    return below
      ? { ...common, kind, id, from: pivot, to: name, fromEnd: 'none', toEnd: 'many' }
      : { ...common, kind, id, from: name, to: pivot, fromEnd: 'many', toEnd: 'none' };
  });
}

function pivotStems(relation: PivotRelation, pivot: string, generation: ReadonlyMap<string, number>): MapStem[] {
  const [first, second] = relation.ends;
  const common = { relation: relation.name, kind: 'pivot' as const, hub: false };
  const stem = (entity: string, side: string, below: boolean): MapStem =>
    below
      ? { ...common, id: `${relation.name} ${side}`, from: pivot, to: entity, fromEnd: 'none', toEnd: 'many' }
      : { ...common, id: `${relation.name} ${side}`, from: entity, to: pivot, fromEnd: 'many', toEnd: 'none' };
  const [a, b] = [generation.get(first.entity) ?? 0, generation.get(second.entity) ?? 0];
  return [stem(first.entity, 'first', a > b), stem(second.entity, 'second', b > a)];
}
