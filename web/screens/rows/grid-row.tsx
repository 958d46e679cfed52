import { memo } from 'react';
import type { EntityView } from '../../../core/view-models/index.js';
import { FieldValue, Hidden, isHidden } from '../../parts/field-value.js';
import { type GridColumn, isRight, kindsOf } from './columns.js';
import { CellEditor, type Onward } from './edit/cell-editor.js';
import type { CellEntry, ChangedCell } from './edit/entries.js';
import { danglingKey, type Goal, goalOf, kindOf, rowBehind, titleOf } from './row-parts.js';
import type { Row } from './use-window.js';

/** The height of a row, in pixels; its class says the same. */
export const ROW_HEIGHT = 28;
/** The width of the column with the numbers of the rows, in pixels. */
export const NUMBER_WIDTH = 64;

/** The identifier of a cell in the page. */
export const cellId = (row: number, column: number): string => `cell-${row}-${column}`;

interface GridRowProps {
  readonly entity: EntityView;
  readonly columns: readonly GridColumn[];
  readonly index: number;
  /** The column of the cell that the keyboard is at; null where that is in another row. */
  readonly at: number | null;
  readonly row: Row | null;
  readonly counts: Readonly<Record<string, number>> | null;
  /** The cells of the row that were changed and are not written. */
  readonly changed: Readonly<Record<string, ChangedCell>> | null;
  /** The columns of the block that is chosen, in this row; null where it has none. */
  readonly block: { readonly left: number; readonly right: number } | null;
  /** The cell that is being changed; null where that is in another row. */
  readonly open: { readonly column: number; readonly typed: string | null } | null;
  readonly tree: string;
  onChoose(row: number, column: number, further: boolean): void;
  onOpen(row: number, column: number): void;
  onEntry(entry: CellEntry, onward: Onward): void;
  onCancel(): void;
  onWalk(goal: Goal): void;
}

/**
 * A row of the grid. While one scrolls, those that stay in view are not drawn again. Neither it nor its cells have a style of
 * their own: a browser resolves one that it has met before, and a place of its own for each row made that the cost of scrolling.
 */
export const GridRow = memo(function GridRow({
  entity,
  columns,
  index,
  at,
  row,
  counts,
  changed,
  block,
  open,
  tree,
  onChoose,
  onOpen,
  onEntry,
  onCancel,
  onWalk,
}: GridRowProps) {
  return (
    <tr
      aria-rowindex={index + 2}
      aria-selected={at !== null}
      className={`grid h-7 grid-cols-(--columns) grid-rows-1 border-b border-line outline-none ${at === null ? '' : 'bg-wash'}`}
    >
      <td
        id={cellId(index, 0)}
        className={`sticky left-0 block bg-inherit px-3 py-0 text-right leading-7 text-ink-3 ${at === 0 ? AT : OFF}`}
        onPointerDown={(event) => onChoose(index, 0, event.shiftKey)}
      >
        {row === null ? (
          index + 1
        ) : (
          <button
            type="button"
            tabIndex={-1}
            className="hover:text-selected hover:underline"
            aria-label={`Open row ${index + 1}`}
            title="Open this row with all its kin"
            onClick={() => onWalk({ kind: 'row', entity: entity.name, key: row[entity.key] })}
          >
            {(index + 1).toLocaleString('en')}
          </button>
        )}
      </td>
      {columns.map((column, position) => {
        const cell = changed?.[column.id] ?? null;
        const isOpen = open?.column === position + 1;
        const chosen = block !== null && position + 1 >= block.left && position + 1 <= block.right;
        return (
          <td
            key={column.id}
            id={cellId(index, position + 1)}
            className={`block px-3 py-0 leading-7 ${isOpen ? 'relative overflow-visible' : 'truncate'} ${isRight(column) ? 'text-right' : ''} ${cell === null ? '' : 'bg-sheet'} ${chosen ? 'bg-wash' : ''} ${at === position + 1 ? AT : OFF}`}
            onPointerDown={(event) => onChoose(index, position + 1, event.shiftKey)}
            onDoubleClick={() => onOpen(index, position + 1)}
          >
            {row === null ? (
              <span className="text-ink-3">·</span>
            ) : isOpen && open !== null ? (
              <CellEditor
                tree={tree}
                column={column}
                row={row}
                changed={cell}
                typed={open.typed}
                onDone={onEntry}
                onCancel={onCancel}
              />
            ) : cell !== null ? (
              <Changed column={column} cell={cell} />
            ) : (
              <Cell column={column} row={row} entity={entity} counts={counts} onWalk={onWalk} />
            )}
          </td>
        );
      })}
    </tr>
  );
});

