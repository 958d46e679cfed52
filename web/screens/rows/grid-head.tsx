import { useRef } from 'react';
import { type GridColumn, isRight, kindsOf, nextOrder } from './columns.js';

interface HeadProps {
  readonly column: GridColumn;
  readonly width: number;
  readonly last: boolean;
  readonly orderBy: string;
  onOrder(orderBy: string): void;
  onResize(pixels: number): void;
}

/** The head of a column: a click orders the rows by it, and its right edge is drawn. */
export function Head({ column, width, last, orderBy, onOrder, onResize }: HeadProps) {
  const order = orderOf(column);
  const sign = orderBy === order ? '↑' : orderBy === `${order} desc` ? '↓' : '';
  const derived = column.kind === 'field' && column.field.derived;
  return (
    <th
      scope="col"
      aria-sort={sign === '↑' ? 'ascending' : sign === '↓' ? 'descending' : 'none'}
      className="group relative block shrink-0 p-0 font-normal"
      style={last ? { minWidth: width, flexGrow: 1 } : { width }}
    >
      <button
        type="button"
        disabled={!isSortable(column)}
        title={titleOf(column)}
        className={`block h-8 w-full truncate px-3 leading-8 ${isRight(column) ? 'text-right' : 'text-left'} ${COLOURS[column.kind]} enabled:hover:text-ink ${derived ? 'italic' : ''}`}
        onClick={() => onOrder(nextOrder(orderBy, order))}
      >
        {headOf(column)} {sign}
      </button>
      <Edge width={width} onResize={onResize} />
    </th>
  );
}

/** The right edge of a head, which is drawn to widen the column. */
function Edge({ width, onResize }: { readonly width: number; onResize(pixels: number): void }) {
  const drag = useRef<{ x: number; width: number } | null>(null);
  return (
    <span
      aria-hidden="true"
      className="absolute top-0 right-0 h-full w-1.5 cursor-col-resize opacity-0 group-hover:opacity-100 hover:bg-line-2"
      onPointerDown={(event) => {
        drag.current = { x: event.clientX, width };
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (drag.current !== null) onResize(drag.current.width + event.clientX - drag.current.x);
      }}
      onPointerUp={() => {
        drag.current = null;
      }}
    />
  );
}

const COLOURS: Readonly<Record<GridColumn['kind'], string>> = {
  one: 'text-to-one',
  many: 'text-to-many',
  pivot: 'text-pivot',
  kind: 'text-kinds',
  field: 'text-ink-2',
};

/** What stands at the head of a column. */
function headOf(column: GridColumn): string {
  if (column.kind === 'kind') return 'kind';
  return column.kind === 'field' ? (column.field.title ?? column.id) : column.id;
}

function titleOf(column: GridColumn): string {
  switch (column.kind) {
    case 'kind':
      return 'what kind the row is';
    case 'field':
    case 'pivot':
      return `${column.field.type}${column.field.derived ? ', computed when read' : ''}`;
    case 'one':
    case 'many':
      return `→ ${column.role.targets.join(' or ')}, ${column.role.path ? 'a path' : `relation ${column.role.relation}`}`;
  }
}

/** What rows are put in order by for a column, in the notation. */
function orderOf(column: GridColumn): string {
  if (column.kind === 'many') return `count(${column.id === column.role.name ? column.id : `(${column.id})`})`;
  return column.kind === 'one' ? column.order : column.id;
}

/** Rows are put in order by what all of them have, and what leads to rows of one entity. */
function isSortable(column: GridColumn): boolean {
  if (column.kind === 'pivot' || column.kind === 'kind' || kindsOf(column) !== null) return false;
  return column.kind !== 'one' || column.role.targets.length === 1;
}
