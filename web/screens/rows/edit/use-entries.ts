import { useCallback, useEffect, useState } from 'react';
import type { ChangedCell, ChangedCells } from './entries.js';
import { withCell } from './entries.js';

/** The cells of an entity's rows that were changed and are not written yet. */
export interface Entries {
  readonly cells: ChangedCells;
  readonly canUndo: boolean;
  /** Changes cells, all as one step; null puts one back to what is stored. */
  change(steps: readonly CellStep[]): void;
  /** Takes the last step back. */
  undo(): void;
  clear(): void;
}

export interface CellStep {
  readonly key: string;
  readonly column: string;
  readonly cell: ChangedCell | null;
}

const NONE: ChangedCells = {};

/** Keeps what was changed through a reload of the page, and each step of it, so that it can be taken back. */
export function useEntries(tree: string, entity: string): Entries {
  const name = `entries ${tree} ${entity}`;
  const [steps, setSteps] = useState<readonly ChangedCells[]>(() => [keptIn(name)]);
  const cells = steps.at(-1) ?? NONE;
  useEffect(() => {
    if (cells === NONE || Object.keys(cells).length === 0) sessionStorage.removeItem(name);
    else sessionStorage.setItem(name, JSON.stringify(cells));
  }, [name, cells]);
  const change = useCallback((made: readonly CellStep[]) => {
    setSteps((before) => {
      const next = made.reduce((all, { key, column, cell }) => withCell(all, key, column, cell), before.at(-1) ?? NONE);
      return [...before, next];
    });
  }, []);
  return {
    cells,
    canUndo: steps.length > 1,
    change,
    undo: useCallback(() => setSteps((before) => (before.length > 1 ? before.slice(0, -1) : before)), []),
    clear: useCallback(() => setSteps([NONE]), []),
  };
}

/** What was left in this browser's tab; it was put there by this page alone. */
function keptIn(name: string): ChangedCells {
  const kept = sessionStorage.getItem(name);
  return kept === null ? NONE : (JSON.parse(kept) as ChangedCells);
}
