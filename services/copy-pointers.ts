import { entityOf, lineage, type Model, type Relation } from '../core/model/index.js';
import { foreignTarget } from '../core/schema/index.js';
import type { TableName } from '../core/sql/index.js';
import { parseWire, type ValueType, type Wire } from '../core/values/index.js';

/** Columns of a table whose rows lead to rows of another, though no foreign key says so. */
export interface Pointer {
  readonly from: string;
  readonly columns: readonly string[];
  /** The rows that it is said of; null for all. */
  readonly when: { readonly column: string; readonly values: readonly string[] } | null;
  /** One of these tables has the row. */
  readonly to: readonly { readonly table: string; readonly columns: readonly string[] }[];
  /** The key as the other table has it. */
  keyOf(values: readonly Wire[]): readonly Wire[];
}

const asIs = (values: readonly Wire[]) => values;

/** Every pointer that triggers keep, or nobody: by type and id, to kinds in several tables, and from a row to that of its kind. */
export function pointersOf(model: Model): Pointer[] {
  return [...ofRelations(model), ...ofKinds(model)];
}

function ofRelations(model: Model): Pointer[] {
  return Array.from(model.relations.values()).flatMap((relation) => ofRelation(model, relation));
}

function ofRelation(model: Model, relation: Relation): Pointer[] {
  switch (relation.kind) {
    case 'key': {
      const to = placesOf(model, relation.parent);
      const columns = relation.columns.map(({ value }) => value);
      if (to.length < 2) return [];
      return tablesOf(model, relation.child).map((from) => ({ from, columns, when: null, to, keyOf: asIs }));
    }
    case 'pivot': {
      return relation.ends.flatMap((end) => {
        const to = placesOf(model, end.entity);
        const columns = end.columns.map(({ value }) => value);
        return to.length < 2 ? [] : [{ from: relation.table.value.name, columns, when: null, to, keyOf: asIs }];
      });
    }
    case 'polymorphic':
    case 'polymorphic pivot': {
      const { storage, targets } = relation;
      const holders = relation.kind === 'polymorphic' ? tablesOf(model, relation.child) : [relation.table.value.name];
      if (storage.kind === 'one of')
        return targets.flatMap(({ entity }, index) => {
          const to = placesOf(model, entity);
          const columns = [storage.columns[index]?.value ?? ''];
          return to.length < 2 ? [] : holders.map((from) => ({ from, columns, when: null, to, keyOf: asIs }));
        });
      return targets.flatMap((target) =>
        target.marks.flatMap(({ entity, mark }) =>
          holders.map((from) => ({
            from,
            columns: [storage.id.value],
            when: { column: storage.type.value, values: [mark] },
            to: placesOf(model, target.marks.length === 1 ? target.entity : entity),
            keyOf: readAs(entityOf(model, target.entity).key.type),
          })),
        ),
      );
    }
  }
}

/** In joined tables the base's row says what kind it is, and the table of that kind has the rest of it. */
function ofKinds(model: Model): Pointer[] {
  return Array.from(model.entities.values()).flatMap((entity): Pointer[] => {
    const { kinds, key } = entity;
    if (kinds?.storage.kind !== 'joined tables' || kinds.base === null) return [];
    const root = lineage(model, entity.name)[0] ?? entity;
    const values = kinds.concrete.map(({ mark }) => mark);
    return [
      {
        from: root.table.value.name,
        columns: root.key.columns,
        when: { column: kinds.storage.mark, values },
        to: [{ table: entity.table.value.name, columns: key.columns }],
        keyOf: asIs,
      },
    ];
  });
}

function placesOf(model: Model, name: string): Pointer['to'] {
  const { columns } = entityOf(model, name).key;
  const target = foreignTarget(model, name);
  const tables: readonly TableName[] = target.kind === 'table' ? [target.table] : target.tables;
  return tables.map((table) => ({ table: table.name, columns }));
}

function tablesOf(model: Model, name: string): string[] {
  return placesOf(model, name).map(({ table }) => table);
}

/** A key that stands as a text where keys of several types do. */
function readAs(type: ValueType): Pointer['keyOf'] {
  return ([value = null]) => {
    const parsed = value === null ? null : parseWire(type, String(value));
    return [parsed?.ok === true ? parsed.value : value];
  };
}
