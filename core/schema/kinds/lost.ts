import { type Entity, entityOf, fieldOf, type KindsStorage, type Model, someExpression } from '../../model/index.js';
import { below } from './index.js';

/** What no table can hold, for one way to store kinds. */
type Lost = (model: Model, root: Entity, kinds: readonly Entity[]) => string[];

const lost: Readonly<Record<KindsStorage['kind'], Lost>> = {
  'single table': (_, __, kinds) =>
    kinds.flatMap((kind) =>
      ownFields(kind).flatMap((field) => (field.default === null ? [] : [`the default of ${kind.name}.${field.name}`])),
    ),
  'joined tables': (_, __, kinds) =>
    kinds.flatMap((kind) => [
      ...kind.checks
        .filter(({ expression }) => spansTables(kind, expression))
        .map(({ name }) => `check ${name} of ${kind.name}, which speaks of two tables`),
      ...kind.uniques
        .filter(({ columns }) =>
          columns.some((column) => kind.fields.some((field) => field.column.value === column && field.owner !== kind.name)),
        )
        .map(({ members }) => `unique (${members.join(', ')}) of ${kind.name}, which speaks of two tables`),
    ]),
  'separate tables': (model, root, kinds) => [
    ...[root, ...kinds].flatMap((entity) =>
      (entity.kinds?.concrete.length ?? 0) < 2
        ? []
        : [
            ...entity.uniques.map(({ members }) => `unique (${members.join(', ')}) of ${entity.name}, now for each table alone`),
            ...ownFields(entity).flatMap(({ unique, name }) =>
              unique === null ? [] : [`unique of ${entity.name}.${name}, now for each table alone`],
            ),
          ],
    ),
    ...Array.from(model.relations.values()).flatMap((relation) => {
      const parents =
        relation.kind === 'key' ? [relation.parent] : relation.kind === 'pivot' ? relation.ends.map((end) => end.entity) : [];
      const several = parents.filter((name) => {
        const own = entityOf(model, name).kinds;
        return own?.root === root.name && own.concrete.length > 1;
      });
      return several.map((name) => `the foreign key of ${relation.name} to ${name}, kept by triggers`);
    }),
  ],
  json: (_, __, kinds) =>
    kinds.flatMap((kind) => [
      ...ownFields(kind).map((field) => {
        const rules = [
          'its type',
          ...(field.required ? ['that it is given'] : []),
          ...(field.unique === null ? [] : ['that it is unique']),
          ...(field.allowed === null ? [] : ['its list of values']),
        ];
        return `of ${kind.name}.${field.name} ${rules.join(', ')}`;
      }),
      ...kind.checks.filter(({ expression }) => speaksOf(kind, expression)).map(({ name }) => `check ${name} of ${kind.name}`),
      ...kind.uniques.map(({ members }) => `unique (${members.join(', ')}) of ${kind.name}`),
    ]),
};

/** The rules that the tables of a base and its kinds do not hold, each in a few words; none where there are no kinds. */
export function lostRules(model: Model, name: string): string[] {
  const root = entityOf(model, name);
  if (root.kinds === null) return [];
  return lost[root.kinds.storage.kind](model, root, below(model, root));
}

function ownFields(entity: Entity): Entity['fields'] {
  return entity.fields.filter(({ owner }) => owner === entity.name);
}

function speaksOf(kind: Entity, expression: Entity['checks'][number]['expression']): boolean {
  return someExpression(expression, (part) => part.kind === 'field' && fieldOf(kind.fields, part.field).owner === kind.name);
}

function spansTables(kind: Entity, expression: Entity['checks'][number]['expression']): boolean {
  return someExpression(expression, (part) => part.kind === 'field' && fieldOf(kind.fields, part.field).owner !== kind.name);
}
