import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useRef, useState } from 'react';
import { COMPOSITE_KEY, KIND_NAME } from '../../../core/model/index.js';
import { TITLE } from '../../../core/plan/index.js';
import { shownKey } from '../../../core/values/index.js';
import { preferences } from '../../app/preferences.js';
import { FieldValue, isNumber, storedText } from '../../parts/field-value.js';
import type { EntityView, RoleView } from '../../workers/design-view.js';
import { type GridColumn, nextOrder } from './columns.js';
import type { useWalk } from './place.js';
import type { Row, RowWindow } from './use-window.js';

const ROW = 28;
const NUMBER_WIDTH = 64;

interface GridProps {
  readonly entity: EntityView;
  readonly columns: readonly GridColumn[];
  readonly total: number;
  readonly data: RowWindow;
  readonly orderBy: string;
  /** Where one stands, as the trail tells it. */
  readonly here: string;
  readonly walk: ReturnType<typeof useWalk>;
  onOrder(orderBy: string): void;
}

/** A grid of any number of rows; only those in view are drawn. */
export function Grid({ entity, columns, total, data, orderBy, here, walk, onOrder }: GridProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  const [widths, setWidths] = useState<Readonly<Record<string, number>>>(() => widthsOf(entity.name));
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 6,
  });
  const items = virtual.getVirtualItems();
  const from = items[0]?.index ?? 0;
  const to = items.at(-1)?.index ?? 0;
  useEffect(() => data.see(from, to), [data.see, from, to]);
  const width = (column: GridColumn) => widths[column.id] ?? column.width;
  const whole = NUMBER_WIDTH + columns.reduce((sum, column) => sum + width(column), 0);
  const move = (next: number) => {
    const index = Math.max(0, Math.min(total - 1, next));
    setAt(index);
    virtual.scrollToIndex(index);
  };
  /** Brings the next column to the left edge, or the one before. */
  const shift = (by: number) => {
    const element = scroller.current;
    if (element === null) return;
    const edges = [0];
    for (const column of columns) edges.push((edges.at(-1) ?? 0) + width(column));
    const here = edges.findLastIndex((edge) => edge <= element.scrollLeft + 1);
    element.scrollLeft = edges[Math.max(0, Math.min(columns.length - 1, here + by))] ?? 0;
  };
  const resize = (id: string, pixels: number) => {
    const next = { ...widths, [id]: Math.max(48, Math.round(pixels)) };
    setWidths(next);
    preferences.setItem(`column widths ${entity.name}`, JSON.stringify(next));
  };
  return (
    <div
      ref={scroller}
      role="grid"
      aria-label={`Rows of ${entity.name}`}
      aria-rowcount={total + 1}
      aria-activedescendant={`row-${at}`}
      tabIndex={0}
      className="h-full overflow-auto bg-label font-mono text-small outline-none focus-visible:outline-2 focus-visible:-outline-offset-2"
      onKeyDown={(event) => {
        const page = Math.floor((scroller.current?.clientHeight ?? 300) / ROW) - 2;
        const moves: Readonly<Record<string, number>> = {
          ArrowDown: at + 1,
          ArrowUp: at - 1,
          PageDown: at + page,
          PageUp: at - page,
          Home: 0,
          End: total - 1,
        };
        const next = moves[event.key];
        const across = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
        if (across !== undefined && event.target === scroller.current) {
          event.preventDefault();
          shift(across);
        }
        if (event.target === scroller.current && event.key === 'Enter') {
          const row = data.row(at);
          if (row !== null) walk.toRow(entity.name, row[entity.key], here);
        }
        if (next === undefined) return;
        event.preventDefault();
        move(next);
      }}
    >
      <div
        role="rowgroup"
        className="sticky top-0 z-10 border-b border-line-2 bg-label"
        style={{ width: whole, minWidth: '100%' }}
      >
        <div role="row" aria-rowindex={1} className="flex h-8">
          <span
            role="columnheader"
            className="sticky left-0 shrink-0 bg-label px-3 leading-8 text-ink-3"
            style={{ width: NUMBER_WIDTH }}
          >
            <span className="sr-only">number</span>
          </span>
          {columns.map((column, index) => (
            <Head
              key={column.id}
              last={index === columns.length - 1}
              column={column}
              width={width(column)}
              orderBy={orderBy}
              onOrder={onOrder}
              onResize={(pixels) => resize(column.id, pixels)}
            />
          ))}
        </div>
      </div>
      <div role="rowgroup" className="relative" style={{ height: virtual.getTotalSize(), width: whole, minWidth: '100%' }}>
        {items.map((item) => (
          <GridRow
            key={item.index}
            entity={entity}
            columns={columns}
            widths={widths}
            index={item.index}
            start={item.start}
            chosen={item.index === at}
            row={data.row(item.index)}
            counts={data.counts(item.index)}
            here={here}
            walk={walk}
            onChoose={setAt}
          />
        ))}
      </div>
    </div>
  );
}

