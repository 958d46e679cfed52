import { useCallback, useMemo, useState } from 'react';
import { KIND_NAME } from '../../../core/model/index.js';
import type { EntityView, FieldView, RoleView } from '../../../core/view-models/index.js';
import { preferences } from '../../app/preferences.js';
import { isNumber, widthOf } from '../../parts/field-value.js';

/** A column of the grid. */
export type GridColumn =
  /** What kind a row of a base is. */
  | { readonly kind: 'kind'; readonly id: string; readonly width: number }
  | { readonly kind: 'field'; readonly id: string; readonly field: FieldView; readonly width: number }
  /** What rows are ordered by is what is shown of the other row. */
  | { readonly kind: 'one'; readonly id: string; readonly role: RoleView; readonly order: string; readonly width: number }
  | { readonly kind: 'many'; readonly id: string; readonly role: RoleView; readonly width: number }
  | { readonly kind: 'pivot'; readonly id: string; readonly table: string; readonly field: FieldView; readonly width: number };

/**
 * All columns that an entity can show: its key, the pivot's fields that were walked over, its own fields, and then its roles.
 * A key that nobody can read stands behind the name.
 *
 * @param entities all of the text
 */
export function columnsOf(entity: EntityView, pivot: RoleView['pivot'], entities: readonly EntityView[]): GridColumn[] {
  const declared = new Set(entity.ends.flatMap(({ columns }) => columns));
  const field = (view: FieldView): GridColumn => ({ kind: 'field', id: view.name, field: view, width: widthOf(view) });
  const role = (end: RoleView): GridColumn => {
    const width = Math.max(end.many ? 84 : 184, end.id.length * 7.6 + 34);
    if (end.many) return { kind: 'many', id: end.id, role: end, width };
    const shown = entities.find(({ name }) => name === end.target)?.shownField ?? null;
    return { kind: 'one', id: end.id, role: end, order: shown === null ? end.id : `${end.id}.${shown}`, width };
  };
  const fields = entity.fields.filter(({ name }) => !declared.has(name));
  const isShown = ({ key, name }: FieldView) => !key && name === entity.shownField;
  const keys = fields.filter(({ key }) => key);
  const names = fields.filter(isShown);
  const unreadable = keys.some(({ kind }) => kind === 'uuid' || kind === 'bytes');
  return [
    ...(unreadable ? [...names, ...keys] : keys).map(field),
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
    ...(unreadable ? [] : names).map(field),
    ...fields.filter((view) => !view.key && !isShown(view)).map(field),
    ...entity.ends.filter(({ many }) => !many).map(role),
    ...entity.ends.filter(({ many }) => many).map(role),
  ];
}

/** The kinds whose rows have something in a column; null where all have. */
export function kindsOf(column: GridColumn): readonly string[] | null {
  switch (column.kind) {
    case 'field':
      return column.field.kinds;
    case 'one':
    case 'many':
      return column.role.kinds;
    case 'kind':
    case 'pivot':
      return null;
  }
}

/** Whether a column's values stand at its right edge. */
export function isRight(column: GridColumn): boolean {
  return column.kind === 'many' || ((column.kind === 'field' || column.kind === 'pivot') && isNumber(column.field));
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
