import {
  Controls,
  Handle,
  type Node,
  type NodeProps,
  Position,
  ReactFlow,
  ReactFlowProvider,
  useReactFlow,
  ViewportPortal,
} from '@xyflow/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { EntityLabel, PlacedStem } from '../../../core/map/index.js';
import type { Selection } from '../../app/selection.js';
import { useAppSelector } from '../../app/store.js';
import type { DesignView } from '../../workers/design-view.js';
import { Stem } from './stem.js';

interface MapProps {
  readonly view: DesignView;
  readonly selection: Selection | null;
  onSelect(selection: Selection | null): void;
}

type EntityNode = Node<
  { label: EntityLabel; selected: boolean; faded: boolean; relation: string | null; absent: boolean },
  'entity'
>;
type PivotNode = Node<{ name: string; table: string; selected: boolean; faded: boolean }, 'pivot'>;

const NONE: readonly never[] = [];

/** The names of the generations stand at the left of the labels. */
const FIT = { padding: { left: '58px', right: '20px', top: '12px', bottom: '14px' }, maxZoom: 1 } as const;

const nodeTypes = { entity: EntitySlip, pivot: PivotLozenge };

export function MapSheet(props: MapProps) {
  if (props.view.labels.length === 0) {
    return (
      <div className="flex h-full items-center justify-center p-8 text-center">
        <p className="max-w-[44ch] font-serif text-title text-ink-2 italic">
          No entity yet. Write one on the right: “entity Branch”, and below it “id integer key”.
        </p>
      </div>
    );
  }
  return (
    <ReactFlowProvider>
      <Sheet {...props} />
    </ReactFlowProvider>
  );
}

