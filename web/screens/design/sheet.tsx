import { Controls, MiniMap, ReactFlow, useStore, ViewportPortal } from '@xyflow/react';
import { useMemo } from 'react';
import { pivotLabel, relationOfLabel } from '../../../core/map/index.js';
import type { DesignView, MapView } from '../../../core/view-models/index.js';
import type { Selection } from '../../app/selection.js';
import { useAppSelector } from '../../app/store.js';
import { type Eye, useEye, useFirstPlace } from './eye.js';
import { closeKin, found } from './kin.js';
import { type FlowNode, nodeTypes, ZoomContext } from './label.js';
import { Badges, type MapNotes } from './map-notes.js';
import { ordinal } from './ordinal.js';
import { steppedZoom } from './place.js';
import { Stem } from './stem.js';

const NONE: readonly never[] = [];
const MANY_LABELS = 60;

interface SheetProps {
  readonly view: DesignView;
  readonly selection: Selection | null;
  readonly map: MapView;
  readonly folded: readonly string[];
  readonly wish: string;
  readonly eye: Eye;
  /** What is shown beside the design; null for nothing. */
  readonly notes: MapNotes | null;
  onSelect(selection: Selection | null): void;
  onFold(entity: string): void;
  onOpen(entity: string): void;
}

/** The sheet that labels and stems are drawn on: of the whole map, or of close kin. */
export function Sheet({ view, map, folded, wish, selection, eye, notes, onSelect, onFold, onOpen }: SheetProps) {
  const absent = useAppSelector((state) =>
    state.workspace.database?.status === 'ready' ? state.workspace.database.absent : NONE,
  );
  const { layout } = map;
  const kin = useMemo(() => {
    const hits = wish.trim() === '' || map.kin !== null ? null : new Set(found(view, wish));
    if (notes?.kept != null) return notes.kept;
    // Close kin are all of them that, so none fades.
    return hits ?? (map.kin === null ? closeKin(view, layout, selection) : null);
  }, [view, layout, map.kin, selection, wish, notes?.kept]);
  const nodes = useMemo(
    () => nodesOf(view, map, { kin, selection, absent: new Set(absent.map(({ owner }) => owner)), folded, onFold, onOpen }),
    [view, map, kin, selection, absent, folded, onFold, onOpen],
  );
  const first = useFirstPlace(map, selection, eye);
  const zoom = useStore(({ panZoom, transform }) => steppedZoom(panZoom === null ? first.zoom : transform[2]));
  const isWhole = useStore(
    ({ transform, width, height }) => layout.width * transform[2] <= width && layout.height * transform[2] <= height,
  );
  useEye(map, selection, eye);
  return (
    <ZoomContext value={zoom}>
      <ReactFlow
        nodes={nodes}
        edges={NONE as never[]}
        nodeTypes={nodeTypes}
        defaultViewport={first}
        minZoom={0.05}
        maxZoom={2.4}
        nodesDraggable={false}
        nodesConnectable={false}
        elementsSelectable={false}
        nodesFocusable
        zoomOnDoubleClick={false}
        onlyRenderVisibleElements={layout.labels.length > MANY_LABELS}
        proOptions={{ hideAttribution: true }}
        aria-label="Map"
        onMoveStart={(event) => {
          if (event !== null) eye.moved = true;
        }}
        onMove={(_event, viewport) => {
          eye.place = viewport;
        }}
        onNodeClick={(_event, node) => onSelect(selectionOf(node.id))}
        onPaneClick={() => onSelect(null)}
        onKeyDown={(event) => {
          const id = (event.target as HTMLElement).closest('.react-flow__node')?.getAttribute('data-id');
          if (event.key !== 'Enter' || id === null || id === undefined) return;
          onSelect(selectionOf(id));
        }}
      >
        <ViewportPortal>
          <Stems key={map.text} map={map} kin={kin} selection={selection} zoom={zoom} onSelect={onSelect} />
          {notes?.badges != null && <Badges layout={layout} badges={notes.badges} of={notes.of} zoom={zoom} />}
        </ViewportPortal>
        <Controls showInteractive={false} showFitView={false} className="border border-line-2 bg-label" />
        {layout.labels.length > MANY_LABELS && !isWhole && (
          <MiniMap
            ariaLabel="The whole map, small"
            pannable
            zoomable
            className="border border-line-2"
            style={{ width: 150, height: 104 }}
            bgColor="var(--label)"
            maskColor="color-mix(in srgb, var(--ground) 70%, transparent)"
            nodeColor="var(--line-2)"
            nodeBorderRadius={0}
          />
        )}
      </ReactFlow>
    </ZoomContext>
  );
}

