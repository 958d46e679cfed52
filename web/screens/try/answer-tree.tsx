import { ChevronDown, ChevronRight } from 'lucide-react';
import { useState } from 'react';
import { KIND_NAME } from '../../../core/model/index.js';
import type { DesignView, EntityView } from '../../../core/view-models/index.js';
import { isHidden } from '../../parts/field-value.js';
import { Tree, TreeGroup, TreeItem } from '../../parts/tree.js';
import { AnswerValue } from './answer-value.js';

type Row = Readonly<Record<string, unknown>>;

const MOST_AT_FIRST = 100;
/** Rows below this depth, or behind this many, begin folded. */
const OPEN_ROWS = 12;

/** Rows as a tree: each with its own fields on a line, and what was loaded with it indented below. */
export function AnswerTree({
  rows,
  entity,
  view,
}: {
  readonly rows: readonly Row[];
  readonly entity: string;
  readonly view: DesignView | null;
}) {
  const [most, setMost] = useState(MOST_AT_FIRST);
  const known: KnownNames = {
    entities: new Map(view?.entities.map((candidate) => [candidate.name, candidate])),
    pivots: new Set(view?.pivots),
  };
  return (
    <Tree label="Answer" className="pb-4">
      {rows.slice(0, most).map((row, index) => (
        <RowItem
          key={`${index} ${rowKey(row, known.entities.get(entity))}`}
          row={row}
          entity={known.entities.get(entity)}
          known={known}
          depth={0}
          over={null}
          open={index < OPEN_ROWS}
          first={index === 0}
        />
      ))}
      {rows.length > most && (
        <li role="none">
          <button type="button" className="px-5 py-2 text-selected underline" onClick={() => setMost(most * 5)}>
            Show more: {(rows.length - most).toLocaleString('en')} left
          </button>
        </li>
      )}
    </Tree>
  );
}

/** What tells an entity's fields from its loads, and a pivot's fields from json. */
interface KnownNames {
  readonly entities: ReadonlyMap<string, EntityView>;
  readonly pivots: ReadonlySet<string>;
}

interface RowItemProps {
  readonly row: Row;
  readonly entity: EntityView | undefined;
  readonly known: KnownNames;
  readonly depth: number;
  /** The role over which the row was loaded, for a single one. */
  readonly over: string | null;
  readonly open: boolean;
  /** The first of the answer. */
  readonly first?: boolean;
}

function RowItem({ row, entity: stated, known, depth, over, open: openFirst, first = false }: RowItemProps) {
  const kind = row[KIND_NAME];
  const entity = (typeof kind === 'string' ? known.entities.get(kind) : undefined) ?? stated;
  const [open, setOpen] = useState(openFirst);
  const loads = Object.entries(row).filter(
    ([name, value]) => entity?.roles[name] !== undefined && (value === null || typeof value === 'object'),
  );
  const isLoaded = (role: string | undefined) => loads.some(([load]) => load === role);
  // A key column says no more than the row that was loaded over it.
  const fields = Object.entries(row).filter(
    ([name]) => name !== KIND_NAME && !isLoaded(name) && !isLoaded(entity?.keyColumns[name]),
  );
  const title = titleOf(row, entity);
  return (
    <TreeItem
      label={title}
      open={loads.length === 0 ? null : open}
      first={first}
      onOpen={setOpen}
      className={depth === 0 ? 'border-b border-line py-1' : ''}
    >
      <div className="flex items-baseline gap-1.5 px-4 py-0.5" style={insetOf(depth)}>
        <Fold what={title} open={loads.length === 0 ? null : open} onOpen={setOpen} />
        {over !== null && <span className="shrink-0 font-mono text-small text-ink-2">{over}</span>}
        <span className="shrink-0 font-serif font-semibold">{title}</span>
        {typeof kind === 'string' && !title.startsWith(`${kind} `) && (
          <span className="shrink-0 text-small text-kinds" title="What kind the row is">
            {kind}
          </span>
        )}
        <span className="truncate font-mono text-small">
          {flattened(fields, known)
            .filter(({ name }) => name !== entity?.shownField && entity?.keyFields.includes(name) !== true)
            .map(({ name, value, pivot }) => (
              <span key={`${pivot ?? ''} ${name}`} className="mr-3">
                {pivot !== null && <span className="text-pivot">◇ </span>}
                <span className="text-ink-3" title={pivot === null ? undefined : `${pivot}.${name}`}>
                  {name}
                </span>{' '}
                <AnswerValue value={value} />
              </span>
            ))}
        </span>
      </div>
      {open && loads.length > 0 && (
        <TreeGroup>
          {loads.map(([name, value]) => (
            <Loaded
              key={name}
              name={name}
              value={value}
              entity={known.entities.get(entity?.roles[name] ?? '')}
              known={known}
              depth={depth + 1}
            />
          ))}
        </TreeGroup>
      )}
    </TreeItem>
  );
}

