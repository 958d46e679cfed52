import { type Entity, entityOf, type Model } from '../../model/index.js';
import { rowsIn, select } from '../../profile/index.js';
import { allOf, column, columnsOf, equal, number, type SqlExpression, string } from '../../sql/index.js';
import type { RowCheck, RowQuestion } from '../row-check.js';
import { many, rowsWhere } from './questions.js';

/** Kinds in joined tables: the base's row says what kind it is, and has to have a row in the table of that kind, and in no other. */
export const kindRow: RowCheck = {
  code: 'kind-row',
  ask: (model) =>
    Array.from(model.entities.values()).flatMap((kind) => {
      const { kinds } = kind;
      if (kinds === null || kinds.base === null || kinds.storage.kind !== 'joined tables') return [];
      return [missing(model, kind, kinds.storage.mark), second(model, kind, kinds.storage.mark)];
    }),
};

function missing(model: Model, kind: Entity, mark: string): RowQuestion {
  const { root, table, isOfKind } = about(model, kind, mark);
  return rowsWhere(
    model,
    {
      code: kindRow.code,
      weight: 'error',
      span: kind.head,
      told: (rows) =>
        `${root.name}: ${many(rows, 'row')} ${rows === 1 ? 'is' : 'are'} marked as ${kind.name} and ${rows === 1 ? 'has' : 'have'} no row in ${table.alias}.`,
    },
    {
      entity: root.name,
      rows: isOfKind.rows,
      where: allOf([
        isOfKind.where,
        { kind: 'exists', negated: true, select: one(table, sameKey(kind, table.alias, isOfKind.rows.alias)) },
      ]),
      telling: [{ column: mark, type: { kind: 'text', length: null } }],
    },
  );
}

function second(model: Model, kind: Entity, mark: string): RowQuestion {
  const { root, table, isOfKind } = about(model, kind, mark);
  const marked = one(isOfKind.rows, allOf([sameKey(kind, isOfKind.rows.alias, table.alias), isOfKind.where]));
  return rowsWhere(
    model,
    {
      code: kindRow.code,
      weight: 'error',
      span: kind.head,
      told: (rows) =>
        `${root.name}: ${many(rows, 'row')} in ${table.alias} belong${rows === 1 ? 's' : ''} to a row that is not marked as ${kind.name}.`,
    },
    { entity: root.name, rows: table, where: { kind: 'exists', negated: true, select: marked }, telling: [] },
  );
}

function about(model: Model, kind: Entity, mark: string) {
  const root = entityOf(model, kind.kinds?.root ?? kind.name);
  const rows = rowsIn(root.table.value);
  const marks = kind.kinds?.concrete.map((one) => one.mark) ?? [];
  const where: SqlExpression = { kind: 'in', operand: column(rows.alias, mark), items: marks.map(string), negated: false };
  return { root, table: rowsIn(kind.table.value), isOfKind: { rows, where } };
}

function sameKey({ key }: Entity, one: string, other: string): SqlExpression {
  return equal(columnsOf(one, key.columns), columnsOf(other, key.columns));
}

function one(rows: ReturnType<typeof rowsIn>, where: SqlExpression | null) {
  return select(rows, [{ expression: number(1), as: null }], { where });
}
