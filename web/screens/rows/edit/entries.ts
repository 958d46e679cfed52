import { type Entered, type Entry, keyFrom, type RowName, updateText } from '../../../../core/edits/index.js';
import { parseWire } from '../../../../core/values/index.js';
import type { EntityView, FieldView } from '../../../../core/view-models/index.js';
import type { PickedRow } from '../../../app/row-picker.js';
import type { GridColumn } from '../columns.js';
import { danglingKey, keyOf, kindOf, rowBehind, titleOf } from '../row-parts.js';
import type { Row } from '../use-window.js';

/** What a person put into a cell and has not written yet: a value as it was typed, a row, or nothing. */
export type CellEntry =
  | { readonly kind: 'value'; readonly text: string }
  | { readonly kind: 'row'; readonly row: PickedRow }
  | { readonly kind: 'nothing' };

/** A cell that differs from what is stored. */
export interface ChangedCell {
  readonly entry: CellEntry;
  /** What stood there when it was changed, as text. */
  readonly was: string | null;
}

/** The cells that a person has changed: by the row's key, and by the column. */
export type ChangedCells = Readonly<Record<string, Readonly<Record<string, ChangedCell>>>>;

/** How many cells were changed, and of how many rows. */
export function countOf(cells: ChangedCells): { readonly cells: number; readonly rows: number } {
  const rows = Object.values(cells);
  return { rows: rows.length, cells: rows.reduce((sum, row) => sum + Object.keys(row).length, 0) };
}

/** With one cell changed; or with it as it is stored, where it is given what stands there. */
export function withCell(cells: ChangedCells, key: string, column: string, cell: ChangedCell | null): ChangedCells {
  const { [column]: _before, ...others } = cells[key] ?? {};
  const row = cell === null ? others : { ...others, [column]: cell };
  const { [key]: _row, ...rest } = cells;
  return Object.keys(row).length === 0 ? rest : { ...rest, [key]: row };
}

/** Whether a person can change a column of a row: not what is computed, set once, or of another kind. */
export function isEditable(column: GridColumn, row: Row, entity: EntityView): boolean {
  if (entity.given) return false;
  if (column.kind === 'field') {
    const { entry, kinds } = column.field;
    return entry !== null && !entry.once && (kinds === null || kinds.includes(kindOf(row, entity.name)));
  }
  if (column.kind !== 'one') return false;
  const { kinds, path, columns } = column.role;
  if (path || columns.some((name) => entity.keyFields.includes(name))) return false;
  return kinds === null || kinds.includes(kindOf(row, entity.name));
}

/** What a cell holds, as a person would type it; null where it holds nothing. */
export function storedText(column: GridColumn, row: Row): string | null {
  if (column.kind === 'one') {
    const behind = rowBehind(row, column.role.name);
    return behind === null ? danglingKey(row, column.role) : `${kindOf(behind, column.role.target)}(${String(keyOf(behind))})`;
  }
  if (column.kind !== 'field') return null;
  return typedText(row[column.id], column.field);
}

/** A value as a person would type it; null for none. */
export function typedText(value: unknown, { kind }: FieldView): string | null {
  if (value === null || value === undefined) return null;
  if (kind === 'json' || typeof value === 'object') return JSON.stringify(value);
  // Bytes travel as base64, and are typed as hexadecimal digits.
  if (kind === 'bytes') return Array.from(atob(String(value)), (one) => one.charCodeAt(0).toString(16).padStart(2, '0')).join('');
  if (kind === 'timestamp')
    return String(value)
      .replace('T', ' ')
      .replace(/(:00)?\.000000Z$/, '');
  return String(value);
}

/** The row that a to-one cell leads to, as it would be picked. */
export function pickedFrom(column: Extract<GridColumn, { kind: 'one' }>, row: Row): PickedRow | null {
  const behind = rowBehind(row, column.role.name);
  if (behind === null) return null;
  return { entity: kindOf(behind, column.role.target), key: String(keyOf(behind)), shown: titleOf(behind) };
}

/** Why a text cannot stand in a field; null where it can. */
export function problemOf(field: FieldView, text: string): string | null {
  if (field.entry === null) return 'This is computed.';
  const parsed = parseWire(field.entry.type, text);
  return parsed.ok ? null : parsed.problem;
}

/** An entry as a command has it. */
export function enteredOf(entry: CellEntry, column: GridColumn, entities: readonly EntityView[]): Entered | null {
  switch (entry.kind) {
    case 'nothing':
      return { kind: 'nothing' };
    case 'row': {
      const row = nameOf(entry.row.entity, entry.row.key, entities);
      return row === null ? null : { kind: 'row', row };
    }
    case 'value':
      return column.kind === 'field' && column.field.entry !== null
        ? { kind: 'value', type: column.field.entry.type, text: entry.text }
        : null;
  }
}

/** A row as a command names it; null where the text has no such entity. */
export function nameOf(entity: string, key: unknown, entities: readonly EntityView[]): RowName | null {
  const view = entities.find(({ name }) => name === entity);
  if (view === undefined) return null;
  return { entity, keyType: view.keyType, key: keyFrom(view.keyType, String(key)) };
}

/** What a column is called in a command. */
export function nameInCommand(column: GridColumn): string {
  return column.kind === 'one' ? column.role.name : column.id;
}

/** The commands that write all that was changed, a line for each row. */
export function commandsOf(
  cells: ChangedCells,
  entity: EntityView,
  columns: readonly GridColumn[],
  entities: readonly EntityView[],
): string {
  return Object.entries(cells)
    .flatMap(([key, row]): string[] => {
      const name = nameOf(entity.name, key, entities);
      const entries = Object.entries(row).flatMap(([id, { entry }]): Entry[] => {
        const column = columns.find((one) => one.id === id);
        const entered = column === undefined ? null : enteredOf(entry, column, entities);
        return column === undefined || entered === null ? [] : [{ name: nameInCommand(column), entered }];
      });
      return name === null || entries.length === 0 ? [] : [updateText(name, entries)];
    })
    .join('\n');
}
