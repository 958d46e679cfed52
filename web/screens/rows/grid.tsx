import { useVirtualizer } from '@tanstack/react-virtual';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { EntityView } from '../../../core/view-models/index.js';
import { useColumnWidths, widthIn } from './column-widths.js';
import type { GridColumn } from './columns.js';
import { type Block, blockBetween } from './edit/block.js';
import type { Onward } from './edit/cell-editor.js';
import type { CellEntry } from './edit/entries.js';
import type { GridEditing } from './edit/use-grid-editing.js';
import { Head } from './grid-head.js';
import { type CellPlace, movedBy } from './grid-keys.js';
import { cellId, GridRow, NUMBER_WIDTH, ROW_HEIGHT } from './grid-row.js';
import type { useWalk } from './place.js';
import { type Goal, goalOf } from './row-parts.js';
import type { Row, RowWindow } from './use-window.js';

interface GridProps {
  readonly entity: EntityView;
  readonly columns: readonly GridColumn[];
  readonly total: number;
  readonly data: RowWindow;
  readonly orderBy: string;
  /** Where one stands, as the trail tells it. */
  readonly here: string;
  readonly walk: ReturnType<typeof useWalk>;
  /** Changing cells in place; null where rows are only looked at. */
  readonly editing: GridEditing | null;
  /** Moves a row before or behind the next one; null where rows have no order that a person gives them. */
  readonly onMove: ((row: number, by: -1 | 1) => Promise<boolean>) | null;
  onWrite(): void;
  onDelete(row: Row): void;
  onOrder(orderBy: string): void;
}

const FIRST_CELL = { row: 0, column: 0 };

/** A grid of any number of rows; only those in view are drawn. Arrows move by a cell, and Enter walks to where it leads. */
export function Grid({
  entity,
  columns,
  total,
  data,
  orderBy,
  here,
  walk,
  editing,
  onMove,
  onWrite,
  onDelete,
  onOrder,
}: GridProps) {
  const scroller = useRef<HTMLTableElement>(null);
  const [at, setAt] = useState<CellPlace>(FIRST_CELL);
  /** The other corner of the block that is chosen; null where it is one cell. */
  const [corner, setCorner] = useState<CellPlace | null>(null);
  const { widths, resize } = useColumnWidths(entity.name);
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 6,
  });
  const items = virtual.getVirtualItems();
  const from = items[0]?.index ?? 0;
  const to = items.at(-1)?.index ?? 0;
  useEffect(() => data.see(from, to), [data.see, from, to]);
  const whole = NUMBER_WIDTH + columns.reduce((sum, column) => sum + widthIn(widths, column), 0);
  const onWalk = useWalkFrom(walk, here);
  const block = corner === null ? null : blockBetween(at, corner);
  const onChoose = useCallback((row: number, column: number, further: boolean) => {
    setAt((before) => {
      setCorner((other) => (further ? (other ?? before) : null));
      return { row, column };
    });
  }, []);
  const goTo = (next: CellPlace) => {
    setAt(next);
    virtual.scrollToIndex(next.row);
    if (scroller.current !== null) scrollToColumn(scroller.current, columns, widths, next.column);
  };
  const latest = useRef({ editing, at, goTo, total, columns });
  latest.current = { editing, at, goTo, total, columns };
  const onOpen = useCallback((row: number, column: number) => void latest.current.editing?.begin({ row, column }, null), []);
  const onEntry = useCallback((entry: CellEntry, onward: Onward) => {
    const now = latest.current;
    now.editing?.take(entry);
    scroller.current?.focus();
    const size = { row: now.total, column: now.columns.length + 1 };
    const key = ONWARD[onward];
    const next = key === null ? null : movedBy(key, false, now.at, size, 1);
    if (next !== null) now.goTo(next);
  }, []);
  const onCancel = useCallback(() => {
    latest.current.editing?.cancel();
    scroller.current?.focus();
  }, []);
  const onKeyDown = (event: React.KeyboardEvent) => {
    // Within a cell or a head, its own buttons take the keys.
    if (event.target !== scroller.current) return;
    const by = event.altKey ? BY[event.key] : undefined;
    if (onMove !== null && by !== undefined) {
      event.preventDefault();
      void onMove(at.row, by).then((moved) => {
        if (moved) goTo({ ...at, row: at.row + by });
      });
      return;
    }
    if (editing !== null && editKey(event, editing, at, block ?? blockBetween(at, at), onWrite)) {
      // It is meant for the cell, and not for the page around it, where Ctrl+Z is of the text and ? opens the reference.
      event.stopPropagation();
      // A picker takes the letter by which it was opened.
      if (event.key.length > 1 || columns[at.column - 1]?.kind !== 'one') event.preventDefault();
      return;
    }
    if (event.key === 'Delete' && at.column === 0 && editing !== null) {
      const row = data.row(at.row);
      if (row !== null) onDelete(row);
      return;
    }
    if (event.key === 'Enter') {
      const row = data.row(at.row);
      const goal = row === null ? null : goalOf(columns[at.column - 1] ?? null, row, entity, data.counts(at.row));
      if (goal !== null) onWalk(goal);
      return;
    }
    const page = Math.floor((scroller.current?.clientHeight ?? 300) / ROW_HEIGHT) - 2;
    const next = movedBy(event.key, event.ctrlKey, at, { row: total, column: columns.length + 1 }, page);
    if (next === null) return;
    event.preventDefault();
    setCorner(event.shiftKey ? (corner ?? at) : null);
    goTo(next);
  };
  return (
    <table
      ref={scroller}
      // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a table whose cells are walked through is a grid
      role="grid"
      aria-label={`Rows of ${entity.name}`}
      aria-rowcount={total + 1}
      aria-colcount={columns.length + 1}
      aria-activedescendant={at.row >= from && at.row <= to ? cellId(at.row, at.column) : undefined}
      tabIndex={0}
      className="group/grid block h-full overflow-auto bg-label font-mono text-small focus-visible:outline-none!"
      onKeyDown={onKeyDown}
      onCopy={(event) => {
        if (editing === null || event.target !== scroller.current) return;
        event.preventDefault();
        event.clipboardData.setData('text/plain', editing.copy(block ?? blockBetween(at, at)));
      }}
      onPaste={(event) => {
        if (editing === null || event.target !== scroller.current) return;
        event.preventDefault();
        editing.paste(event.clipboardData.getData('text/plain'), block === null ? at : { row: block.top, column: block.left });
      }}
    >
      <thead className="sticky top-0 z-10 block border-b border-line-2 bg-label" style={{ width: whole, minWidth: '100%' }}>
        <tr aria-rowindex={1} className="flex h-8">
          <th
            scope="col"
            className="sticky left-0 block shrink-0 bg-label px-3 leading-8 font-normal text-ink-3"
            style={{ width: NUMBER_WIDTH }}
          >
            <span className="sr-only">number</span>
          </th>
          {columns.map((column, index) => (
            <Head
              key={column.id}
              last={index === columns.length - 1}
              column={column}
              width={widthIn(widths, column)}
              orderBy={orderBy}
              onOrder={onOrder}
              onResize={(pixels) => resize(column.id, pixels)}
            />
          ))}
        </tr>
      </thead>
      <tbody
        className="block"
        style={{
          height: virtual.getTotalSize(),
          paddingTop: items[0]?.start ?? 0,
          width: whole,
          minWidth: '100%',
          ...columnsStyle(widths, columns),
        }}
      >
        {items.map((item) => (
          <GridRow
            key={item.index}
            entity={entity}
            columns={columns}
            index={item.index}
            at={item.index === at.row ? at.column : null}
            row={data.row(item.index)}
            counts={data.counts(item.index)}
            onChoose={onChoose}
            onOpen={onOpen}
            onEntry={onEntry}
            onCancel={onCancel}
            onWalk={onWalk}
            tree={editing?.tree ?? ''}
            changed={changedIn(editing, data.row(item.index), entity)}
            open={editing?.open?.row === item.index ? editing.open : null}
            block={block !== null && item.index >= block.top && item.index <= block.bottom ? block : null}
          />
        ))}
      </tbody>
    </table>
  );
}

