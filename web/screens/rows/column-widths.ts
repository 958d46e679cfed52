import { useState } from 'react';
import * as v from 'valibot';
import { preferences } from '../../app/preferences.js';
import type { GridColumn } from './columns.js';

const NARROWEST = 48;
const Widths = v.record(v.string(), v.number());

/** How wide the columns of an entity are, in pixels: as a person drew them, remembered for each entity, else as they are by nature. */
export function useColumnWidths(entity: string): {
  readonly widths: Readonly<Record<string, number>>;
  resize(column: string, pixels: number): void;
} {
  const name = `column widths ${entity}`;
  const [widths, setWidths] = useState(() => widthsIn(preferences.getItem(name)));
  return {
    widths,
    resize: (column, pixels) => {
      const next = { ...widths, [column]: Math.max(NARROWEST, Math.round(pixels)) };
      setWidths(next);
      preferences.setItem(name, JSON.stringify(next));
    },
  };
}

function widthsIn(kept: string | null): Readonly<Record<string, number>> {
  try {
    return v.parse(Widths, JSON.parse(kept ?? '{}'));
  } catch {
    return {};
  }
}

/** The width of a column, in pixels. */
export function widthIn(widths: Readonly<Record<string, number>>, column: GridColumn): number {
  return widths[column.id] ?? column.width;
}
