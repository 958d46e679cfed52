import { holdingsOf, keyColumnsOf, type Model, type Relation } from '../../model/index.js';
import { allHold, anyHolds, lookAtEntity, type PlannedExpression, type StoredLook } from '../../plan/index.js';
import type { Evidence, RowCheck } from '../row-check.js';
import { evidenceOf, many, rowsWhere } from './questions.js';

/** A key of several columns is filled whole or not at all; of key columns for several targets no two may be filled. */
export const halfKey: RowCheck = {
  code: 'half-key',
  ask: (model) =>
    Array.from(model.relations.values()).flatMap((relation) => {
      const shape = shapeOf(model, relation);
      if (shape === null) return [];
      const { child, telling, wrong, where, look } = shape;
      return [
        rowsWhere(
          model,
          {
            code: halfKey.code,
            weight: 'error',
            span: relation.head,
            told: (count) =>
              `${child}: of ${many(count, 'row')} ${telling.map((one) => one.column).join(', ')} ${count === 1 ? 'is' : 'are'} ${wrong}, so relation ${relation.name} cannot say what ${count === 1 ? 'it leads' : 'they lead'} to.`,
          },
          { entity: child, look, where, telling },
        ),
      ];
    }),
};

interface Shape {
  readonly child: string;
  readonly telling: readonly Evidence[];
  readonly wrong: string;
  readonly look: StoredLook;
  readonly where: PlannedExpression | null;
}

function shapeOf(model: Model, relation: Relation): Shape | null {
  const { holder, pairs, keys } = holdingsOf(relation);
  if (holder === null || pairs !== null) return null;
  const telling = evidenceOf(model, keys);
  if (telling.length < 2) return null;
  const names = telling.map((one) => one.column);
  const look = lookAtEntity(model, holder);
  const empty = (name: string) => look.isEmpty(name);
  const filled = (name: string) => look.isFilled(name);
  const common = { child: holder, telling, look };
  // Keys of several entities that stand apart: one is filled.
  if (keyColumnsOf(relation).length > 1) {
    const required = relation.kind === 'polymorphic' && relation.required;
    const pairsFilled = names.flatMap((one, index) =>
      names.slice(index + 1).flatMap((other) => allHold([filled(one), filled(other)]) ?? []),
    );
    const none = required ? [allHold(names.map(empty))] : [];
    const wrong = required ? 'filled more than once, or not at all' : 'filled more than once';
    return { ...common, wrong, where: anyHolds([...pairsFilled, ...none]) };
  }
  return { ...common, wrong: 'filled in part', where: allHold([anyHolds(names.map(empty)), anyHolds(names.map(filled))]) };
}