/** The cell that the keyboard is at is outlined while the grid has the focus. */
const AT = 'outline-selected -outline-offset-2 group-focus/grid:outline-2';
const OFF = 'outline-none';

interface CellProps {
  readonly column: GridColumn;
  readonly row: Row;
  readonly entity: EntityView;
  readonly counts: Readonly<Record<string, number>> | null;
  onWalk(goal: Goal): void;
}

function Cell({ column, row, entity, counts, onWalk }: CellProps) {
  // A row of another kind has no such thing.
  const kinds = kindsOf(column);
  if (kinds !== null && !kinds.includes(kindOf(row, entity.name))) return <span className="sr-only">not of this kind</span>;
  const goal = goalOf(column, row, entity, counts);
  switch (column.kind) {
    case 'field':
      return <FieldValue value={row[column.id]} field={column.field} />;
    case 'kind':
      return <span className="text-kinds">{kindOf(row, entity.name)}</span>;
    case 'pivot':
      return <FieldValue value={rowBehind(row, column.table)?.[column.field.name] ?? null} field={column.field} />;
    case 'one': {
      if (isHidden(row[column.role.name])) return <Hidden />;
      const behind = rowBehind(row, column.role.name);
      if (behind === null || goal === null) return <NoRow dangling={danglingKey(row, column.role)} />;
      return (
        <button
          type="button"
          tabIndex={-1}
          className="max-w-full truncate text-selected hover:underline"
          onClick={() => onWalk(goal)}
        >
          {column.role.targets.length > 1 && <span className="text-polymorphic">{`${kindOf(behind, column.role.target)} `}</span>}
          {titleOf(behind)}
        </button>
      );
    }
    case 'many': {
      const count = counts?.[column.id];
      if (count === undefined) return <span className="text-ink-3">…</span>;
      if (goal === null) return <span className="text-ink-3">0</span>;
      return (
        <button
          type="button"
          tabIndex={-1}
          className="text-to-many hover:underline"
          aria-label={`${count} ${column.id}`}
          onClick={() => onWalk(goal)}
        >
          {count.toLocaleString('en')}
        </button>
      );
    }
  }
}

/** What was put into a cell and is not written yet. */
function Changed({ column, cell: { entry, was } }: { readonly column: GridColumn; readonly cell: ChangedCell }) {
  const title = `Not written yet. It is ${was === null ? 'empty' : `“${was}”`} in the database.`;
  const titles = column.kind === 'field' ? column.field.titles : {};
  return (
    <span title={title} className="font-semibold text-to-many">
      {entry.kind === 'nothing' ? '–' : entry.kind === 'row' ? entry.row.shown : (titles[entry.text] ?? entry.text)}
      <span className="sr-only">, not written yet</span>
    </span>
  );
}

/** A to-one role that leads to no row: it is empty, or its key is of a row that is not there. */
function NoRow({ dangling }: { readonly dangling: string | null }) {
  if (dangling === null)
    return (
      <span title="null" className="text-ink-3">
        –
      </span>
    );
  return (
    <span className="text-harm" title="No row has this key">
      ✕ {dangling}
    </span>
  );
}
