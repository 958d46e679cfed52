import { ReactFlowProvider } from '@xyflow/react';
import { useCallback, useLayoutEffect, useMemo, useRef, useState } from 'react';
import type { DesignView } from '../../../core/view-models/index.js';
import { useCommands } from '../../app/commands.js';
import { preferences } from '../../app/preferences.js';
import type { Selection } from '../../app/selection.js';
import type { Eye } from './eye.js';
import { found } from './kin.js';
import { KinStrip } from './kin-strip.js';
import { EntityList } from './list.js';
import type { MapNotes } from './map-notes.js';
import type { Size } from './place.js';
import { Sheet } from './sheet.js';
import { MapTools } from './tools.js';
import { useMap } from './use-map.js';

interface MapProps {
  readonly view: DesignView;
  readonly selection: Selection | null;
  /** What is shown beside the design; null for nothing. */
  readonly notes: MapNotes | null;
  onSelect(selection: Selection | null): void;
  onRelate(): void;
  onAddEntity(): void;
}

/** The map of the entities with its tools, or the list of them in words. */
export function MapSheet(props: MapProps) {
  const { map, options, kin, setLines, fold, open, showKin } = useMap(props.selection);
  const [listed, setListed] = useState(preferences.getItem('map list') === 'yes');
  const [wish, setWish] = useState('');
  const eyes = useRef({ whole: { moved: false, place: null } as Eye, kin: { moved: false, place: null } as Eye });
  const list = useCallback((shown: boolean) => {
    preferences.setItem('map list', shown ? 'yes' : 'no');
    setListed(shown);
  }, []);
  const pane = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<Size | null>(null);
  // Labels are drawn for the size at which they are seen, and not once more when that is known.
  useLayoutEffect(() => {
    if (pane.current !== null) setSize({ width: pane.current.clientWidth, height: pane.current.clientHeight });
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
      ...(props.selection === null
        ? []
        : [
            {
              id: 'close kin',
              title: kin === null ? 'Show close kin alone' : 'Show the whole map',
              group: 'Map' as const,
              words: 'neighbourhood related focus isolate zoom',
              keys: 'K',
              run: () => showKin(kin === null),
            },
          ]),
    ],
    [listed, list, setLines, props.selection, kin, showKin],
  );
  useCommands('map tools', commands);
  const openOne = useCallback((entity: string) => open([entity]), [open]);
  return (
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
        kinShown={kin !== null}
        onKin={showKin}
        onSelect={props.onSelect}
        onRelate={props.onRelate}
        onAddEntity={props.onAddEntity}
      />
      <div className="flex min-h-0">
        {listed && <EntityList view={props.view} selection={props.selection} wish={wish} onSelect={props.onSelect} />}
        <div className="grid min-w-0 flex-1 grid-rows-[auto_minmax(0,1fr)]">
          {props.notes !== null ? (
            props.notes.bar
          ) : map !== null && map.kin !== null && kin !== null ? (
            <KinStrip centres={kin.centres} further={map.kin.further} onOpen={open} onWhole={() => showKin(false)} />
          ) : (
            <span />
          )}
          <div ref={pane} className="relative min-w-0">
            {map === null ? (
              <p className="p-6 text-ink-2">Drawing the map…</p>
            ) : map.labels.length === 0 ? (
              <Empty />
            ) : size === null ? null : (
              <ReactFlowProvider initialWidth={size.width} initialHeight={size.height}>
                <Sheet
                  key={map.kin === null ? 'whole' : 'kin'}
                  view={props.view}
                  selection={props.selection}
                  onSelect={props.onSelect}
                  map={map}
                  folded={options.folded}
                  wish={wish}
                  eye={map.kin === null ? eyes.current.whole : eyes.current.kin}
                  notes={props.notes}
                  onFold={fold}
                  onOpen={openOne}
                />
              </ReactFlowProvider>
            )}
          </div>
        </div>
      </div>
    </div>
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
