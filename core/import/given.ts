import { entityOf, type Model } from '../model/index.js';
import { fullName, type GivenNames, type LinkNames, type PivotNames, placeOf } from './existing.js';

/** The names that a text has given, by what they are physically, so that bringing in again speaks with them. */
export function namesIn(model: Model): GivenNames {
  const entities = new Map<string, string>();
  const fields = new Map<string, string>();
  const links = new Map<string, LinkNames>();
  const pivots = new Map<string, PivotNames>();
  for (const entity of model.entities.values()) {
    const table = fullName(entity.table.value);
    entities.set(placeOf(table), entity.name);
    for (const field of entity.fields) fields.set(placeOf(table, field.column.value), field.name);
  }
  for (const relation of model.relations.values()) {
    if (relation.kind === 'key') {
      const table = fullName(entityOf(model, relation.child).table.value);
      const columns = relation.columns.map((column) => column.value);
      links.set(placeOf(table, ...columns), { name: relation.name, role: relation.childRole, reverse: relation.parentRole });
    } else if (relation.kind === 'pivot') {
      const [first, second] = relation.ends;
      pivots.set(placeOf(fullName(relation.table.value)), { name: relation.name, roles: [first.role, second.role] });
      for (const field of relation.fields) fields.set(placeOf(fullName(relation.table.value), field.column.value), field.name);
    }
  }
  return { entities, fields, links, pivots };
}
