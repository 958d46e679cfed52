import { entityOf, holdingsOf, lineage, type Model, type Relation } from '../core/model/index.js';
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
  const { holder, pairs, keys } = holdingsOf(relation);
  const holders = pairs === null ? tablesOf(model, holder ?? '') : [pairs.name];
  return keys.flatMap(({ target, columns: held, mark }): Pointer[] => {
    const columns = held.map(({ value }) => value);
    if (mark === null) {
      const to = placesOf(model, target);
      // To one table a foreign key leads.
      return to.length < 2 ? [] : holders.map((from) => ({ from, columns, when: null, to, keyOf: asIs }));
    }
    return mark.marks.flatMap((one, index) =>
      holders.map((from) => ({
        from,
        columns,
        when: { column: mark.column, values: [one] },
        to: placesOf(model, mark.marks.length === 1 ? target : (mark.means[index] ?? target)),
        keyOf: readAs(entityOf(model, target).key.type),
      })),
    );
  });
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
