import { type Entity, entityOf, type Model } from '../../model/index.js';
import { allHold, lookAtTable } from '../../plan/index.js';
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
  const { root, table, marks } = about(model, kind);
  const look = lookAtTable(model, root.table.value);
  const isOfKind = look.asks({ kind: 'marked', column: mark, marks, negated: false });
  const own = look.beside({ kind: 'table', table: kind.table.value });
  return rowsWhere(
    model,
    {
      code: kindRow.code,
      weight: 'error',
      span: kind.head,
      told: (rows) =>
        `${root.name}: ${many(rows, 'row')} ${rows === 1 ? 'is' : 'are'} marked as ${kind.name} and ${rows === 1 ? 'has' : 'have'} no row in ${table}.`,
    },
    {
      entity: root.name,
      look,
      where: allHold([isOfKind, look.found(own, kind.key.columns, kind.key.columns, null, true)]),
      telling: [{ column: mark, type: { kind: 'text', length: null } }],
    },
  );
}

function second(model: Model, kind: Entity, mark: string): RowQuestion {
  const { root, table, marks } = about(model, kind);
  const look = lookAtTable(model, kind.table.value);
  const base = look.beside({ kind: 'table', table: root.table.value });
  const isOfKind = base.asks({ kind: 'marked', column: mark, marks, negated: false });
  return rowsWhere(
    model,
    {
      code: kindRow.code,
      weight: 'error',
      span: kind.head,
      told: (rows) =>
        `${root.name}: ${many(rows, 'row')} in ${table} belong${rows === 1 ? 's' : ''} to a row that is not marked as ${kind.name}.`,
    },
    {
      entity: root.name,
      look,
      where: look.found(base, kind.key.columns, kind.key.columns, null, true, isOfKind),
      telling: [],
    },
  );
}

function about(model: Model, kind: Entity) {
  const root = entityOf(model, kind.kinds?.root ?? kind.name);
  return { root, table: kind.table.value.name, marks: kind.kinds?.concrete.map((one) => one.mark) ?? [] };
}
