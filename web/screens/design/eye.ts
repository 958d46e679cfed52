import { useReactFlow, useStore, useStoreApi, type Viewport } from '@xyflow/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { knotLabel, pivotLabel } from '../../../core/map/index.js';
import type { MapView } from '../../../core/view-models/index.js';
import { useCommands } from '../../app/commands.js';
import type { Selection } from '../../app/selection.js';
import { begun, centred, fitting, LEAST_WHOLE, READABLE, type Size } from './place.js';

/** Where a sheet is looked at; it outlasts the sheet, so that one comes back to the same place. */
export interface Eye {
  /** Was it moved by hand? Then it stays where it is. */
  moved: boolean;
  /** The place that was looked at last; null before the first. */
  place: Viewport | null;
}

/** How near to the edge of the pane a label may stand and still be in view. */
const EDGE = 12;

/** Where a sheet is looked at when it is drawn first: where it was left, else as it is begun. */
export function useFirstPlace(map: MapView, selection: Selection | null, eye: Eye): Viewport {
  const { width, height } = useStoreApi().getState();
  const [first] = useState(() =>
    eye.place !== null && map.kin === null ? eye.place : begun(map, { width, height }, middleOf(selection)),
  );
  return first;
}

const middleOf = (selection: Selection | null) => (selection?.kind === 'entity' ? selection.name : null);

/**
 * Keeps what a person looks at where it is when the map flows anew: the whole while nothing was moved by hand, else
 * the label that is selected or nearest to the middle. What is selected elsewhere is brought into view.
 */
export function useEye(map: MapView, selection: Selection | null, eye: Eye): void {
  const flow = useReactFlow();
  const before = useRef<MapView['layout'] | null>(null);
  const pane = useStore(
    ({ width, height }) => ({ width, height }),
    (a, b) => a.width === b.width && a.height === b.height,
  );
  const latest = useRef({ map, pane });
  latest.current = { map, pane };
  const commands = useMemo(
    () => [
      {
        id: 'fit',
        title: 'Fit the map',
        group: 'Map' as const,
        words: 'zoom whole overview reset center',
        run: () => {
          eye.moved = false;
          void flow.setViewport(fitting(latest.current.map.layout, latest.current.pane), { duration: duration() });
        },
      },
    ],
    [flow, eye],
  );
  useCommands('map', commands);
  const chosen = useRef(selection);
  chosen.current = selection;
  useEffect(() => {
    if (pane.width === 0) return;
    const old = before.current;
    before.current = map.layout;
    const middle = middleOf(chosen.current);
    if (old === map.layout) {
      // A large map that was begun somewhere stays there when a list opens beside it.
      const isWhole = fitting(map.layout, pane).zoom >= LEAST_WHOLE;
      if (!eye.moved && (isWhole || map.kin !== null)) void flow.setViewport(begun(map, pane, middle));
      return;
    }
    if (old === null && eye.place !== null && map.kin === null) {
      void flow.setViewport(eye.place);
      return;
    }
    if (old === null || !eye.moved || map.kin !== null) {
      void flow.setViewport(begun(map, pane, middle), old === null ? {} : { duration: duration() });
      return;
    }
    const viewport = flow.getViewport();
    const shift = kept(old, map.layout, viewport, pane, middle);
    if (shift === null) return;
    void flow.setViewport({ ...viewport, x: viewport.x - shift.x, y: viewport.y - shift.y }, { duration: duration() });
  }, [map, flow, pane, eye]);
  const wanted = selection === null ? null : `${selection.kind} ${selection.name}`;
  useEffect(() => {
    const { map: now, pane: size } = latest.current;
    if (wanted === null || now.kin !== null || size.width === 0) return;
    const place = broughtIntoView(now.layout, wanted, eye.place ?? flow.getViewport(), size);
    if (place !== null) void flow.setViewport(place, { duration: duration() });
  }, [wanted, flow, eye]);
}

/** How far, on the screen, the label moved that a person looks at; null where none of the labels stayed. */
function kept(
  old: MapView['layout'],
  next: MapView['layout'],
  viewport: Viewport,
  pane: Size,
  selected: string | null,
): { readonly x: number; readonly y: number } | null {
  const middle = { x: (pane.width / 2 - viewport.x) / viewport.zoom, y: (pane.height / 2 - viewport.y) / viewport.zoom };
  const away = ({ x, y, width, height }: { x: number; y: number; width: number; height: number }) =>
    Math.hypot(x + width / 2 - middle.x, y + height / 2 - middle.y);
  const now = new Map<string, (typeof next.labels)[number]>(next.labels.map((label) => [label.id, label]));
  const stayed = old.labels.filter((label) => now.has(label.id));
  const anchor: (typeof stayed)[number] | null =
    stayed.find((label) => label.id === selected) ??
    stayed.reduce<(typeof stayed)[number] | null>(
      (best, label) => (best === null || away(label) < away(best) ? label : best),
      null,
    );
  const target = anchor === null ? undefined : now.get(anchor.id);
  if (anchor === null || target === undefined) return null;
  return { x: (target.x - anchor.x) * viewport.zoom, y: (target.y - anchor.y) * viewport.zoom };
}

/** The viewport with what is selected in its middle; null where it is in view already, or on no map. */
function broughtIntoView(layout: MapView['layout'], wanted: string, viewport: Viewport, pane: Size): Viewport | null {
  const [kind = '', ...rest] = wanted.split(' ');
  const name = rest.join(' ');
  const ids =
    kind === 'entity'
      ? [name]
      : [pivotLabel(name), knotLabel(name), ...layout.stems.flatMap(({ relation, to }) => (relation === name ? [to] : []))];
  const label = ids.flatMap((id) => layout.labels.find((placed) => placed.id === id) ?? []).at(0);
  if (label === undefined) return null;
  const left = label.x * viewport.zoom + viewport.x;
  const top = label.y * viewport.zoom + viewport.y;
  const isInView =
    left >= EDGE &&
    top >= EDGE &&
    left + label.width * viewport.zoom <= pane.width - EDGE &&
    top + label.height * viewport.zoom <= pane.height - EDGE;
  return isInView ? null : centred(label, pane, Math.max(viewport.zoom, READABLE));
}

/** How long labels take to their new place, in milliseconds; none where the system asks for less motion. */
export function duration(): number {
  return matchMedia('(prefers-reduced-motion: reduce)').matches ? 0 : 200;
}