/** How far an item stands from the edge. */
function insetOf(depth: number): { paddingLeft: number } {
  return { paddingLeft: 16 + depth * 22 };
}

/** Folds what is below an item, or unfolds it; the keyboard does so at the item itself. */
function Fold({ what, open, onOpen }: { readonly what: string; readonly open: boolean | null; onOpen(open: boolean): void }) {
  if (open === null) return <span className="w-3.5 shrink-0" />;
  const Arrow = open ? ChevronDown : ChevronRight;
  return (
    <button
      type="button"
      tabIndex={-1}
      aria-label={`${open ? 'Fold' : 'Unfold'} ${what}`}
      className="shrink-0 self-center text-ink-2"
      onClick={({ currentTarget }) => {
        // What is folded away cannot keep the focus.
        currentTarget.closest<HTMLElement>('[role=treeitem]')?.focus();
        onOpen(!open);
      }}
    >
      <Arrow size={14} />
    </button>
  );
}

function Loaded({
  name,
  value,
  entity,
  known,
  depth,
}: { readonly name: string; readonly value: unknown } & Pick<RowItemProps, 'entity' | 'known' | 'depth'>) {
  const [open, setOpen] = useState(true);
  if (!Array.isArray(value)) {
    if (value !== null && typeof value === 'object' && !isHidden(value))
      return <RowItem row={value as Row} entity={entity} known={known} depth={depth} over={name} open />;
    return (
      <TreeItem label={`${name}, ${value === null ? 'none' : 'hidden'}`} open={null}>
        <div className="flex gap-1.5 py-0.5 font-mono text-small" style={insetOf(depth)}>
          <span className="w-3.5" />
          <span className="text-ink-2">{name}</span> <AnswerValue value={value} />
        </div>
      </TreeItem>
    );
  }
  const rows = value as Row[];
  const folded = rows.length === 0 ? null : open;
  return (
    <TreeItem label={`${name}, ${rows.length}`} open={folded} onOpen={setOpen}>
      <div className="flex items-center gap-1.5 py-0.5" style={insetOf(depth)}>
        <Fold what={name} open={folded} onOpen={setOpen} />
        <span className="font-mono text-small text-ink-2">{name}</span>{' '}
        <span className="font-mono text-small text-to-many">{rows.length}</span>
      </div>
      {open && rows.length > 0 && (
        <TreeGroup>
          {rows.map((row, index) => (
            <RowItem
              key={`${index} ${rowKey(row, entity)}`}
              row={row}
              entity={entity}
              known={known}
              depth={depth + 1}
              over={null}
              open={rows.length <= OPEN_ROWS}
            />
          ))}
        </TreeGroup>
      )}
    </TreeItem>
  );
}

/** The fields of a row on one line: its own, and behind a lozenge those of the pivot that it was reached over. */
function flattened(
  fields: readonly (readonly [string, unknown])[],
  { pivots }: KnownNames,
): { name: string; value: unknown; pivot: string | null }[] {
  return fields.flatMap(([name, value]): { name: string; value: unknown; pivot: string | null }[] =>
    pivots.has(name) && value !== null && typeof value === 'object' && !('asStored' in value)
      ? Object.entries(value).map(([field, inner]) => ({ name: field, value: inner as unknown, pivot: name }))
      : [{ name, value, pivot: null }],
  );
}

/** What tells the row apart from others of its entity, as a person reads it. */
function rowKey(row: Row, entity: EntityView | undefined): string {
  return (entity?.keyFields ?? ['id']).map((name) => String(row[name] ?? '')).join(', ');
}

function titleOf(row: Row, entity: EntityView | undefined): string {
  const shown = entity?.shownField === null || entity?.shownField === undefined ? null : row[entity.shownField];
  if (typeof shown === 'string' && shown !== '' && entity?.keyFields.includes(entity.shownField ?? '') !== true) return shown;
  return entity === undefined ? 'row' : `${entity.name} ${rowKey(row, entity)}`;
}
