import { Controls, MiniMap, ReactFlow, ReactFlowProvider, useReactFlow, useStore, ViewportPortal } from '@xyflow/react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { MapOptions } from '../../../core/map/index.js';
import { useCommands } from '../../app/commands.js';
import { preferences } from '../../app/preferences.js';
import type { Selection } from '../../app/selection.js';
import { useAppSelector } from '../../app/store.js';
import type { MapView } from '../../workers/asks.js';
import type { DesignView } from '../../workers/design-view.js';
import { closeKin, found } from './kin.js';
import { type FlowNode, nodeTypes, ZoomContext } from './label.js';
import { EntityList } from './list.js';
import { Stem } from './stem.js';
import { MapTools } from './tools.js';
import { useMap } from './use-map.js';

interface MapProps {
  readonly view: DesignView;
  readonly selection: Selection | null;
  onSelect(selection: Selection | null): void;
  onRelate(): void;
  onAddEntity(): void;
}

const NONE: readonly never[] = [];
const MANY_LABELS = 60;
/** A map that would be smaller than this when it is seen whole is begun at a size that can be read. */
const LEAST_WHOLE = 0.3;
const READABLE = 0.55;

interface Size {
  readonly width: number;
  readonly height: number;
}

/** The viewport to begin with: the whole map, or of a large one the upper middle. */
function begun(layout: Size, pane: Size): { x: number; y: number; zoom: number } {
  const whole = fitting(layout, pane);
  if (whole.zoom >= LEAST_WHOLE) return whole;
  return { x: pane.width / 2 - (layout.width / 2) * READABLE, y: 6, zoom: READABLE };
}

/** The viewport that shows the whole map; the names of the generations stand at the left of the labels. */
function fitting(layout: Size, pane: Size): { x: number; y: number; zoom: number } {
  const [left, top] = [44, 6];
  const zoom = Math.min(1, (pane.width - left) / layout.width, (pane.height - 2 * top) / layout.height);
  return {
    x: left + Math.max(0, (pane.width - left - layout.width * zoom) / 2),
    y: top + Math.max(0, (pane.height - 2 * top - layout.height * zoom) / 2),
    zoom,
  };
}

export function MapSheet(props: MapProps) {
  const { map, options, setLines, fold } = useMap();
  const [listed, setListed] = useState(preferences.getItem('map list') === 'yes');
  const [wish, setWish] = useState('');
  const moved = useRef(false);
  const list = useCallback((shown: boolean) => {
    preferences.setItem('map list', shown ? 'yes' : 'no');
    setListed(shown);
  }, []);
  const commands = useMemo(
    () => [
      ...(['names', 'keys', 'all'] as const).map((lines) => ({
        id: `lines ${lines}`,
        title: lines === 'all' ? 'Show all fields on the map' : `Show ${lines} only on the map`,
        group: 'Map' as const,
        words: 'hide fields columns detail zoom',
        run: () => setLines(lines),
      })),
      {
        id: 'list',
        title: listed ? 'Put the list of entities away' : 'List the entities beside the map',
        group: 'Map' as const,
        words: 'sidebar index tables',
        run: () => list(!listed),
      },
    ],
    [listed, list, setLines],
  );
  useCommands('map tools', commands);
  return (
    <ReactFlowProvider>
      <div className="grid h-full grid-rows-[auto_minmax(0,1fr)]">
        <MapTools
          wish={wish}
          hits={found(props.view, wish)}
          onWish={setWish}
          lines={options.lines}
          onLines={setLines}
          listed={listed}
          onListed={list}
          selected={props.selection?.name ?? null}
          onSelect={props.onSelect}
          onGone={() => {
            moved.current = true;
          }}
          onRelate={props.onRelate}
          onAddEntity={props.onAddEntity}
        />
        <div className="flex min-h-0">
          {listed && <EntityList view={props.view} selection={props.selection} wish={wish} onSelect={props.onSelect} />}
          <div className="relative min-w-0 flex-1">
            {map === null ? (
              <p className="p-6 text-ink-2">Drawing the map…</p>
            ) : map.labels.length === 0 ? (
              <Empty />
            ) : (
              <Sheet {...props} map={map} options={options} wish={wish} moved={moved} onFold={fold} />
            )}
          </div>
        </div>
      </div>
    </ReactFlowProvider>
  );
}

function Empty() {
  return (
    <div className="flex h-full items-center justify-center p-8 text-center">
      <p className="max-w-[44ch] font-serif text-title text-ink-2 italic">
        No entity yet. Write one on the right: “entity Branch”, and below it “id integer key”. Or add one above.
      </p>
    </div>
  );
}

interface SheetProps extends Omit<MapProps, 'onRelate' | 'onAddEntity'> {
  readonly map: MapView;
  readonly options: MapOptions;
  readonly wish: string;
  /** Was the map moved by hand? Then it stays where it is. */
  readonly moved: { current: boolean };
  onFold(entity: string): void;
}

