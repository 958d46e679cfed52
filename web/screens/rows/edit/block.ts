import Papa from 'papaparse';

/** A block of cells between two corners. */
export interface Block {
  readonly top: number;
  readonly bottom: number;
  readonly left: number;
  readonly right: number;
}

/** The block between two cells, whichever is where. */
export function blockBetween(
  one: { readonly row: number; readonly column: number },
  other: { readonly row: number; readonly column: number },
): Block {
  return {
    top: Math.min(one.row, other.row),
    bottom: Math.max(one.row, other.row),
    left: Math.min(one.column, other.column),
    right: Math.max(one.column, other.column),
  };
}

const TABS = { delimiter: '\t' };

/** Cells as a spreadsheet takes them: tabs between, a line each. */
export function blockText(cells: readonly (readonly string[])[]): string {
  return Papa.unparse(
    cells.map((line) => [...line]),
    { ...TABS, newline: '\n' },
  );
}

/** The cells of what a spreadsheet gives, line by line. */
export function cellsOf(text: string): readonly (readonly string[])[] {
  // What ends the last line begins no other.
  return Papa.parse<string[]>(text.replace(/\r?\n$/, ''), TABS).data;
}
