import { COMPOSITE_KEY, KIND_NAME } from '../../../core/model/index.js';
import { TITLE } from '../../../core/plan/index.js';
import { shownKey } from '../../../core/values/index.js';
import type { EntityView, RoleView } from '../../../core/view-models/index.js';
import { isHidden, storedText } from '../../parts/field-value.js';
import type { GridColumn } from './columns.js';
import type { Row } from './use-window.js';

/** The entity that a row is of: where that differs from row to row, the row says it. */
export function kindOf(row: Row, otherwise: string): string {
  const kind = row[KIND_NAME];
  return typeof kind === 'string' ? kind : otherwise;
}

/** The row that a to-one role leads to, as it was loaded along; null where there is none. */
export function rowBehind(row: Row, name: string): Row | null {
  const behind = row[name];
  return typeof behind === 'object' && behind !== null && !isHidden(behind) ? (behind as Row) : null;
}

/** What a row that was loaded for its title is shown as; where that is empty, its key. */
export function titleOf(row: Row): string {
  const shown = row[TITLE];
  if (shown === null || shown === undefined || shown === '') return shownKey(String(keyOf(row)));
  if (typeof shown === 'object') return storedText('asStored' in shown ? shown.asStored : shown);
  return shown === row[COMPOSITE_KEY] ? shownKey(String(shown)) : String(shown);
}

/** What a row's own columns say of a row that is not there; null where they are empty. */
export function danglingKey(row: Row, role: RoleView): string | null {
  if (isHidden(row[role.name])) return null;
  const parts = role.columns.map((column) => row[column] ?? null);
  return parts.length === 0 || parts.includes(null) ? null : parts.map(String).join(', ');
}

/** The key of a row that was loaded for its title alone: its only other value, or the composite key that it bears. */
export function keyOf(row: Row): unknown {
  if (row[COMPOSITE_KEY] !== undefined) return row[COMPOSITE_KEY];
  const isKey = ([name, value]: [string, unknown]) =>
    name !== TITLE && name !== KIND_NAME && (typeof value !== 'object' || value === null);
  return Object.entries(row).find(isKey)?.[1];
}

/** Where a cell of the grid leads: to a row, or to those that a row knows over a role. */
export type Goal =
  | { readonly kind: 'row'; readonly entity: string; readonly key: unknown }
  | {
      readonly kind: 'rows';
      readonly owner: string;
      readonly key: unknown;
      readonly role: string;
      readonly target: string;
    };

/**
 * Where a cell leads: a to-one role to the row behind it, a to-many role to its rows, and every other cell to its own row.
 *
 * @param column null for the number of the row
 * @returns null where a role leads to no row
 */
export function goalOf(
  column: GridColumn | null,
  row: Row,
  entity: EntityView,
  counts: Readonly<Record<string, number>> | null,
): Goal | null {
  const itself: Goal = { kind: 'row', entity: entity.name, key: row[entity.key] };
  switch (column?.kind) {
    case 'one': {
      const behind = rowBehind(row, column.role.name);
      return behind === null ? null : { kind: 'row', entity: kindOf(behind, column.role.target), key: keyOf(behind) };
    }
    case 'many': {
      if ((counts?.[column.id] ?? 0) === 0) return null;
      return { kind: 'rows', owner: entity.name, key: row[entity.key], role: column.role.name, target: column.role.target };
    }
    case 'field':
    case 'kind':
    case 'pivot':
    case undefined:
      return itself;
  }
}
