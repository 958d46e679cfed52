import { useCallback, useMemo, useState } from 'react';
import type { EntityView } from '../../../../core/view-models/index.js';
import { api } from '../../../app/api.js';
import { useAppDispatch } from '../../../app/store.js';
import type { GridColumn } from '../columns.js';
import type { CellPlace } from '../grid-keys.js';
import type { Row, RowWindow } from '../use-window.js';
import { type Block, blockText, cellsOf } from './block.js';
import { type CellEntry, type ChangedCells, isEditable, problemOf, storedText } from './entries.js';
import type { CellStep, Entries } from './use-entries.js';

/** The cell that is being changed, and what was typed that opened it. */
export interface OpenCell extends CellPlace {
  readonly typed: string | null;
}

/** Changing cells of a grid in place; nothing is written by it. */
export interface GridEditing {
  readonly tree: string;
  readonly cells: ChangedCells;
  readonly open: OpenCell | null;
  /** Opens a cell, where it can be changed; whether it can. */
  begin(place: CellPlace, typed: string | null): boolean;
  take(entry: CellEntry): void;
  cancel(): void;
  /** Empties a cell, where its field may be empty. */
  empty(place: CellPlace): void;
  copy(block: Block): string;
  paste(text: string, at: CellPlace): void;
  undo(): void;
  /** What could not be taken of what was pasted last. */
  readonly note: string;
}

interface Site {
  readonly tree: string;
  readonly entity: EntityView;
  readonly columns: readonly GridColumn[];
  readonly data: RowWindow;
  readonly total: number;
  readonly entries: Entries;
}

/** Lets a person change cells of a grid; null where nothing is written. */
export function useGridEditing(site: Site, mayWrite: boolean): GridEditing | null {
  const { tree, entity, columns, data, total, entries } = site;
  const [open, setOpen] = useState<OpenCell | null>(null);
  const [note, setNote] = useState('');
  const dispatch = useAppDispatch();
  const stepFor = useCallback(
    (row: Row, column: GridColumn, entry: CellEntry): CellStep => {
      const was = storedText(column, row);
      const key = String(row[entity.key]);
      const before = entries.cells[key]?.[column.id]?.was;
      const same = textOf(entry) === was;
      return { key, column: column.id, cell: same ? null : { entry, was: before === undefined ? was : before } };
    },
    [entity, entries.cells],
  );
  const editableAt = (place: CellPlace): { row: Row; column: GridColumn } | null => {
    const row = data.row(place.row);
    const column = columns[place.column - 1];
    return row !== null && column !== undefined && isEditable(column, row, entity) ? { row, column } : null;
  };
  const sought = async (targets: readonly string[], text: string): Promise<CellEntry | null> => {
    const asked = api.endpoints.rowsSought.initiate({ tree, entities: targets, sought: text }, { subscribe: false });
    const { data: found } = await dispatch(asked);
    const same = found?.rows.filter(({ shown, key }) => shown === text || key === text) ?? [];
    const [only, ...more] = same;
    return only === undefined || more.length > 0 ? null : { kind: 'row', row: only };
  };
  const pasted = async (row: Row, column: GridColumn, text: string): Promise<CellStep | null> => {
    if (text === '') return isRequired(column) ? null : stepFor(row, column, { kind: 'nothing' });
    if (column.kind === 'one') {
      const entry = await sought(column.role.targets, text.replace(/^(\w+)\((.*)\)$/, '$2'));
      return entry === null ? null : stepFor(row, column, entry);
    }
    if (column.kind !== 'field') return null;
    const value = valueNamed(column, text);
    return problemOf(column.field, value) === null ? stepFor(row, column, { kind: 'value', text: value }) : null;
  };
  const paste = async (text: string, at: CellPlace): Promise<void> => {
    const steps: CellStep[] = [];
    let left = 0;
    for (const [down, line] of cellsOf(text).entries())
      for (const [along, cell] of line.entries()) {
        const there = at.row + down < total ? editableAt({ row: at.row + down, column: at.column + along }) : null;
        const step = there === null ? null : await pasted(there.row, there.column, cell.trim());
        if (step === null) left += 1;
        else steps.push(step);
      }
    if (steps.length > 0) entries.change(steps);
    setNote(
      left === 0
        ? ''
        : `${left} of the pasted cells could not be taken: they stand beyond the rows, in columns that nobody changes, or do not fit.`,
    );
  };
  if (!mayWrite) return null;
  return {
    tree,
    cells: entries.cells,
    open,
    note,
    begin: (place, typed) => {
      if (editableAt(place) === null) return false;
      setOpen({ ...place, typed });
      return true;
    },
    take: (entry) => {
      const there = open === null ? null : editableAt(open);
      setOpen(null);
      if (there !== null) entries.change([stepFor(there.row, there.column, entry)]);
    },
    cancel: () => setOpen(null),
    empty: (place) => {
      const there = editableAt(place);
      if (there !== null && !isRequired(there.column)) entries.change([stepFor(there.row, there.column, { kind: 'nothing' })]);
    },
    copy: ({ top, bottom, left, right }) =>
      blockText(
        Array.from({ length: bottom - top + 1 }, (_, down) =>
          Array.from({ length: right - left + 1 }, (__, along) => {
            const row = data.row(top + down);
            const column = columns[left + along - 1];
            if (row === null || column === undefined) return '';
            const changed = entries.cells[String(row[entity.key])]?.[column.id];
            return (changed === undefined ? storedText(column, row) : textOf(changed.entry)) ?? '';
          }),
        ),
      ),
    paste: (text, at) => void paste(text, at),
    undo: entries.undo,
  };
}

function isRequired(column: GridColumn): boolean {
  if (column.kind === 'one') return column.role.required;
  return column.kind !== 'field' || column.field.entry?.required === true;
}

/** What an entry is as text, as what is stored is. */
export function textOf(entry: CellEntry): string | null {
  switch (entry.kind) {
    case 'nothing':
      return null;
    case 'row':
      return `${entry.row.entity}(${entry.row.key})`;
    case 'value':
      return entry.text;
  }
}

/** A value of a choice by its title, as a grid shows it; any other text is itself. */
function valueNamed(column: Extract<GridColumn, { kind: 'field' }>, text: string): string {
  return Object.entries(column.field.titles).find(([, title]) => title === text)?.[0] ?? text;
}

/** Cells that somebody else has changed since a person did: what stands there now. */
export function useClashes(
  cells: ChangedCells,
  entity: EntityView,
  columns: readonly GridColumn[],
  data: RowWindow,
  total: number,
): readonly { readonly key: string; readonly column: string; readonly now: string | null }[] {
  const { first } = data;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the rows in view are looked through again when they come anew
  return useMemo(() => {
    const keys = new Set(Object.keys(cells));
    const found: { key: string; column: string; now: string | null }[] = [];
    for (let index = 0; index < Math.min(total, MOST_LOOKED_THROUGH) && keys.size > 0; index++) {
      const row = data.row(index);
      const key = row === null ? '' : String(row[entity.key]);
      if (row === null || !keys.delete(key)) continue;
      for (const [id, { was }] of Object.entries(cells[key] ?? {})) {
        const column = columns.find((one) => one.id === id);
        const now = column === undefined ? was : storedText(column, row);
        if (now !== was) found.push({ key, column: id, now });
      }
    }
    return found;
  }, [cells, entity, columns, first, total]);
}

/** Rows that are looked through for what others have changed: those of the pages that are held. */
const MOST_LOOKED_THROUGH = 800;
