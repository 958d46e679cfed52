import type { MapLayout } from '../../../core/map/index.js';
import type { MapView } from '../../../core/view-models/index.js';

export interface Size {
  readonly width: number;
  readonly height: number;
}

/** Where a sheet is looked at: its corner in the pane, and how large it is seen. */
export interface Place {
  readonly x: number;
  readonly y: number;
  readonly zoom: number;
}

/** A map that would be smaller than this when it is seen whole is begun at a size that can be read. */
export const LEAST_WHOLE = 0.3;
/** Close kin are never smaller than this; what has no room then is moved to. */
const LEAST_KIN = 0.5;
export const READABLE = 0.55;

/**
 * The place to begin with: the whole map, or of a large one the upper middle; of close kin all, or their middle.
 * @param middle the label that is selected; null for none
 */
export function begun({ layout, kin }: Pick<MapView, 'layout' | 'kin'>, pane: Size, middle: string | null): Place {
  const whole = fitting(layout, pane);
  if (whole.zoom >= (kin === null ? LEAST_WHOLE : LEAST_KIN)) return whole;
  if (kin === null) return { x: pane.width / 2 - (layout.width / 2) * READABLE, y: 6, zoom: READABLE };
  const label = layout.labels.find(({ id }) => id === middle);
  if (label === undefined) return { ...whole, zoom: LEAST_KIN };
  return centred(label, pane, LEAST_KIN);
}

/** The place in which a label stands in the middle of the pane. */
export function centred(label: { readonly x: number; readonly y: number } & Size, pane: Size, zoom: number): Place {
  return {
    x: pane.width / 2 - (label.x + label.width / 2) * zoom,
    y: pane.height / 2 - (label.y + label.height / 2) * zoom,
    zoom,
  };
}

/** The place that shows the whole map; the names of the generations stand at the left of the labels. */
export function fitting(layout: Pick<MapLayout, 'width' | 'height'>, pane: Size): Place {
  const [left, top] = [44, 6];
  const zoom = Math.min(1, (pane.width - left) / layout.width, (pane.height - 2 * top) / layout.height);
  return {
    x: left + Math.max(0, (pane.width - left - layout.width * zoom) / 2),
    y: top + Math.max(0, (pane.height - 2 * top - layout.height * zoom) / 2),
    zoom,
  };
}

/** How large labels are drawn: in steps, so that they change with what is seen and not with every turn of the wheel. */
export function steppedZoom(zoom: number): number {
  return zoom > 1 ? Math.round(zoom * 5) / 5 : Math.round(zoom * 20) / 20;
}