/** The kinds whose rows have something in a column; null where all have. */
function kindsOf(column: GridColumn): readonly string[] | null {
  switch (column.kind) {
    case 'field':
      return column.field.kinds;
    case 'one':
    case 'many':
      return column.role.kinds;
    default:
      return null;
  }
}

/** What stands at the head of a column. */
function headOf(column: GridColumn): string {
  if (column.kind === 'kind') return 'kind';
  return column.kind === 'field' ? (column.field.title ?? column.id) : column.id;
}

/** Rows are put in order by what all of them have, and what leads to rows of one entity. */
function isSortable(column: GridColumn): boolean {
  if (column.kind === 'pivot' || column.kind === 'kind' || kindsOf(column) !== null) return false;
  return column.kind !== 'one' || column.role.targets.length === 1;
}

function Head({
  column,
  width,
  last,
  orderBy,
  onOrder,
  onResize,
}: {
  readonly column: GridColumn;
  readonly width: number;
  readonly last: boolean;
  readonly orderBy: string;
  onOrder(orderBy: string): void;
  onResize(pixels: number): void;
}) {
  const order =
    column.kind === 'many'
      ? `count(${column.id.includes(' as ') ? `(${column.id})` : column.id})`
      : column.kind === 'one'
        ? column.order
        : column.id;
  const sortable = isSortable(column);
  const sign = orderBy === order ? '↑' : orderBy === `${order} desc` ? '↓' : '';
  const colour =
    column.kind === 'one'
      ? 'text-to-one'
      : column.kind === 'many'
        ? 'text-to-many'
        : column.kind === 'pivot'
          ? 'text-pivot'
          : column.kind === 'kind'
            ? 'text-kinds'
            : 'text-ink-2';
  const right = column.kind === 'many' || ((column.kind === 'field' || column.kind === 'pivot') && isNumber(column.field));
  const title =
    column.kind === 'kind'
      ? 'what kind the row is'
      : column.kind === 'field' || column.kind === 'pivot'
        ? `${column.field.type}${column.field.derived ? ', computed when read' : ''}`
        : `→ ${column.role.targets.join(' or ')}, ${column.role.path ? 'a path' : `relation ${column.role.relation}`}`;
  const drag = useRef<{ x: number; width: number } | null>(null);
  return (
    <span
      role="columnheader"
      aria-sort={sign === '↑' ? 'ascending' : sign === '↓' ? 'descending' : 'none'}
      className="group relative shrink-0"
      style={last ? { minWidth: width, flexGrow: 1 } : { width }}
    >
      <button
        type="button"
        disabled={!sortable}
        title={title}
        className={`block h-8 w-full truncate px-3 leading-8 ${right ? 'text-right' : 'text-left'} ${colour} enabled:hover:text-ink ${column.kind === 'field' && column.field.derived ? 'italic' : ''}`}
        onClick={() => onOrder(nextOrder(orderBy, order))}
      >
        {headOf(column)} {sign}
      </button>
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
    </span>
  );
}

interface GridRowProps {
  readonly entity: EntityView;
  readonly columns: readonly GridColumn[];
  readonly widths: Readonly<Record<string, number>>;
  readonly index: number;
  readonly start: number;
  readonly chosen: boolean;
  readonly row: Row | null;
  readonly counts: Readonly<Record<string, number>> | null;
  readonly here: string;
  readonly walk: ReturnType<typeof useWalk>;
  onChoose(index: number): void;
}

