import type { RowCheck } from '../row-check.js';
import { many, rowsWith } from './questions.js';

/** A row that must know one of another entity, whose table holds the key: no column of its own can say so. */
export const unkeptPromise: RowCheck = {
  code: 'unkept-promise',
  ask: (model) =>
    Array.from(model.entities.values()).flatMap((entity) =>
      entity.roles
        .filter(({ way, knows, entity: declaring }) => way.kind === 'child' && knows === 'one' && declaring === entity.name)
        .map((role) =>
          rowsWith(
            model,
            {
              code: unkeptPromise.code,
              weight: 'error',
              span: role.span,
              told: (rows) =>
                `${entity.name}.${role.name}: ${many(rows, 'row')} know${rows === 1 ? 's' : ''} no ${role.target}, and each has to know one.`,
            },
            {
              entity: entity.name,
              where: {
                kind: 'is null',
                operand: { kind: 'role', hops: [role], type: { kind: 'row', entity: role.target }, span: role.span },
                negated: false,
                type: { kind: 'boolean' },
                span: role.span,
              },
              condition: `${role.name} is null`,
            },
          ),
        ),
    ),
};
