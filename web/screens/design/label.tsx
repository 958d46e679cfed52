import type { Node, NodeProps } from '@xyflow/react';
import { createContext, use } from 'react';
import { type EntityLabel, type LabelLine, nameOnMap } from '../../../core/map/index.js';
import { NAME_SIZE, type WrittenName, writtenName } from './label-name.js';
import { LABEL_LOOK } from './looks.js';

export type EntityNode = Node<
  {
    label: EntityLabel;
    width: number;
    height: number;
    selected: boolean;
    faded: boolean;
    relation: string | null;
    absent: boolean;
    folded: boolean;
    /** On a sheet of close kin: how many of its own are not shown; null where all are, and on the whole map. */
    further: number | null;
    onFold(entity: string): void;
  },
  'entity'
>;
export type PivotNode = Node<{ name: string; table: string; selected: boolean; faded: boolean }, 'pivot'>;
/** The knot in which the stems of a polymorphic relation meet. */
export type KnotNode = Node<{ name: string; role: string; selected: boolean; faded: boolean }, 'knot'>;
export type FlowNode = EntityNode | PivotNode | KnotNode;

/** How large the map is seen, in steps, so that labels change with it and not with every turn of the wheel. */
export const ZoomContext = createContext(1);

const HEAD = 48;
const LINE = 18;