/** A row of the grid. While one scrolls, those that stay in view are not drawn again. */
const GridRow = memo(
  function GridRow({ entity, columns, widths, index, start, chosen, row, counts, here, walk, onChoose }: GridRowProps) {
    const width = (column: GridColumn) => widths[column.id] ?? column.width;
    return (
      <div
        id={`row-${index}`}
        role="row"
        aria-rowindex={index + 2}
        aria-selected={chosen}
        className={`absolute top-0 left-0 flex w-full border-b border-line ${chosen ? 'bg-wash' : ''}`}
        style={{ height: ROW, transform: `translateY(${start}px)` }}
        onPointerDown={() => onChoose(index)}
      >
        <span
          role="gridcell"
          className="sticky left-0 shrink-0 bg-inherit px-3 text-right leading-7 text-ink-3"
          style={{ width: NUMBER_WIDTH }}
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
              onClick={() => walk.toRow(entity.name, row[entity.key], here)}
            >
              {(index + 1).toLocaleString('en')}
            </button>
          )}
        </span>
        {columns.map((column, position) => {
          const right =
            column.kind === 'many' || ((column.kind === 'field' || column.kind === 'pivot') && isNumber(column.field));
          return (
            <span
              key={column.id}
              role="gridcell"
              className={`shrink-0 truncate px-3 leading-7 ${right ? 'text-right' : ''}`}
              style={
                position === columns.length - 1
                  ? { minWidth: width(column), flexBasis: width(column), flexGrow: 1 }
                  : { width: width(column) }
              }
            >
              {row === null ? (
                <span className="text-ink-3">·</span>
              ) : (
                <Cell column={column} row={row} entity={entity} counts={counts} here={here} walk={walk} />
              )}
            </span>
          );
        })}
      </div>
    );
  },
  (before, now) =>
    before.row === now.row &&
    before.counts === now.counts &&
    before.index === now.index &&
    before.start === now.start &&
    before.chosen === now.chosen &&
    before.columns === now.columns &&
    before.widths === now.widths &&
    before.here === now.here,
);

function Cell({
  column,
  row,
  entity,
  counts,
  here,
  walk,
}: {
  readonly column: GridColumn;
  readonly row: Row;
  readonly entity: EntityView;
  readonly counts: Readonly<Record<string, number>> | null;
  readonly here: string;
  readonly walk: ReturnType<typeof useWalk>;
}) {
  // A row of another kind has no such thing.
  const kinds = kindsOf(column);
  if (kinds !== null && !kinds.includes(kindOf(row, entity.name))) return <span className="sr-only">not of this kind</span>;
  switch (column.kind) {
    case 'field':
      return <FieldValue value={row[column.id]} field={column.field} />;
    case 'kind':
      return <span className="text-kinds">{kindOf(row, entity.name)}</span>;
    case 'pivot': {
      const pivot = row[column.table];
      const value = typeof pivot === 'object' && pivot !== null ? (pivot as Row)[column.field.name] : null;
      return <FieldValue value={value} field={column.field} />;
    }
    case 'one': {
      const { role } = column;
      const target = row[role.name];
      if (typeof target !== 'object' || target === null) {
        const key = danglingKey(row, role);
        return key === null ? (
          <FieldValue value={null} field={NOTHING} />
        ) : (
          <span className="text-harm" title="No row has this key">
            ✕ {key}
          </span>
        );
      }
      return (
        <button
          type="button"
          tabIndex={-1}
          className="max-w-full truncate text-selected hover:underline"
          onClick={() => walk.toRow(kindOf(target as Row, role.target), keyOf(target as Row), here)}
        >
          {role.targets.length > 1 && <span className="text-polymorphic">{`${kindOf(target as Row, role.target)} `}</span>}
          {titleOf(target as Row)}
        </button>
      );
    }
    case 'many': {
      const count = counts?.[column.id];
      if (count === undefined) return <span className="text-ink-3">…</span>;
      if (count === 0) return <span className="text-ink-3">0</span>;
      return (
        <button
          type="button"
          tabIndex={-1}
          className="text-to-many hover:underline"
          aria-label={`${count} ${column.id}`}
          onClick={() => walk.toRows(entity.name, row[entity.key], column.role.name, column.role.target, here)}
        >
          {count.toLocaleString('en')}
        </button>
      );
    }
  }
}

const NOTHING = { name: '', kind: 'text', type: 'text', derived: false, key: false, title: null, titles: {}, kinds: null };

/** The entity that a row is of: where that differs from row to row, the row says it. */
export function kindOf(row: Row, otherwise: string): string {
  const kind = row[KIND_NAME];
  return typeof kind === 'string' ? kind : otherwise;
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

function widthsOf(entity: string): Readonly<Record<string, number>> {
  try {
    const parsed: unknown = JSON.parse(preferences.getItem(`column widths ${entity}`) ?? '{}');
    if (typeof parsed !== 'object' || parsed === null) return {};
    return Object.fromEntries(Object.entries(parsed).filter((entry): entry is [string, number] => typeof entry[1] === 'number'));
  } catch {
    return {};
  }
}
