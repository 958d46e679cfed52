import { useCallback, useMemo, useState } from 'react';
import { KIND_NAME } from '../../../core/model/index.js';
import { preferences } from '../../app/preferences.js';
import { widthOf } from '../../parts/field-value.js';
import type { EntityView, FieldView, RoleView } from '../../workers/design-view.js';

/** A column of the grid. */
export type GridColumn =
  /** What kind a row of a base is. */
  | { readonly kind: 'kind'; readonly id: string; readonly width: number }
  | { readonly kind: 'field'; readonly id: string; readonly field: FieldView; readonly width: number }
  | { readonly kind: 'one'; readonly id: string; readonly role: RoleView; readonly width: number }
  | { readonly kind: 'many'; readonly id: string; readonly role: RoleView; readonly width: number }
  | { readonly kind: 'pivot'; readonly id: string; readonly table: string; readonly field: FieldView; readonly width: number };

const FEW_FIELDS = 4;

/** All columns that an entity can show: key and title, the pivot's that was walked over, its roles, then its other fields. */
export function columnsOf(entity: EntityView, pivot: RoleView['pivot']): GridColumn[] {
  const declared = new Set(entity.ends.flatMap(({ columns }) => columns));
  const field = (view: FieldView): GridColumn => ({ kind: 'field', id: view.name, field: view, width: widthOf(view) });
  const role = (end: RoleView): GridColumn => ({
    kind: end.many ? 'many' : 'one',
    id: end.id,
    role: end,
    width: Math.max(end.many ? 84 : 184, end.id.length * 7.6 + 34),
  });
  const fields = entity.fields.filter(({ name }) => !declared.has(name));
  // Where there are few fields they all stand before the roles; else only the one that says what the row is.
  const leads = (name: string) => fields.length <= FEW_FIELDS || name === entity.shownField;
  return [
    ...fields.filter(({ key }) => key).map(field),
    ...(entity.several ? [{ kind: 'kind' as const, id: KIND_NAME, width: 150 }] : []),
    ...(pivot?.fields.map(
      (view): GridColumn => ({
        kind: 'pivot',
        id: `${pivot.table}.${view.name}`,
        table: pivot.table,
        field: view,
        width: Math.max(widthOf(view), (pivot.table.length + view.name.length) * 7.6 + 34),
      }),
    ) ?? []),
    ...fields.filter(({ key, name }) => !key && leads(name)).map(field),
    ...entity.ends.filter(({ many }) => !many).map(role),
    ...entity.ends.filter(({ many }) => many).map(role),
    ...fields.filter(({ key, name }) => !key && !leads(name)).map(field),
  ];
}

/** Which columns a person has put away, remembered for each entity. */
export function useHidden(entity: string): { hidden: ReadonlySet<string>; toggle(id: string): void } {
  const name = `hidden columns ${entity}`;
  const [turn, setTurn] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the preference is read again after each change
  const hidden = useMemo(() => new Set((preferences.getItem(name) ?? '').split(',').filter((id) => id !== '')), [name, turn]);
  const toggle = useCallback(
    (id: string) => {
      const next = new Set(hidden);
      if (!next.delete(id)) next.add(id);
      preferences.setItem(name, Array.from(next).join(','));
      setTurn((count) => count + 1);
    },
    [hidden, name],
  );
  return { hidden, toggle };
}

/** The order by a column's next turn: up, down, and back to the entity's own. */
export function nextOrder(orderBy: string, id: string): string {
  if (orderBy === id) return `${id} desc`;
  return orderBy === `${id} desc` ? '' : id;
}
