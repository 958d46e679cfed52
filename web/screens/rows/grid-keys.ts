/** A cell of the grid. The first column is the number of the row. */
export interface CellPlace {
  readonly row: number;
  readonly column: number;
}

/**
 * The cell that a key leads to, as the grid pattern of ARIA has it: arrows by a cell, Home and End within the row, with Ctrl to
 * the first and the last row, Page Up and Page Down by what fits the screen.
 *
 * @param size how many rows and columns the grid has
 * @param page how many rows fit the screen
 * @returns null where the key moves nothing
 */
export function movedBy(key: string, control: boolean, at: CellPlace, size: CellPlace, page: number): CellPlace | null {
  const lastRow = Math.max(0, size.row - 1);
  const lastColumn = Math.max(0, size.column - 1);
  const to = (row: number, column: number): CellPlace => ({
    row: Math.max(0, Math.min(lastRow, row)),
    column: Math.max(0, Math.min(lastColumn, column)),
  });
  switch (key) {
    case 'ArrowDown':
      return to(at.row + 1, at.column);
    case 'ArrowUp':
      return to(at.row - 1, at.column);
    case 'ArrowRight':
      return to(at.row, at.column + 1);
    case 'ArrowLeft':
      return to(at.row, at.column - 1);
    case 'PageDown':
      return to(at.row + page, at.column);
    case 'PageUp':
      return to(at.row - page, at.column);
    case 'Home':
      return control ? to(0, 0) : to(at.row, 0);
    case 'End':
      return control ? to(lastRow, lastColumn) : to(at.row, lastColumn);
    default:
      return null;
  }
}
