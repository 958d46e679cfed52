import { entityOf, type Model, type Relation } from '../../model/index.js';
import { all, any, lookAtEntity, type PlannedExpression, type StoredLook } from '../../plan/index.js';
import type { ValueType } from '../../values/index.js';
import type { RowCheck, Telling } from '../row-check.js';
import { many, rowsWhere } from './questions.js';

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
  readonly telling: readonly Telling[];
  readonly wrong: string;
  readonly look: StoredLook;
  readonly where: PlannedExpression | null;
}

function shapeOf(model: Model, relation: Relation): Shape | null {
  if (relation.kind !== 'key' && relation.kind !== 'polymorphic') return null;
  const telling = columnsOf(model, relation);
  if (telling.length < 2) return null;
  const names = telling.map((one) => one.column);
  const { child } = relation;
  const look = lookAtEntity(model, child);
  const empty = (name: string) => look.isEmpty(name);
  const filled = (name: string) => look.isFilled(name);
  if (relation.kind === 'polymorphic' && relation.storage.kind === 'one of') {
    const pairs = names.flatMap((one, index) =>
      names.slice(index + 1).flatMap((other) => all([filled(one), filled(other)]) ?? []),
    );
    const none = relation.required ? [all(names.map(empty))] : [];
    const wrong = relation.required ? 'filled more than once, or not at all' : 'filled more than once';
    return { child, telling, wrong, look, where: any([...pairs, ...none]) };
  }
  return { child, telling, wrong: 'filled in part', look, where: all([any(names.map(empty)), any(names.map(filled))]) };
}

function columnsOf(model: Model, relation: Extract<Relation, { kind: 'key' | 'polymorphic' }>): readonly Telling[] {
  const typed = (name: string, type: ValueType | undefined) => ({ column: name, type: type ?? TEXT });
  if (relation.kind === 'key') {
    const { fields } = entityOf(model, relation.parent).key;
    return relation.columns.map(({ value }, index) => typed(value, fields[index]?.type));
  }
  const { storage, targets } = relation;
  if (storage.kind === 'type and id') return [typed(storage.type.value, TEXT), typed(storage.id.value, storage.idType)];
  return storage.columns.map(({ value }, index) =>
    typed(value, entityOf(model, targets[index]?.entity ?? relation.child).key.fields[0]?.type),
  );
}

const TEXT: ValueType = { kind: 'text', length: null };
