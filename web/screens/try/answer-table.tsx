import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef } from 'react';
import { KIND_NAME } from '../../../core/model/index.js';
import type { DesignView, FieldView } from '../../../core/view-models/index.js';
import { FieldValue, isHidden, isNumber } from '../../parts/field-value.js';

type Row = Readonly<Record<string, unknown>>;

interface Column {
  readonly path: string;
  readonly field: FieldView;
  read(row: Row): unknown;
}

const PLAIN: FieldView = {
  name: '',
  kind: 'text',
  type: 'text',
  derived: false,
  key: false,
  title: null,
  titles: {},
  kinds: null,
  entry: null,
};

/** The answer as a table: one line for each root row, to-one loads as further columns, to-many loads as counts. */
export function AnswerTable({
  rows,
  entity,
  view,
}: {
  readonly rows: readonly Row[];
  readonly entity: string;
  readonly view: DesignView | null;
}) {
  const columns = useMemo(() => columnsOf(rows, entity, view, '', (row) => row, 0), [rows, entity, view]);
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 27,
    overscan: 20,
  });
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  return (
    <section
      ref={scroller}
      aria-label="Answer as a table"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region has to be reached by the keyboard
      tabIndex={0}
      className="h-full overflow-auto bg-label font-mono text-small"
    >
      <table className="min-w-full border-separate border-spacing-0">
        <thead className="sticky top-0 z-10 bg-label">
          <tr>
            {columns.map(({ path, field }) => (
              <th
                key={path}
                scope="col"
                className={`border-b border-line-2 px-3 py-1.5 font-normal whitespace-nowrap text-ink-2 ${isNumber(field) ? 'text-right' : 'text-left'}`}
              >
                {path}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {above > 0 && <tr style={{ height: above }} />}
          {items.map((item) => {
            const row = rows[item.index];
            return row === undefined ? null : (
              <tr key={item.index} style={{ height: 27 }}>
                {columns.map((column) => (
                  <td
                    key={column.path}
                    className={`max-w-72 truncate border-b border-line px-3 whitespace-nowrap ${isNumber(column.field) ? 'text-right' : ''}`}
                  >
                    <FieldValue value={column.read(row)} field={column.field} />
                  </td>
                ))}
              </tr>
            );
          })}
          {below > 0 && <tr style={{ height: below }} />}
        </tbody>
      </table>
    </section>
  );
}

const DEEPEST = 4;

function columnsOf(
  rows: readonly Row[],
  entity: string,
  view: DesignView | null,
  prefix: string,
  reach: (row: Row) => Row | null,
  depth: number,
): Column[] {
  const known = view?.entities.find(({ name }) => name === entity);
  // Rows of several kinds have not all the same names.
  const names = new Set<string>();
  for (const row of rows) {
    const there = reach(row);
    if (!isHidden(there)) for (const name of Object.keys(there ?? {})) names.add(name);
  }
  return Array.from(names).flatMap((name): Column[] => {
    const path = `${prefix}${name}`;
    // A key column says no more than the row that was loaded over it.
    const over = known?.keyColumns[name];
    if (over !== undefined && names.has(over)) return [];
    if (name === KIND_NAME) return [{ path: `${prefix}kind`, field: PLAIN, read: (row) => reach(row)?.[name] ?? null }];
    // What a row has that may not be seen may not be seen either.
    const read = (row: Row) => {
      const there = reach(row);
      return isHidden(there) ? there : (there?.[name] ?? null);
    };
    const end = known?.ends.find((candidate) => candidate.name === name);
    if (end?.many === true)
      return [
        {
          path,
          field: { ...PLAIN, kind: 'integer' },
          read: (row) => {
            const loaded = read(row);
            return Array.isArray(loaded) ? loaded.length : loaded;
          },
        },
      ];
    if (end !== undefined && depth < DEEPEST) {
      const inner = (row: Row) => {
        const loaded = read(row);
        return typeof loaded === 'object' && loaded !== null ? (loaded as Row) : null;
      };
      const columns = columnsOf(rows, end.target, view, `${path}.`, inner, depth + 1);
      return columns.length === 0 && rows.some((row) => isHidden(read(row))) ? [{ path, field: PLAIN, read }] : columns;
    }
    return [{ path, field: known?.fields.find((field) => field.name === name) ?? { ...PLAIN, name }, read }];
  });
}