function Sheet({ view, map, options, wish, selection, moved, onSelect, onFold }: SheetProps) {
  const absent = useAppSelector((state) =>
    state.workspace.database?.status === 'ready' ? state.workspace.database.absent : NONE,
  );
  const { layout } = map;
  const kin = useMemo(() => {
    const hits = wish.trim() === '' ? null : new Set(found(view, wish));
    return hits ?? closeKin(view, layout, selection);
  }, [view, layout, selection, wish]);
  const nodes = useMemo(
    () =>
      nodesOf(view, map, { kin, selection, absent: new Set(absent.map(({ owner }) => owner)), folded: options.folded, onFold }),
    [view, map, kin, selection, absent, options.folded, onFold],
  );
  const zoom = useStore(({ transform }) =>
    transform[2] > 1 ? Math.round(transform[2] * 5) / 5 : Math.round(transform[2] * 20) / 20,
  );
  useEye(map, selection, moved);
  const chosenLast = useMemo(
    () => [...layout.stems].sort((a, b) => Number(a.relation === selection?.name) - Number(b.relation === selection?.name)),
    [layout, selection],
  );
  return (
    <ZoomContext value={zoom}>
      <ReactFlow
        nodes={nodes}
        edges={NONE as never[]}
        nodeTypes={nodeTypes}
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
          if (event !== null) moved.current = true;
        }}
        onNodeClick={(_event, node) =>
          onSelect(
            node.id.startsWith('pivot ') ? { kind: 'relation', name: node.id.slice(6) } : { kind: 'entity', name: node.id },
          )
        }
        onPaneClick={() => onSelect(null)}
        onKeyDown={(event) => {
          const id = (event.target as HTMLElement).closest('.react-flow__node')?.getAttribute('data-id');
          if (event.key !== 'Enter' || id === null || id === undefined) return;
          onSelect(id.startsWith('pivot ') ? { kind: 'relation', name: id.slice(6) } : { kind: 'entity', name: id });
        }}
      >
        <ViewportPortal>
          <svg
            key={map.text}
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
                {ordinal(number + 1)}
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
        </ViewportPortal>
        <Controls showInteractive={false} showFitView={false} className="border border-line-2 bg-label" />
        {layout.labels.length > MANY_LABELS && (
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

interface NodeState {
  readonly kin: ReadonlySet<string> | null;
  readonly selection: Selection | null;
  readonly absent: ReadonlySet<string>;
  readonly folded: readonly string[];
  onFold(entity: string): void;
}

function nodesOf(view: DesignView, map: MapView, { kin, selection, absent, folded, onFold }: NodeState): FlowNode[] {
  const byId = new Map(map.labels.map((label) => [label.id, label]));
  const tables = new Map<string, string>(
    view.entities.flatMap(({ ends }) =>
      ends.flatMap((end) => (end.pivot === null ? [] : [[`pivot ${end.relation}`, end.pivot.table] as const])),
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
          onFold,
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

/**
 * Keeps what a person looks at where it is when the map flows anew: the whole while nothing was moved by hand, else
 * the label that is selected or nearest to the middle.
 */
function useEye(map: MapView, selection: Selection | null, moved: { current: boolean }): void {
  const flow = useReactFlow();
  const before = useRef<MapView['layout'] | null>(null);
  const pane = useStore(
    ({ width, height }) => ({ width, height }),
    (a, b) => a.width === b.width && a.height === b.height,
  );
  const latest = useRef({ layout: map.layout, pane });
  const commands = useMemo(
    () => [
      {
        id: 'fit',
        title: 'Fit the map',
        group: 'Map' as const,
        words: 'zoom whole overview reset center',
        run: () => {
          moved.current = false;
          void flow.setViewport(fitting(latest.current.layout, latest.current.pane), { duration: duration() });
        },
      },
    ],
    [flow, moved],
  );
  useCommands('map', commands);
  latest.current = { layout: map.layout, pane };
  const chosen = useRef(selection);
  chosen.current = selection;
  useEffect(() => {
    if (pane.width === 0) return;
    const old = before.current;
    before.current = map.layout;
    if (old === map.layout) {
      if (!moved.current) void flow.setViewport(begun(map.layout, pane));
      return;
    }
    if (old === null || !moved.current) {
      void flow.setViewport(begun(map.layout, pane), old === null ? {} : { duration: duration() });
      return;
    }
    const viewport = flow.getViewport();
    const middle = { x: (pane.width / 2 - viewport.x) / viewport.zoom, y: (pane.height / 2 - viewport.y) / viewport.zoom };
    const away = ({ x, y, width, height }: { x: number; y: number; width: number; height: number }) =>
      Math.hypot(x + width / 2 - middle.x, y + height / 2 - middle.y);
    const now = new Map<string, (typeof map.layout.labels)[number]>(map.layout.labels.map((label) => [label.id, label]));
    const stayed = old.labels.filter((label) => now.has(label.id));
    const anchor: (typeof stayed)[number] | null =
      stayed.find((label) => chosen.current?.kind === 'entity' && label.id === chosen.current.name) ??
      stayed.reduce<(typeof stayed)[number] | null>(
        (best, label) => (best === null || away(label) < away(best) ? label : best),
        null,
      );
    const target = anchor === null ? undefined : now.get(anchor.id);
    if (anchor === null || target === undefined) return;
    void flow.setViewport(
      {
        x: viewport.x - (target.x - anchor.x) * viewport.zoom,
        y: viewport.y - (target.y - anchor.y) * viewport.zoom,
        zoom: viewport.zoom,
      },
      { duration: duration() },
    );
  }, [map, flow, pane, moved]);
}

/** How long labels take to their new place; none where the system asks for less motion. */
function duration(): number {
  return matchMedia('(prefers-reduced-motion: reduce)').matches ? 0 : 200;
}

function ordinal(number: number): string {
  const ending =
    number % 10 === 1 && number !== 11
      ? 'st'
      : number % 10 === 2 && number !== 12
        ? 'nd'
        : number % 10 === 3 && number !== 13
          ? 'rd'
          : 'th';
  return `${number}${ending}`;
}