/** The widths of the columns, as the rows have them: the last takes what is left. */
function columnsStyle(widths: Readonly<Record<string, number>>, columns: readonly GridColumn[]): React.CSSProperties {
  const tracks = columns.map((column, at) => {
    const width = widthIn(widths, column);
    return at === columns.length - 1 ? `minmax(${width}px, 1fr)` : `${width}px`;
  });
  return { '--columns': [`${NUMBER_WIDTH}px`, ...tracks].join(' ') } as React.CSSProperties;
}

/** The keys that, with Alt, move a row among the others. */
const BY: Readonly<Record<string, -1 | 1>> = { ArrowUp: -1, ArrowDown: 1 };

/** Where the grid goes on, as the key that would move there. */
const ONWARD: Readonly<Record<Onward, string | null>> = {
  below: 'ArrowDown',
  next: 'ArrowRight',
  before: 'ArrowLeft',
  stay: null,
};

/** What a key does to the cells; whether it does anything. */
function editKey(event: React.KeyboardEvent, editing: GridEditing, at: CellPlace, block: Block, onWrite: () => void): boolean {
  const { key, ctrlKey, metaKey, altKey } = event;
  const control = ctrlKey || metaKey;
  if (control && key === 'Enter') {
    onWrite();
    return true;
  }
  if (control && key === 'z') {
    editing.undo();
    return true;
  }
  if (control || altKey || at.column === 0) return false;
  if (key === 'Enter' || key === 'F2') return editing.begin(at, null);
  if (key === 'Delete' || key === 'Backspace') {
    for (let row = block.top; row <= block.bottom; row++)
      for (let column = block.left; column <= block.right; column++) editing.empty({ row, column });
    return true;
  }
  return key.length === 1 && editing.begin(at, key);
}

/** The cells of a row that were changed. */
function changedIn(editing: GridEditing | null, row: Row | null, entity: EntityView) {
  return editing === null || row === null ? null : (editing.cells[String(row[entity.key])] ?? null);
}

/** Walks to where a cell leads; the same function for as long as the grid stands, so that rows need not be drawn again. */
function useWalkFrom(walk: GridProps['walk'], here: string): (goal: Goal) => void {
  const latest = useRef({ walk, here });
  latest.current = { walk, here };
  return useCallback((goal: Goal) => {
    const { walk, here } = latest.current;
    if (goal.kind === 'row') walk.toRow(goal.entity, goal.key, here);
    else walk.toRows(goal.owner, goal.key, goal.role, goal.target, here);
  }, []);
}

/** Brings a column into view; the numbers of the rows stay at the left edge, and cover what is below them. */
function scrollToColumn(
  scroller: HTMLElement,
  columns: readonly GridColumn[],
  widths: Readonly<Record<string, number>>,
  position: number,
): void {
  if (position === 0) {
    scroller.scrollLeft = 0;
    return;
  }
  const left = columns.slice(0, position - 1).reduce((sum, column) => sum + widthIn(widths, column), 0);
  const column = columns[position - 1];
  const right = left + (column === undefined ? 0 : widthIn(widths, column));
  const seen = scroller.clientWidth - NUMBER_WIDTH;
  if (left < scroller.scrollLeft) scroller.scrollLeft = left;
  else if (right > scroller.scrollLeft + seen) scroller.scrollLeft = Math.min(left, right - seen);
}
