import type { DeleteEdge } from '../cascades/index.js';
import { entityOf, hasTable, holdingsOf, isPivot, type Model } from '../model/index.js';
import { foreignTarget } from '../schema/index.js';
import { placeOf, type TableName } from '../sql/index.js';

/** What a model calls the rows of tables, and the columns by which they point. */
export interface Names {
  /** The entity, or the relation, whose rows a table has. */
  of(table: TableName): { readonly name: string; readonly entity: string | null };
  /** The role by which rows of an edge point; the columns where nobody named one. */
  over(edge: DeleteEdge): string;
  /** Whether the row of the child is the rest of the parent's: of one kind, whose tables are joined. */
  isSameRow(edge: DeleteEdge): boolean;
}

export function namesOf(model: Model): Names {
  const tables = new Map<string, { name: string; entity: string | null }>();
  for (const entity of model.entities.values())
    if (hasTable(entity)) tables.set(placeOf(entity.table.value), { name: entity.name, entity: entity.name });
  const roles = new Map<string, string>();
  for (const relation of model.relations.values()) {
    const { holder, holderRole, pairs, keys } = holdingsOf(relation);
    if (isPivot(relation) && relation.entity === null)
      tables.set(placeOf(relation.table.value), { name: relation.name, entity: null });
    const places = pairs === null && holder !== null ? placesOf(model, holder) : [relation];
    for (const one of places) {
      const place = placeOf('table' in one && isPivot(relation) ? relation.table.value : (one as TableName));
      for (const { columns, target } of keys)
        roles.set(
          linkOf(
            place,
            columns.map(({ value }) => value),
          ),
          isPivot(relation) ? target : (holderRole ?? relation.name),
        );
    }
  }
  const of = (table: TableName) => tables.get(placeOf(table)) ?? { name: table.name, entity: null };
  return {
    of,
    over: (edge) => roles.get(linkOf(placeOf(edge.child), edge.columns)) ?? edge.columns.join(', '),
    isSameRow: ({ child, parent, columns }) => {
      const [one, other] = [of(child).entity, of(parent).entity];
      if (one === null || other === null) return false;
      const isPart = (part: string, whole: string) => {
        const { kinds, key } = entityOf(model, part);
        if (kinds?.storage.kind !== 'joined tables' || kinds.base === null) return false;
        return (whole === kinds.base || whole === kinds.root) && columns.join() === key.columns.join();
      };
      return isPart(one, other) || isPart(other, one);
    },
  };
}

function placesOf(model: Model, entity: string): readonly TableName[] {
  const target = foreignTarget(model, entity);
  return target.kind === 'table' ? [target.table] : target.tables;
}

function linkOf(place: string, columns: readonly string[]): string {
  return [place, ...columns.map((name) => name.toLowerCase()).sort()].join('\n');
}
