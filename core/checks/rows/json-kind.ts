import { entityOf, type Field } from '../../model/index.js';
import { rowsOf } from '../../profile/index.js';
import { allOf, column, type SqlExpression } from '../../sql/index.js';
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
      const rows = rowsOf(model, kind.name, root.key.columns);
      const json = column(rows.alias, storage.column);
      const telling = [{ column: storage.column, type: { kind: 'text' as const, length: null } }];
      if (kind === root) {
        const isJson = values.isJson(json);
        if (isJson === null) return [];
        const broken = {
          code: jsonKind.code,
          weight: 'error' as const,
          span: root.head,
          told: (count: number) =>
            `${root.name}: of ${many(count, 'row')} ${storage.column} is no JSON, so what ${count === 1 ? 'its kind has' : 'their kinds have'} of ${count === 1 ? 'its' : 'their'} own is read as empty.`,
        };
        const where = allOf([
          { kind: 'is null', operand: json, negated: true },
          { kind: 'not', operand: isJson },
        ]);
        return [rowsWhere(model, broken, { entity: root.name, rows, where, telling })];
      }
      return kind.fields.flatMap((field) => {
        const sort = sortOf(field);
        if (field.owner !== kind.name || sort === null) return [];
        const isJson = values.isJson(json);
        const isNot: SqlExpression = { kind: 'not', operand: values.jsonIs(sort, json, field.column.value) };
        // What is no JSON at all is told for the base.
        const where: SqlExpression =
          isJson === null ? isNot : { kind: 'case', branches: [{ when: isJson, then: isNot }], otherwise: { kind: 'null' } };
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
            { entity: kind.name, rows, where, telling },
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