function Sheet({ view, selection, onSelect }: MapProps) {
  const absent = useAppSelector((state) =>
    state.workspace.database?.status === 'ready' ? state.workspace.database.absent : NONE,
  );
  const flow = useReactFlow();
  const [wish, setWish] = useState('');
  const kin = useMemo(() => closeKin(view, selection), [view, selection]);
  const { layout } = view;
  const nodes = useMemo(() => {
    const byId = new Map(view.labels.map((label) => [label.id, label]));
    return layout.labels.map((placed): EntityNode | PivotNode => {
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
        const selected = selection?.kind === 'entity' && selection.name === placed.id;
        return {
          ...base,
          type: 'entity',
          data: {
            label,
            selected,
            faded,
            relation: selection?.kind === 'relation' ? selection.name : null,
            absent: absent.some((part) => part.owner === placed.id),
          },
          ariaLabel: `${label.name}, table ${label.table}`,
        };
      }
      const relation = placed.id.replace(/^pivot /, '');
      const card = view.cards.find((candidate) => candidate.kind === 'relation' && candidate.name === relation);
      const table = card?.kind === 'relation' ? (/^table ([^,]+)/.exec(card.storage[0]?.text ?? '')?.[1] ?? relation) : relation;
      return {
        ...base,
        type: 'pivot',
        data: { name: relation, table, selected: selection?.name === relation, faded },
        ariaLabel: `pivot ${table}`,
      };
    });
  }, [view, layout, kin, selection, absent]);

  const size = `${layout.labels.length}`;
  const fitted = useRef('');
  useEffect(() => {
    if (fitted.current === size) return;
    fitted.current = size;
    requestAnimationFrame(() => void flow.fitView(FIT));
  }, [flow, size]);

  const find = (name: string) => {
    setWish(name);
    const found = view.labels.find((label) => label.name.toLowerCase() === name.toLowerCase());
    const placed = layout.labels.find((label) => label.id === found?.id);
    if (placed === undefined) return;
    onSelect({ kind: 'entity', name: placed.id });
    void flow.setCenter(placed.x + placed.width / 2, placed.y + placed.height / 2, { zoom: 1, duration: 200 });
  };
  const chosenFirst = [...layout.stems].sort(
    (a, b) => Number(a.relation === selection?.name) - Number(b.relation === selection?.name),
  );
  return (
    <div className="grid h-full grid-rows-[auto_minmax(0,1fr)]">
      <div className="flex justify-end gap-2 border-b border-line px-3 py-1.5">
        <input
          type="search"
          list="entities"
          value={wish}
          placeholder="Find an entity"
          aria-label="Find an entity on the map"
          className="w-44 rounded-sm border border-line-2 bg-label px-2 py-0.5"
          onChange={(event) => find(event.target.value)}
        />
        <datalist id="entities">
          {view.labels.map((label) => (
            <option key={label.id} value={label.name} />
          ))}
        </datalist>
        <button
          type="button"
          className="rounded-sm border border-line-2 bg-label px-3 py-0.5 hover:border-ink-3"
          onClick={() => void flow.fitView({ ...FIT, duration: 200 })}
        >
          Fit
        </button>
      </div>
      <ReactFlow
        nodes={nodes}
        edges={[]}
        nodeTypes={nodeTypes}
        minZoom={0.05}
        maxZoom={2}
        fitView
        fitViewOptions={FIT}
        nodesFocusable
        proOptions={{ hideAttribution: true }}
        onNodeClick={(_event, node) =>
          onSelect(
            node.type === 'entity'
              ? { kind: 'entity', name: node.id }
              : { kind: 'relation', name: (node as PivotNode).data.name },
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
            className="pointer-events-none absolute top-0 left-0 overflow-visible"
            style={{ zIndex: -1 }}
            width={layout.width}
            height={layout.height}
            aria-hidden="true"
          >
            {layout.generations.map(({ number, y }) => (
              <text key={number} x={-26} y={y + 16} className="fill-ink-3 font-serif italic" fontSize={15}>
                {ordinal(number + 1)}
              </text>
            ))}
            {chosenFirst.map((stem: PlacedStem) => (
              <Stem
                key={stem.id}
                stem={stem}
                selected={selection?.kind === 'relation' && stem.relation === selection.name}
                faded={kin !== null && !kin.has(`relation ${stem.relation}`)}
                onSelect={() => onSelect({ kind: 'relation', name: stem.relation })}
              />
            ))}
          </svg>
        </ViewportPortal>
        <Controls showInteractive={false} showFitView={false} className="border border-line-2 bg-label" />
      </ReactFlow>
    </div>
  );
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

/** What is selected and what it is related to directly; null where nothing is selected. */
function closeKin(view: DesignView, selection: Selection | null): ReadonlySet<string> | null {
  if (selection === null) return null;
  const kin = new Set<string>([selection.kind === 'entity' ? selection.name : `relation ${selection.name}`]);
  for (const card of view.cards) {
    if (card.kind !== 'relation') continue;
    const touches =
      selection.kind === 'relation'
        ? card.name === selection.name
        : card.sentences.some((sentence) => sentence.subject === selection.name || sentence.target === selection.name);
    if (!touches) continue;
    kin.add(`relation ${card.name}`).add(`pivot ${card.name}`);
    for (const { subject, target } of card.sentences) kin.add(subject).add(target);
  }
  for (const { relation, from, to } of view.layout.stems) {
    if (kin.has(`relation ${relation}`)) for (const end of [from, to]) kin.add(end);
  }
  return kin;
}

function EntitySlip({ data }: NodeProps<EntityNode>) {
  const { label, selected, faded, relation, absent } = data;
  return (
    <div
      className={`h-full border bg-label shadow-[0_1px_0_var(--line-2)] ${selected ? 'border-selected outline-2 outline-selected' : 'border-line-2'} ${faded ? 'opacity-40' : ''}`}
    >
      <Handle type="target" position={Position.Top} className="invisible" />
      <div className="px-3 pt-1 pb-1">
        <div className="truncate font-serif text-[15px] leading-6 font-semibold">
          {label.name}
          {absent && (
            <span className="ml-2 text-to-many" title="Not in this database, or not all of it">
              ▲
            </span>
          )}
        </div>
        <div className="truncate font-mono text-small leading-4 text-ink-3">{label.table}</div>
      </div>
      <ul className="border-t border-line px-3 py-1 font-mono text-small leading-[18px]">
        {label.lines.map((line) => {
          const chosen = line.relation !== null && line.relation === relation;
          return (
            <li
              key={line.text}
              className={`flex justify-between gap-3 ${chosen ? 'font-bold text-selected' : line.sort === 'points' ? 'text-to-one' : ''}`}
            >
              <span className="truncate">{line.text}</span>
              <span className={`truncate ${chosen ? '' : 'text-ink-3'}`}>{line.detail}</span>
            </li>
          );
        })}
      </ul>
      <Handle type="source" position={Position.Bottom} className="invisible" />
    </div>
  );
}

function PivotLozenge({ data }: NodeProps<PivotNode>) {
  return (
    <div
      className={`flex h-full items-center gap-2 font-mono text-small text-pivot ${data.faded ? 'opacity-40' : ''} ${data.selected ? 'font-bold' : ''}`}
    >
      <Handle type="target" position={Position.Top} className="invisible" />
      <span className="ml-[5px] inline-block size-3.5 shrink-0 rotate-45 border border-pivot bg-label" />
      <span className="truncate bg-sheet pr-1">{data.table}</span>
      <Handle type="source" position={Position.Bottom} className="invisible" />
    </div>
  );
}
