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
  readonly lines: readonly LabelLine[];
}

const NAME_WIDTH = 9.4;
const MONO_WIDTH = 7.3;
const HEAD_HEIGHT = 48;
const LINE_HEIGHT = 18;
const LEAST_LABEL = 116;
/** Where there are few entities their labels have room for some fields beside the keys. */
const FEW_ENTITIES = 6;
const MOST_FIELDS = 4;

/** The labels and stems of a model's map, sized for the fonts of the page. */
export function mapOf(model: Model): { labels: MapLabel[]; stems: MapStem[]; entities: EntityLabel[] } {
  const labels: MapLabel[] = [];
  const stems: MapStem[] = [];
  const entities: EntityLabel[] = [];
  for (const entity of model.entities.values()) {
    const keys = entity.roles.flatMap((role) => (role.way.kind === 'key' ? [{ role, column: role.way.column }] : []));
    const others = entity.fields.filter(
      (field) => !field.key && !keys.some((key) => key.column === field.column.value) && field.mixin === null,
    );
    const lines: LabelLine[] = [
      { text: entity.key.column.value, sort: 'key', detail: 'key', relation: null },
      ...keys
        .filter((key) => key.column !== entity.key.column.value)
        .map(
          ({ role, column }): LabelLine => ({
            text: column,
            sort: 'points',
            detail: `↑ ${role.target}`,
            relation: role.relation,
          }),
        ),
      ...others
        .slice(0, model.entities.size <= FEW_ENTITIES ? MOST_FIELDS : 0)
        .map((field): LabelLine => ({ text: field.column.value, sort: 'field', detail: typeName(field.type), relation: null })),
    ];
    const widest = Math.max(
      ...lines.map((line) => (line.text.length + line.detail.length + 3) * MONO_WIDTH),
      entity.table.value.name.length * MONO_WIDTH,
      entity.name.length * NAME_WIDTH,
    );
    labels.push({
      id: entity.name,
      kind: 'entity',
      width: Math.ceil(Math.max(LEAST_LABEL, widest + 24)),
      height: HEAD_HEIGHT + lines.length * LINE_HEIGHT + 10,
    });
    entities.push({ id: entity.name, name: entity.name, table: entity.table.value.name, lines });
  }
  const relations = Array.from(model.relations.values());
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
  const common = { relation: relation.name, kind: 'pivot' as const };
  const stem = (entity: string, side: string, below: boolean): MapStem =>
    below
      ? { ...common, id: `${relation.name} ${side}`, from: pivot, to: entity, fromEnd: 'none', toEnd: 'many' }
      : { ...common, id: `${relation.name} ${side}`, from: entity, to: pivot, fromEnd: 'many', toEnd: 'none' };
  const [a, b] = [generation.get(first.entity) ?? 0, generation.get(second.entity) ?? 0];
  return [stem(first.entity, 'first', a > b), stem(second.entity, 'second', b > a)];
}