/** The stems between labels, behind them, with the name of each generation at its left. */
function Stems({
  map,
  kin,
  selection,
  zoom,
  onSelect,
}: {
  readonly map: MapView;
  /** What does not fade; null where nothing does. */
  readonly kin: ReadonlySet<string> | null;
  readonly selection: Selection | null;
  readonly zoom: number;
  onSelect(selection: Selection | null): void;
}) {
  const { layout } = map;
  const chosenLast = useMemo(
    () => [...layout.stems].sort((a, b) => Number(a.relation === selection?.name) - Number(b.relation === selection?.name)),
    [layout, selection],
  );
  return (
    <svg
      className="stems pointer-events-none absolute top-0 left-0 overflow-visible"
      style={{ zIndex: -1 }}
      width={layout.width}
      height={layout.height}
      aria-hidden="true"
    >
      {layout.generations.map(({ number, y }) => (
        <text
          key={number}
          x={-26}
          y={y + 16}
          className="fill-ink-3 font-serif italic"
          fontSize={zoom < 0.8 ? Math.min(12.5 / zoom, 40) : 15}
          textAnchor={zoom < 0.6 ? 'end' : 'start'}
        >
          {map.kin === null ? ordinal(number + 1) : kinName(number - map.kin.middle)}
        </text>
      ))}
      {/* Those that fade do so as one, so that trunks they share do not add up. */}
      {[true, false].map((faded) => (
        <g key={String(faded)} opacity={faded ? 0.25 : 1}>
          {chosenLast
            .filter((stem) => (kin !== null && !kin.has(`relation ${stem.relation}`)) === faded)
            .map((stem) => (
              <Stem
                key={stem.id}
                stem={stem}
                selected={selection?.kind === 'relation' && stem.relation === selection.name}
                onSelect={onSelect}
              />
            ))}
        </g>
      ))}
    </svg>
  );
}

interface NodeState {
  readonly kin: ReadonlySet<string> | null;
  readonly selection: Selection | null;
  readonly absent: ReadonlySet<string>;
  readonly folded: readonly string[];
  onFold(entity: string): void;
  onOpen(entity: string): void;
}

/** What a label stands for: the lozenge of a pivot and the knot of a role to several for their relation. */
function selectionOf(id: string): Selection {
  const relation = relationOfLabel(id);
  return relation === null ? { kind: 'entity', name: id } : { kind: 'relation', name: relation };
}

/** What a generation is called beside the one in the middle. */
function kinName(steps: number): string {
  if (steps === 0) return '';
  if (Math.abs(steps) === 1) return steps < 0 ? 'parents' : 'children';
  return `${Math.abs(steps)} steps ${steps < 0 ? 'up' : 'down'}`;
}

function nodesOf(view: DesignView, map: MapView, { kin, selection, absent, folded, onFold, onOpen }: NodeState): FlowNode[] {
  const byId = new Map(map.labels.map((label) => [label.id, label]));
  const tables = new Map<string, string>(
    view.entities.flatMap(({ ends }) =>
      ends.flatMap((end) => (end.pivot === null ? [] : [[pivotLabel(end.relation), end.pivot.table] as const])),
    ),
  );
  const roles = new Map<string, string>(
    view.entities.flatMap(({ ends }) =>
      ends.flatMap((end) => (end.targets.length > 1 ? [[end.relation, end.name] as const] : [])),
    ),
  );
  return map.layout.labels.map((placed): FlowNode => {
    const base = {
      id: placed.id,
      position: { x: placed.x, y: placed.y },
      width: placed.width,
      height: placed.height,
      draggable: false,
      connectable: false,
    };
    const faded = kin !== null && !kin.has(placed.id);
    const label = byId.get(placed.id);
    if (placed.kind === 'entity' && label !== undefined) {
      return {
        ...base,
        type: 'entity',
        data: {
          label,
          width: placed.width,
          height: placed.height,
          selected: selection?.kind === 'entity' && selection.name === placed.id,
          faded,
          relation: selection?.kind === 'relation' ? selection.name : null,
          absent: absent.has(placed.id),
          folded: folded.includes(placed.id),
          further: map.kin?.further.get(placed.id) ?? null,
          onFold: map.kin === null ? onFold : onOpen,
        },
        ariaLabel: `${label.name}, table ${label.table}`,
      };
    }
    if (placed.kind === 'knot') {
      const name = placed.id.replace(/^knot /, '');
      const role = roles.get(name) ?? name;
      return {
        ...base,
        type: 'knot',
        data: { name, role, selected: selection?.name === name, faded },
        ariaLabel: `${role}, one of several`,
      };
    }
    const relation = placed.id.replace(/^pivot /, '');
    const table = tables.get(placed.id) ?? relation;
    return {
      ...base,
      type: 'pivot',
      data: { name: relation, table, selected: selection?.name === relation, faded },
      ariaLabel: `pivot ${table}`,
    };
  });
}
