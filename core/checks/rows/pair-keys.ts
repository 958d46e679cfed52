import { type AnyPivotRelation, entityOf, farColumns, type Model } from '../../model/index.js';
import type { ValueType } from '../../values/index.js';
import type { Telling } from '../row-check.js';

/** The keys of a pair: one for each way in which its two sides can stand in the table. */
export function pairKeys(model: Model, relation: AnyPivotRelation): Telling[][] {
  const end = ({ entity, columns }: { readonly entity: string; readonly columns: readonly { readonly value: string }[] }) => {
    const { fields } = entityOf(model, entity).key;
    return columns.map(
      ({ value }, index): Telling => ({ column: value, type: fields[index]?.type ?? { kind: 'text', length: null } }),
    );
  };
  if (relation.kind === 'pivot') {
    const all = relation.ends.flatMap(end);
    // The two keys may share a column.
    return [all.filter(({ column }, index) => all.findIndex((other) => other.column === column) === index)];
  }
  const near = end(relation.near);
  const { storage, targets } = relation;
  if (storage.kind === 'one of')
    return farColumns(relation).map((column, index) => [
      ...near,
      ...end({ entity: targets[index]?.entity ?? '', columns: [column] }),
    ]);
  const text: ValueType = { kind: 'text', length: null };
  return [[...near, { column: storage.type.value, type: text }, { column: storage.id.value, type: storage.idType }]];
}
