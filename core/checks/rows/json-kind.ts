import { entityOf, type Field } from '../../model/index.js';
import { lookAtEntity } from '../../plan/index.js';
import { type JsonSort, typeName } from '../../values/index.js';
import type { RowCheck } from '../row-check.js';
import { many, rowsWhere } from './questions.js';

/** Kinds in json: what stands under a field's name has to be of the sort that the field's type has on the wire. */
export const jsonKind: RowCheck = {
  code: 'json-kind',
  ask: (model, { dialect: { values } }) =>
    Array.from(model.entities.values()).flatMap((kind) => {
      const storage = kind.kinds?.storage;
      if (kind.kinds === null || storage?.kind !== 'json') return [];
      const root = entityOf(model, kind.kinds.root);
      const look = lookAtEntity(model, kind.name);
      const telling = [{ column: storage.column, type: { kind: 'text' as const, length: null } }];
      if (kind === root) {
        // The engine takes no other texts into such a column.
        if (values.isJson({ kind: 'null' }) === null) return [];
        const broken = {
          code: jsonKind.code,
          weight: 'error' as const,
          span: root.head,
          told: (count: number) =>
            `${root.name}: of ${many(count, 'row')} ${storage.column} is no JSON, so what ${count === 1 ? 'its kind has' : 'their kinds have'} of ${count === 1 ? 'its' : 'their'} own is read as empty.`,
        };
        const where = look.asks({ kind: 'no json', column: storage.column });
        return [rowsWhere(model, broken, { entity: root.name, look, where, telling })];
      }
      return kind.fields.flatMap((field) => {
        const sort = sortOf(field);
        if (field.owner !== kind.name || sort === null) return [];
        const where = look.asks({ kind: 'other sort', column: storage.column, name: field.column.value, sort });
        return [
          rowsWhere(
            model,
            {
              code: jsonKind.code,
              weight: 'error',
              span: field.span,
              told: (count) =>
                `${kind.name}.${field.name}: of ${many(count, 'row')} ${storage.column} has something there that is no ${typeName(field.type)}.`,
            },
            { entity: kind.name, look, where, telling },
          ),
        ];
      });
    }),
};

/** What a value of a field is in JSON; null where it may be anything. */
function sortOf({ type }: Field): JsonSort | null {
  switch (type.kind) {
    case 'integer':
    case 'real':
      return 'number';
    case 'boolean':
      return 'truth';
    case 'json':
    case 'sql':
    case 'composite':
      return null;
    default:
      return 'text';
  }
}