function EntitySlip({ data }: NodeProps<EntityNode>) {
  const zoom = use(ZoomContext);
  const { label, selected, faded, width, height } = data;
  const name = writtenName(label.name, { width, height }, zoom);
  const look = `group relative h-full ${LABEL_LOOK} ${selected ? 'border-selected outline-2 outline-selected' : 'border-line-2'} ${faded ? 'opacity-35' : ''}`;
  if (name.kind === 'alone') {
    return (
      <div className={`${look} flex items-center justify-center`} style={{ borderWidth: Math.min(1 / zoom, 4) }}>
        <span title={label.name} className="text-center font-serif leading-[1.1] font-semibold" style={{ fontSize: name.size }}>
          {name.lines.map((line) => (
            <span key={line} className="block truncate" style={{ maxWidth: width - 8 }}>
              {line}
            </span>
          ))}
        </span>
      </div>
    );
  }
  if (name.kind === 'above keys') return <Compact data={data} name={name} look={look} zoom={zoom} />;
  // Seen from near, letters keep their size on the screen, so that the label has room for further fields.
  const near = Math.max(1, zoom);
  const room = Math.floor((height * near - HEAD - 12) / LINE);
  const all = [...label.lines, ...label.more];
  const lines = label.lines.length === 0 ? [] : all.slice(0, Math.max(label.lines.length, room));
  return (
    <div className={look}>
      <div className="origin-top-left" style={{ width: width * near, height: height * near, transform: `scale(${1 / near})` }}>
        <Head {...data} />
        {lines.length > 0 && (
          <ul className="border-t border-line px-3 py-1 font-mono text-small leading-[18px]">
            {lines.map((line) => (
              <Line key={line.text} line={line} chosen={line.relation !== null && line.relation === data.relation} />
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}

/** A label seen from a little further: letters keep their size on the screen, so less is said. */
function Compact({
  data,
  name,
  look,
  zoom,
}: {
  readonly data: EntityNode['data'];
  readonly name: Extract<WrittenName, { kind: 'above keys' }>;
  readonly look: string;
  readonly zoom: number;
}) {
  const { label, width, height, relation } = data;
  const parted = name.lines.length > 1;
  const pointing = label.lines.filter(({ sort }) => sort !== 'key');
  return (
    <div className={look}>
      <div
        className={`origin-top-left ${name.isTight ? 'px-[3px]' : 'px-1.5'}`}
        style={{ width: width * zoom, height: height * zoom, transform: `scale(${1 / zoom})` }}
      >
        <div
          title={label.name}
          className={`truncate font-serif font-semibold ${data.further === null ? '' : 'pr-7'} ${parted ? 'pt-0.5 leading-[15px]' : 'leading-6'}`}
          style={{ fontSize: NAME_SIZE }}
        >
          {name.lines.map((line) => (
            <span key={line} className={parted ? 'block truncate' : ''}>
              {line}
            </span>
          ))}
          {data.absent && <span className="ml-1.5 text-to-many">▲</span>}
          {data.folded && <span className="ml-1.5 text-small font-normal text-ink-2">+{label.hidden}</span>}
          {data.further !== null && (
            <span className="absolute top-1 right-1 bg-label pl-1">
              <Further name={label.name} count={data.further} onOpen={data.onFold} />
            </span>
          )}
        </div>
        <ul className="font-mono text-small leading-[14.5px]">
          {pointing.slice(0, name.room).map((line) => (
            <li
              key={line.text}
              className={`truncate ${line.relation !== null && line.relation === relation ? 'font-bold text-selected' : line.sort === 'points' ? 'text-to-one' : 'text-ink-2'}`}
            >
              {line.text}
            </li>
          ))}
          {pointing.length === 0 && name.room > 0 && <li className="truncate text-ink-3">{label.table}</li>}
        </ul>
      </div>
    </div>
  );
}

function Head({ label, absent, folded, further, onFold }: EntityNode['data']) {
  return (
    <div className="px-3 pt-1 pb-1">
      <div className="flex items-baseline gap-2">
        <span title={label.name} className="truncate font-serif text-[15px] leading-6 font-semibold">
          {label.name}
        </span>
        {absent && (
          <span className="text-to-many" title="Not in this database, or not all of it">
            ▲
          </span>
        )}
        {further === null ? (
          <button
            type="button"
            tabIndex={-1}
            className={`nodrag ml-auto shrink-0 text-small text-ink-2 hover:text-ink ${folded ? '' : 'opacity-0 group-hover:opacity-100'}`}
            title={folded ? 'Unfold what stands below' : 'Fold away what stands below'}
            onClick={(event) => {
              event.stopPropagation();
              onFold(label.name);
            }}
          >
            {folded ? `+${label.hidden} below` : '▾'}
          </button>
        ) : (
          <Further name={label.name} count={further} onOpen={onFold} />
        )}
      </div>
      <div className="truncate font-mono text-small leading-4 text-ink-3">{label.table}</div>
    </div>
  );
}

/** How many kin of an entity are not on the sheet; shows them. */
function Further({ name, count, onOpen }: { readonly name: string; readonly count: number; onOpen(entity: string): void }) {
  return (
    <button
      type="button"
      className="nodrag ml-auto shrink-0 font-sans text-small leading-4 font-normal text-ink-2 hover:text-ink"
      title={`Show ${count} more that ${name} is related to`}
      aria-label={`Show ${count} more kin of ${name}`}
      onClick={(event) => {
        event.stopPropagation();
        onOpen(name);
      }}
      onKeyDown={(event) => event.stopPropagation()}
    >
      +{count}
    </button>
  );
}

function Line({ line, chosen }: { readonly line: LabelLine; readonly chosen: boolean }) {
  const colour = chosen ? 'font-bold text-selected' : line.sort === 'points' ? 'text-to-one' : '';
  return (
    <li className={`flex justify-between gap-3 ${colour}`}>
      <span className="truncate">{line.text}</span>
      <span className={`truncate ${chosen ? '' : 'text-ink-3'}`}>{line.detail}</span>
    </li>
  );
}

function PivotLozenge({ data }: NodeProps<PivotNode>) {
  const zoom = use(ZoomContext);
  return (
    <div
      className={`flex h-full items-center gap-2 font-mono text-pivot ${data.faded ? 'opacity-35' : ''} ${data.selected ? 'font-bold' : ''}`}
    >
      <span className="ml-[5px] inline-block size-3.5 shrink-0 rotate-45 border border-pivot bg-label" />
      {zoom >= 0.4 && (
        <span
          title={data.table}
          className="bg-sheet pr-1 whitespace-nowrap"
          style={{ fontSize: Math.min(12 / Math.min(zoom, 1), 19) }}
        >
          {nameOnMap(data.table)}
        </span>
      )}
    </div>
  );
}

/** The trade's exclusive arc across the stems above, and the knot below it from which one stem goes on. */
function PolymorphicKnot({ data }: NodeProps<KnotNode>) {
  const zoom = use(ZoomContext);
  return (
    <div
      className={`flex h-full items-center font-mono text-polymorphic ${data.faded ? 'opacity-35' : ''} ${data.selected ? 'font-bold' : ''}`}
    >
      <svg width={28} height={26} className="shrink-0 overflow-visible" aria-hidden="true">
        <path d="M -14 -12 Q 14 -1 42 -12" className="fill-none stroke-polymorphic" strokeWidth={1.6} />
        <path d="M 14 0 V 26" className="fill-none stroke-polymorphic" strokeWidth={1.4} />
        <circle cx={14} cy={11} r={5.5} className="fill-label stroke-polymorphic" strokeWidth={1.6} />
        <circle cx={14} cy={11} r={1.8} className="fill-polymorphic" />
      </svg>
      {zoom >= 0.4 && (
        <span
          title={data.role}
          className="bg-sheet pr-1 pl-1 whitespace-nowrap"
          style={{ fontSize: Math.min(12 / Math.min(zoom, 1), 19) }}
        >
          {nameOnMap(data.role)}
        </span>
      )}
    </div>
  );
}

export const nodeTypes = { entity: EntitySlip, pivot: PivotLozenge, knot: PolymorphicKnot };
