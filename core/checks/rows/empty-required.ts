import { type Entity, type Expression, isPivot, type Role } from '../../model/index.js';
import type { Span } from '../../notation/index.js';
import { anyHolds, lookAtTable } from '../../plan/index.js';
import type { RowCheck, RowQuestion } from '../row-check.js';
import { pairKeys } from './pair-keys.js';
import { anyRowWith, many, pairsWhere, rowsWith } from './questions.js';

/** Nothing where something has to stand: in a field, or as what a row has to know. */
export const emptyRequired: RowCheck = {
  code: 'empty-required',
  ask: (model) => [
    ...Array.from(model.entities.values()).flatMap((entity) => {
      const members = requiredOf(entity);
      const screen = anyRowWith(
        model,
        entity.name,
        members.map(({ isEmpty }) => isEmpty),
      );
      return members.map(
        ({ name, span, isEmpty }): RowQuestion =>
          rowsWith(
            model,
            {
              code: emptyRequired.code,
              weight: 'error',
              span,
              screen,
              told: (rows) =>
                `${entity.name}.${name}: ${many(rows, 'row')} ${rows === 1 ? 'has' : 'have'} nothing there, and each has to have something.`,
            },
            { entity: entity.name, where: isEmpty, condition: conditionOf(name) },
          ),
      );
    }),
    ...Array.from(model.relations.values()).flatMap((relation) => {
      if (!isPivot(relation) || relation.entity !== null) return [];
      const keys = pairKeys(model, relation);
      // Of a key for each of several only one is filled: what has to be filled is what all ways have in common.
      const wanted = (keys[0] ?? []).filter(({ column: name }) => keys.every((key) => key.some((one) => one.column === name)));
      const names = wanted.map(({ column: name }) => name);
      const look = lookAtTable(model, relation.table.value);
      return [
        pairsWhere(
          {
            code: emptyRequired.code,
            weight: 'error',
            span: relation.head,
            told: (count) =>
              `relation ${relation.name}: of ${many(count, 'pair')} ${names.join(', ')} ${count === 1 ? 'is' : 'are'} not all filled, so ${count === 1 ? 'it joins' : 'they join'} nothing.`,
          },
          { look, where: anyHolds(names.map((name) => look.isEmpty(name))), telling: wanted },
        ),
      ];
    }),
  ],
};

interface Member {
  readonly name: string;
  readonly span: Span;
  readonly isEmpty: Expression;
}

/** What an entity declares itself and each of its rows has to have; the key of a row is always there. */
function requiredOf(entity: Entity): Member[] {
  const isNull = (operand: Expression): Expression => ({
    kind: 'is null',
    operand,
    negated: false,
    type: { kind: 'boolean' },
    span: operand.span,
  });
  const own = (owner: string) => owner === entity.name;
  const inKey = (columns: readonly string[]) => columns.some((name) => entity.key.columns.includes(name));
  return [
    ...entity.fields
      .filter((field) => own(field.owner) && field.required && !field.key && !inKey([field.column.value]))
      .map(({ name, type, span }) => ({
        name,
        span,
        isEmpty: isNull({ kind: 'field', hops: [], entity: entity.name, field: name, type, span }),
      })),
    ...entity.roles
      .filter(
        ({ entity: declaring, way, knows }) => own(declaring) && way.kind === 'key' && knows === 'one' && !inKey(way.columns),
      )
      .map((role) => ({ name: role.name, span: role.span, isEmpty: isNull(roleOf(role)) })),
    ...entity.polymorphic
      .filter(({ entity: declaring, knows }) => own(declaring) && knows === 'one')
      .map(({ name, branches, span }) => ({
        name,
        span,
        isEmpty: { kind: 'points at' as const, hops: [], branches, negated: true, type: { kind: 'boolean' as const }, span },
      })),
  ];
}

function roleOf(role: Role): Expression {
  return { kind: 'role', hops: [role], type: { kind: 'row', entity: role.target }, span: role.span };
}

function conditionOf(name: string): string {
  return /^[a-z_]\w*$/.test(name) ? `${name} is null` : `"${name}" is null`;
}
