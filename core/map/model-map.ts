import type { Model, PivotRelation } from '../model/index.js';
import { typeName } from '../values/index.js';
import { generationsOf } from './generations.js';
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

const NAME_WIDTH = 9.4;
const MONO_WIDTH = 7.3;
const HEAD_HEIGHT = 48;
const LINE_HEIGHT = 18;
const LEAST_LABEL = 128;
/** Where there are few entities their labels have room for some fields beside the keys. */
const FEW_ENTITIES = 6;
const MOST_FIELDS = 4;
const MOST_LINES = 12;
/** In a tree of this size an entity that this many point at is a hub. */
const MANY_ENTITIES = 30;
const HUB = 12;

/** What is shown of each entity, and below which ones everything is folded away. */
export interface MapOptions {
  readonly lines: 'names' | 'keys' | 'all';
  readonly folded: readonly string[];
}

/** The entities that nearly everything points at, where there are many. */
function hubsOf(model: Model): ReadonlySet<string> {
  if (model.entities.size < MANY_ENTITIES) return new Set();
  const children = new Map<string, number>();
  for (const relation of model.relations.values())
    if (relation.kind === 'key') children.set(relation.parent, (children.get(relation.parent) ?? 0) + 1);
  return new Set(Array.from(children).flatMap(([name, count]) => (count >= HUB ? [name] : [])));
}

/** Everything that stands below the folded entities, over any number of keys. */
function hiddenBy(model: Model, folded: readonly string[]): { all: ReadonlySet<string>; below: ReadonlyMap<string, number> } {
  const children = new Map<string, string[]>();
  for (const relation of model.relations.values())
    if (relation.kind === 'key') children.set(relation.parent, [...(children.get(relation.parent) ?? []), relation.child]);
  const below = new Map<string, number>();
  const all = new Set<string>();
  for (const name of folded) {
    const reached = new Set([name]);
    for (const here of reached) for (const child of children.get(here) ?? []) reached.add(child);
    reached.delete(name);
    below.set(name, reached.size);
    for (const child of reached) all.add(child);
  }
  // One that is folded itself stays to be unfolded, unless another hides it.
  return { all, below };
}

/** The labels and stems of a model's map, sized for the fonts of the page. */
export function mapOf(
  model: Model,
  { lines: detail = 'keys', folded = [] }: Partial<MapOptions> = {},
): { labels: MapLabel[]; stems: MapStem[]; entities: EntityLabel[] } {
  const hidden = hiddenBy(model, folded);
  const hubs = hubsOf(model);
  const labels: MapLabel[] = [];
  const stems: MapStem[] = [];
  const entities: EntityLabel[] = [];
  for (const entity of model.entities.values()) {
    if (hidden.all.has(entity.name)) continue;
    const keys = entity.roles.flatMap((role) =>
      role.way.kind === 'key' ? role.way.columns.map((column) => ({ role, column })) : [],
    );
    const others = entity.fields.filter(
      (field) =>
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
    const few = model.entities.size <= FEW_ENTITIES ? MOST_FIELDS : 0;
    const count = detail === 'all' ? MOST_LINES : few;
    const keyLines: LabelLine[] = [
      ...entity.key.columns.map((text): LabelLine => ({ text, sort: 'key', detail: 'key', relation: null })),
      ...keys
        .filter((key) => !entity.key.columns.includes(key.column))
        .map(
          ({ role, column }): LabelLine => ({
            text: column,
            sort: 'points',
            detail: `↑ ${role.target}`,
            relation: role.relation,
          }),
        ),
    ];
    const lines = detail === 'names' ? [] : [...keyLines, ...shown.slice(0, count)];
    const more = detail === 'names' ? [] : shown.slice(count);
    const widest = Math.max(
      ...lines.map((line) => (line.text.length + line.detail.length + 3) * MONO_WIDTH),
      entity.table.value.name.length * MONO_WIDTH,
      entity.name.length * NAME_WIDTH,
    );
    labels.push({
      id: entity.name,
      kind: 'entity',
      width: Math.ceil(Math.max(LEAST_LABEL, widest + 24)),
      height: HEAD_HEIGHT + (lines.length === 0 ? 4 : lines.length * LINE_HEIGHT + 10),
    });
    entities.push({
      id: entity.name,
      name: entity.name,
      table: entity.table.value.name,
      lines,
      more,
      hidden: hidden.below.get(entity.name) ?? 0,
    });
  }
  const relations = Array.from(model.relations.values()).filter((relation) =>
    relation.kind === 'key'
      ? !hidden.all.has(relation.child) && !hidden.all.has(relation.parent)
      : relation.ends.every((end) => !hidden.all.has(end.entity)),
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
  const { generation } = generationsOf(labels, stems);
  for (const relation of relations) {
    if (relation.kind !== 'pivot') continue;
    const pivot = `pivot ${relation.name}`;
    const table = relation.table.value.name;
    labels.push({ id: pivot, kind: 'pivot', width: Math.ceil(30 + table.length * MONO_WIDTH), height: 24 });
    stems.push(...pivotStems(relation, pivot, generation));
  }
  return { labels, stems, entities };
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
